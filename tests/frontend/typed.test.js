// Figures typed beside the picture: what is not wholly a figure in the unit that is shown is refused.
import assert from "node:assert/strict";
import { test } from "node:test";

import { figureTyped } from "../../frontend/typed.js";

test("a figure is read with and without the unit that is shown", () => {
  for (const [text, unit, value] of [["2", "m", 2], [" 3.5 m ", "m", 3.5], ["-0.25", "m", -0.25], ["−30°", "°", -30], ["1e3", "mm", 1000]]) assert.equal(figureTyped(text, unit), value);
});

test("another unit, a formula or nothing is no figure", () => {
  for (const text of ["2000 mm", "2 x", "2 + 3", "1 200", "", " ", "m"]) assert.ok(Number.isNaN(figureTyped(text, "m")), text);
});
