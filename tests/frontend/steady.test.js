// Lists that are shown again and again.
import assert from "node:assert/strict";
import { test } from "node:test";

import { grouped } from "../../frontend/grouped.js";
import { Steady } from "../../frontend/steady.js";

const rows = (...said) => said.map(([key, value]) => ({ key, value }));
const keyOf = (row) => row.key;

test("what has not changed stays the same object", () => {
  const steady = new Steady();
  const first = steady.take("rows", rows([1, "a"], [2, "b"], [3, "c"]), keyOf);
  const second = steady.take("rows", rows([1, "a"], [2, "B"], [3, "c"]), keyOf);
  assert.deepEqual([second[0] === first[0], second[1] === first[1], second[2] === first[2]], [true, false, true]);
  assert.deepEqual(second.map((row) => row.value), ["a", "B", "c"]);
});

test("nothing new is nothing; another order, one more and one less are something", () => {
  const steady = new Steady();
  steady.take("rows", rows([1, "a"], [2, "b"], [3, "c"]), keyOf);
  assert.equal(steady.take("rows", rows([1, "a"], [2, "b"], [3, "c"]), keyOf), null);
  assert.deepEqual(steady.take("rows", rows([2, "b"], [1, "a"], [3, "c"]), keyOf).map(keyOf), [2, 1, 3]);
  assert.deepEqual(steady.take("rows", rows([2, "b"], [1, "a"]), keyOf).map(keyOf), [2, 1]);
  assert.deepEqual(steady.take("rows", rows([2, "b"], [1, "a"], [4, "d"]), keyOf).map(keyOf), [2, 1, 4]);
  assert.equal(steady.take("others", [], keyOf)?.length, 0);
  assert.equal(steady.take("others", [], keyOf), null);
});

test("items are grouped in their order", () => {
  const groups = grouped([3, 1, 4, 1, 5, 9, 2, 6], (figure) => figure % 2);
  assert.deepEqual([...groups], [[1, [3, 1, 1, 5, 9]], [0, [4, 2, 6]]]);
  assert.equal(grouped([], keyOf).size, 0);
});
