// The plot: its ticks, and the frontier of two aims.
import assert from "node:assert/strict";
import { test } from "node:test";

import { frontier } from "../../frontend/variations/frontier.js";
import { ticksBetween } from "../../frontend/variations/ticks.js";

test("ticks are round and hold all values", () => {
  assert.deepEqual(ticksBetween([62, 260], 5), [50, 100, 150, 200, 250, 300]);
  assert.deepEqual(ticksBetween([0.2, 0.9], 4), [0.2, 0.4, 0.6, 0.8, 1]);
  assert.deepEqual(ticksBetween([-1, 1], 4), [-1, -0.5, 0, 0.5, 1]);
  for (let at = 0; at < 200; at++) {
    const values = [Math.sin(at) * 10 ** (at % 7), Math.cos(3 * at) * 10 ** (at % 5)];
    const ticks = ticksBetween(values, 6);
    assert.ok(ticks[0] <= Math.min(...values) + 1e-9 * Math.abs(values[0]) && ticks.at(-1) >= Math.max(...values) - 1e-9 * Math.abs(values[0]));
    assert.ok(ticks.length >= 2 && ticks.length <= 12);
  }
});

test("ticks around one value stand on either side of it", () => {
  const ticks = ticksBetween([5, 5], 4);
  assert.ok(ticks[0] < 5 && ticks.at(-1) > 5);
});

test("on the frontier stand the trials that hold and of which none is better in both", () => {
  const dots = Array.from({ length: 300 }, (_, at) => ({ number: at, x: Math.abs(Math.sin(at * 12.9898) * 43758.5453 % 1), y: Math.abs(Math.sin(at * 78.233) * 12345.678 % 1), fails: at % 9 === 0 }));
  for (const [aimX, aimY] of [["less", "less"], ["less", "more"], ["more", "less"], ["more", "more"]]) {
    const better = (one, other) => (aimX === "less" ? one.x <= other.x : one.x >= other.x) && (aimY === "less" ? one.y <= other.y : one.y >= other.y) && one !== other;
    const held = dots.filter((dot) => !dot.fails);
    const want = held.filter((dot) => !held.some((other) => better(other, dot)));
    assert.deepEqual(frontier(dots, aimX, aimY).map((dot) => dot.number).sort(), want.map((dot) => dot.number).sort());
  }
});
