// What is written beside the parts: clear of them and of what else is written, as near as can be.
import assert from "node:assert/strict";
import { test } from "node:test";

import { clearOffset, isClear } from "../../frontend/stage/clear-places.js";
import { shareOfCells } from "../../frontend/stage/cells.js";

const FRAME = { left: 0, top: 0, right: 600, bottom: 400 };
const box = (x, y) => ({ x, y, width: 60, height: 20 });
const nothing = () => 0;

// What share of a box lies within a rectangle.
const within = (left, top, right, bottom) => ({ x, y, width, height }) => {
  const wide = Math.min(x + width / 2, right) - Math.max(x - width / 2, left);
  const high = Math.min(y + height / 2, bottom) - Math.max(y - height / 2, top);
  return wide > 0 && high > 0 ? (wide * high) / (width * height) : 0;
};

test("what stands clear stays", () => {
  assert.deepEqual(clearOffset(box(300, 200), [], nothing, FRAME), { x: 0, y: 0 });
});

test("it leaves a part by the nearest way, and others are not covered", () => {
  const plate = within(200, 180, 400, 300);
  const first = clearOffset(box(300, 190), [], plate, FRAME);
  assert.deepEqual(first, { x: 0, y: -20 });
  const taken = [{ ...box(300, 170) }];
  const second = clearOffset(box(300, 190), taken, plate, FRAME);
  const there = { ...box(300 + second.x, 190 + second.y) };
  assert.ok(isClear(there, taken[0]) && plate(there) === 0);
});

test("it never leaves the frame, and stays where nothing is clear", () => {
  assert.deepEqual(clearOffset(box(300, 200), [], () => 1, FRAME), { x: 0, y: 0 });
  for (const [x, y] of [[5, 200], [300, 3], [598, 397]]) {
    const off = clearOffset(box(x, y), [], nothing, FRAME);
    const there = box(x + off.x, y + off.y);
    assert.ok(there.x >= 30 && there.x <= 570 && there.y >= 10 && there.y <= 390, `${x}, ${y}`);
  }
});

test("of places that are all covered the least covered is taken, where going there pays", () => {
  const all = ({ y }) => (y < 200 ? 0.3 : 0.9);
  assert.ok(clearOffset(box(300, 210), [], all, FRAME).y < 0);
  assert.deepEqual(clearOffset(box(300, 210), [], ({ y }) => (y < 200 ? 0.8 : 0.9), FRAME), { x: 0, y: 0 });
});

test("cells are read from below, four bytes each", () => {
  const cells = new Uint8Array(4 * 4 * 2); // 4 wide, 2 high
  cells[0] = 255; // the lowest on the left
  const share = shareOfCells(cells, 4, 2, 10);
  assert.equal(share({ x: 5, y: 15, width: 8, height: 8 }), 1);
  assert.equal(share({ x: 5, y: 5, width: 8, height: 8 }), 0);
  assert.equal(share({ x: 10, y: 15, width: 18, height: 8 }), 0.5);
});
