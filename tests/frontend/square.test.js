// Right angles and parallels while drawing.
import assert from "node:assert/strict";
import { test } from "node:test";

import { keptSquare } from "../../frontend/workspace/square.js";

const onStep = (length) => Math.round(length);
const near = (found, wanted) => found.every((one, at) => Math.abs(one - wanted[at]) < 1e-9);

test("one corner knows the axes alone, on a round step", () => {
  assert.deepEqual(keptSquare([[10, 20]], [50.3, 24], onStep), { at: [50, 20], beside: undefined, square: undefined });
  assert.deepEqual(keptSquare([[10, 20]], [12, -31.7], onStep).at, [10, -32]);
});

test("what is drawn level or upright adds no other way", () => {
  assert.equal(keptSquare([[0, 0], [40, 0]], [70, 50], onStep).beside, undefined);
});

test("square and parallel to an oblique piece, either way along it", () => {
  const corners = [[0, 0], [40, 30]]; // a 3-4-5 triangle
  for (const sign of [1, -1]) {
    const square = keptSquare(corners, [40 - sign * 6.1, 30 + sign * 7.9], onStep);
    assert.ok(square.square && square.beside === 1 && near(square.at, [40 - sign * 6, 30 + sign * 8]), `${square.at}`);
    const along = keptSquare([...corners, [40, 80]], [40 + sign * 8.2, 80 + sign * 5.9], onStep);
    assert.ok(!along.square && along.beside === 1 && near(along.at, [40 + sign * 8, 80 + sign * 6]), `${along.at}`);
  }
});
