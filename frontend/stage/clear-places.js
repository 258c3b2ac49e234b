// Where what is written stands clear of the parts and of what else is written.

const WAYS = [[0, -1], [0, 1], [1, 0], [-1, 0], [0.7, -0.7], [-0.7, -0.7], [0.7, 0.7], [-0.7, 0.7]];
const STEPS = 7; // each way
const FREE = 0.02; // a share of a box that may lie on a part
const NO_PLACE = Infinity;

export function isClear(one, other) {
  return 2 * Math.abs(one.x - other.x) >= one.width + other.width || 2 * Math.abs(one.y - other.y) >= one.height + other.height;
}

// The nearest offset { x, y } by which a box (by its middle, in pixels) is clear of others and of the
// parts, and within the frame; where there is none, that of the least covered. `share` tells what
// share of a box parts cover.
export function clearOffset(box, taken, share, frame) {
  let best = { x: 0, y: 0 };
  let least = NO_PLACE;
  for (const offset of offsets(box.height)) {
    const there = { ...box, x: box.x + offset.x, y: box.y + offset.y };
    if (!isWithin(there, frame) || !taken.every((other) => isClear(other, there))) continue;
    const covered = share(there);
    if (covered <= FREE) return offset;
    if (covered < least - 0.25) [best, least] = [offset, covered]; // to go farther must pay
  }
  return best;
}

function* offsets(step) {
  yield { x: 0, y: 0 };
  for (let far = 1; far <= STEPS; far++) for (const [x, y] of WAYS) yield { x: 1.2 * x * far * step, y: y * far * step };
}

function isWithin({ x, y, width, height }, { left, top, right, bottom }) {
  return x - width / 2 >= left && x + width / 2 <= right && y - height / 2 >= top && y + height / 2 <= bottom;
}
