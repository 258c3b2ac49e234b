// Round lengths in the unit of a study.
import assert from "node:assert/strict";
import { test } from "node:test";

import { roundLength } from "../../frontend/stage/round-lengths.js";

const SIZES = { mm: 1, cm: 10, m: 1000, km: 1e6, in: 25.4, ft: 304.8, yd: 914.4 };
const unit = (symbol) => ({ symbol, size: SIZES[symbol] });

test("a length is round in the unit of the study", () => {
  const said = (least, symbol) => roundLength(least, unit(symbol)).said;
  assert.equal(said(37, "mm"), "50 mm");
  assert.equal(said(1200, "mm"), "2 m");
  assert.equal(said(37, "cm"), "5 cm");
  assert.equal(said(37, "m"), "0.05 m");
  assert.equal(said(37, "in"), "2 in");
  assert.equal(said(70, "in"), "3 in");
  assert.equal(said(5, "in"), "1/4 in");
  assert.equal(said(200, "in"), "1 ft");
  assert.equal(said(4000, "ft"), "20 ft");
  assert.equal(said(1500, "yd"), "2 yd");
});

test("it is never less than asked for, and not ten times as much", () => {
  for (const symbol of Object.keys(SIZES)) {
    for (let least = 0.4; least < 1e6; least *= 1.37) {
      const { mm } = roundLength(least, unit(symbol));
      assert.ok(mm >= least * (1 - 1e-9), `${mm} of ${least} in ${symbol}`);
      assert.ok(mm < 10 * least || symbol === "in" || symbol === "ft");
    }
  }
});

test("what is round stays as it is", () => {
  for (const [mm, symbol] of [[50, "mm"], [200, "cm"], [25.4, "in"], [304.8, "ft"], [914.4, "yd"]]) {
    assert.ok(Math.abs(roundLength(mm, unit(symbol)).mm - mm) < 1e-9);
  }
});
