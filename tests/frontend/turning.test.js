// The rule by which a figure is turned, without a page.
import assert from "node:assert/strict";
import { test } from "node:test";

import { scaleOf, steppedTo, written } from "../../frontend/faceplate/turning.js";

const going = { value: 240, size: 1, low: 200, high: 320, step: 5 };

test("limits and step are those of the input", () => {
  assert.deepEqual(scaleOf(going), { from: 200, to: 320, base: 200, step: 5, size: 1 });
});

test("a value beyond its limits is still on the rule", () => {
  assert.equal(scaleOf({ ...going, value: 400 }).to, 400);
  assert.equal(scaleOf({ ...going, value: 100 }).from, 100);
});

test("without limits it reaches to twice the value, by round steps", () => {
  assert.deepEqual(scaleOf({ value: 300, size: 1, low: null, high: null, step: null }), { from: 0, to: 600, base: 0, step: 1, size: 1 });
  assert.equal(scaleOf({ value: -300, size: 1, low: null, high: null, step: null }).from, -600);
});

test("every place within its reach is a step from the lower limit, and within the limits", () => {
  const scale = scaleOf({ ...going, low: 203 });
  for (let value = 150; value < 400; value += 0.37) {
    const stepped = steppedTo(value, scale);
    assert.ok(stepped >= 203 && stepped <= 320);
    assert.ok(Math.abs(((stepped - 203) / 5) % 1) < 1e-9, `${stepped}`);
    assert.equal(steppedTo(stepped, scale), stepped, "a step stays where it is");
  }
});

test("pulled past a limit it stops on its step", () => {
  const scale = scaleOf({ ...going, low: 203 });
  assert.equal(steppedTo(1e9, scale), 318);
  assert.equal(steppedTo(-1e9, scale), 203);
  assert.equal(steppedTo(1e9, scaleOf(going)), 320);
  assert.equal(steppedTo(12.3, { from: -Infinity, to: Infinity, base: 0, step: 0.5, size: 1 }), 12.5);
});

test("decimal steps leave no noise behind", () => {
  const scale = { from: 0, to: 1, base: 0, step: 0.1, size: 1 };
  assert.deepEqual([0.1, 0.2, 0.3, 0.7].map((value) => steppedTo(value + 0.01, scale)), [0.1, 0.2, 0.3, 0.7]);
});

const DEGREE = Math.PI / 180;
const INCH = 25.4;

for (const [unit, size] of [["°", DEGREE], ["in", INCH], ["ft", 12 * INCH], ["m", 1000], ["turn", 360 * DEGREE], ["%", 0.01]]) {
  test(`in ${unit} every step is a round figure, and the last is the limit itself`, () => {
    const [low, high, step] = [20, 65, 0.1].map((figure) => figure * size);
    const scale = scaleOf({ value: 52 * size, size, low, high, step });
    for (let at = 0; at <= 450; at++) {
      const figure = steppedTo(low + (at + 0.3) * step, scale) / size;
      assert.ok(Math.abs(figure - (200 + at) / 10) < 1e-13 * 65, `${figure}`);
      assert.equal(Number(figure.toPrecision(14)), (200 + at) / 10);
    }
    assert.ok(Math.abs(steppedTo(1e9, scale) - high) <= 1e-15 * high);
  });

  test(`in ${unit} one without a step goes by a round figure`, () => {
    const { step } = scaleOf({ value: 45 * size, size, low: null, high: null, step: null });
    assert.equal(Number((step / size).toPrecision(12)), 0.1);
  });
}

test("a figure has as many places as its step", () => {
  assert.equal(written(240, 5, 1), "240");
  assert.equal(written(0.25, 0.05, 1), "0.25");
  assert.equal(written(2400, 5, 1000), "2.400");
});
