// Right angles and parallels while drawing.

// Of a place behind some corners (each [across, up]): the nearest on a line through the last of them, along an
// axis, or parallel or square to a piece that is drawn; so far along it as `onStep` says. `beside` is the number
// of the corner to which that piece leads, where it is no axis.
export function keptSquare(corners, to, onStep) {
  const last = corners.at(-1);
  const [x, y] = [to[0] - last[0], to[1] - last[1]];
  let best = null;
  for (const way of waysFrom(corners)) {
    const along = x * way.x + y * way.y;
    if (!best || Math.abs(along) > Math.abs(best.along) + 1e-9) best = { ...way, along };
  }
  const far = onStep(best.along);
  const { beside, square } = best;
  return { at: [Number((last[0] + far * best.x).toPrecision(12)), Number((last[1] + far * best.y).toPrecision(12))], beside, square };
}

// The axes first: of directions that are equally near the simplest is taken.
function* waysFrom(corners) {
  yield { x: 1, y: 0 };
  yield { x: 0, y: 1 };
  for (let beside = 1; beside < corners.length; beside++) {
    const [x, y] = [corners[beside][0] - corners[beside - 1][0], corners[beside][1] - corners[beside - 1][1]];
    const length = Math.hypot(x, y);
    if (length < 1e-9 || Math.abs(x) < 1e-9 * length || Math.abs(y) < 1e-9 * length) continue;
    yield { x: x / length, y: y / length, beside, square: false };
    yield { x: -y / length, y: x / length, beside, square: true };
  }
}
