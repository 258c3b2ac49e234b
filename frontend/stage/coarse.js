// A shape as it looks from afar: what lies within one cell of a grid is drawn at one place, and triangles and edges of
// which nothing is left are not drawn. For pictures while things move, where a triangle costs time; nothing is picked or
// measured on it. It is made while a hand moves, so it makes no objects for its corners.

const FINER = [1, 0.5, 0.25]; // of the cells that are asked for
const LEAST = 4; // cells across a shape, along each axis
const KEPT = 0.9; // of its surface, of what it encloses and of its edges are left of a shape, or it is drawn finer

const SIDES = 5; // parts of the range of each component of a normal: bends of that much stay sharp
const HALF_OCTAVE = Math.SQRT2;

// A size a little smaller, of few: what is made for it lasts while one zooms.
/** @param {number} size @returns {number} */
export function stepOf(size) {
  return HALF_OCTAVE ** Math.floor(Math.log(size) / Math.log(HALF_OCTAVE));
}

// A shape in cells of this size, or of smaller ones where much of it would be lost: what is thin, and holes that are small,
// would vanish. Null where it is best drawn as it is.
/**
 * @param {Parameters<typeof coarser>[0]} shape
 * @param {number[]} cell
 */
export function fromAfar(shape, cell) {
  const whole = amount(shape);
  const most = extent(shape.positions).map((one) => (one || Infinity) / LEAST);
  for (const share of FINER) {
    const found = coarser(shape, cell.map((one, axis) => share * Math.min(one, most[axis])));
    if (amount(found).every((left, at) => Math.abs(left) >= KEPT * Math.abs(whole[at]))) return found;
  }
  return null;
}

function extent(positions) {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let at = 0; at < positions.length; at += 3) {
    for (let axis = 0; axis < 3; axis++) {
      const one = positions[at + axis];
      if (one < low[axis]) low[axis] = one;
      if (one > high[axis]) high[axis] = one;
    }
  }
  return high.map((one, axis) => one - low[axis]);
}

// How much surface, how much within it (by the divergence theorem; less than nothing inside out), twice and six times, and how long edges there are.
function amount({ positions: at, triangles, edges }) {
  let surface = 0;
  let within = 0;
  for (let of = 0; of < triangles.length; of += 3) {
    const a = 3 * triangles[of];
    const b = 3 * triangles[of + 1];
    const c = 3 * triangles[of + 2];
    const x = at[b] - at[a];
    const y = at[b + 1] - at[a + 1];
    const z = at[b + 2] - at[a + 2];
    const u = at[c] - at[a];
    const v = at[c + 1] - at[a + 1];
    const w = at[c + 2] - at[a + 2];
    const p = y * w - z * v;
    const q = z * u - x * w;
    const r = x * v - y * u;
    surface += Math.sqrt(p * p + q * q + r * r);
    within += at[a] * p + at[a + 1] * q + at[a + 2] * r;
  }
  let along = 0;
  for (let of = 0; of < edges.length; of += 6) {
    const x = edges[of + 3] - edges[of];
    const y = edges[of + 4] - edges[of + 1];
    const z = edges[of + 5] - edges[of + 2];
    along += Math.sqrt(x * x + y * y + z * z);
  }
  return [surface, within, along];
}

/**
 * `cell` is the size of a cell along each axis, in the coordinates of the shape.
 * @param {{ positions: Float32Array, normals: Float32Array, triangles: Uint32Array, edges: Float32Array }} shape
 * @param {number[]} cell
 */
export function coarser({ positions, normals, triangles, edges }, cell) {
  const every = positions.length / 3;
  const places = new Float32Array(positions.length + edges.length);
  places.set(positions);
  places.set(edges, positions.length);
  const [at, first] = gathered(places, cell);
  const [corner, kept] = parted(at.subarray(0, every), normals);
  const left = new Uint32Array(triangles.length);
  let count = 0;
  for (let of = 0; of < triangles.length; of += 3) {
    const a = triangles[of];
    const b = triangles[of + 1];
    const c = triangles[of + 2];
    if (at[a] === at[b] || at[b] === at[c] || at[c] === at[a]) continue;
    left[count++] = corner[a];
    left[count++] = corner[b];
    left[count++] = corner[c];
  }
  const ends = [];
  for (let of = every; of < at.length; of += 2) if (at[of] !== at[of + 1]) ends.push(first[at[of]], first[at[of + 1]]);
  return {
    positions: rows(places, kept.map((one) => first[at[one]])),
    normals: rows(normals, kept),
    triangles: left.slice(0, count),
    edges: rows(places, ends),
  };
}

// Of each place the number of its cell, and of each cell the first place in it.
function gathered(places, cell) {
  const cells = new Int32Array(places.length);
  for (let at = 0; at < places.length; at++) cells[at] = Math.round(places[at] / cell[at % 3]);
  return numbered(3, cells);
}

// The corners of a cell where the surface looks the same way are one: its number for each, and the first of each.
function parted(cells, normals) {
  const looks = new Int32Array(2 * cells.length);
  for (let one = 0; one < cells.length; one++) {
    looks[2 * one] = cells[one];
    looks[2 * one + 1] = part(normals[3 * one]) + SIDES * (part(normals[3 * one + 1]) + SIDES * part(normals[3 * one + 2]));
  }
  return numbered(2, looks);
}

function part(component) {
  return Math.round(((component + 1) / 2) * (SIDES - 1));
}

// Numbers rows of `width` whole numbers, equal ones alike: the number of each, and of each number the first row. (A hash
// table with open addresses; the factors mix neighbouring cells well: Knuth, The Art of Computer Programming 3, 6.4.)
function numbered(width, given) {
  const all = given.length / width;
  const size = 2 ** Math.ceil(Math.log2(2 * all + 2));
  const table = new Int32Array(size).fill(-1);
  const numbers = new Uint32Array(all);
  const first = new Uint32Array(all);
  let count = 0;
  for (let row = 0; row < all; row++) {
    let hash = 0;
    for (let of = 0; of < width; of++) hash = Math.imul(hash ^ given[width * row + of], 0x9e3779b1) ^ (hash >>> 15);
    let slot = (hash ^ (hash >>> 16)) & (size - 1);
    while (table[slot] >= 0 && !same(given, width, first[table[slot]], row)) slot = (slot + 1) & (size - 1);
    if (table[slot] < 0) {
      first[count] = row;
      table[slot] = count++;
    }
    numbers[row] = table[slot];
  }
  return [numbers, first.slice(0, count)];
}

function same(given, width, a, b) {
  for (let of = 0; of < width; of++) if (given[width * a + of] !== given[width * b + of]) return false;
  return true;
}

function rows(all, some) {
  const found = new Float32Array(3 * some.length);
  for (let one = 0; one < some.length; one++) {
    for (let axis = 0; axis < 3; axis++) found[3 * one + axis] = all[3 * some[one] + axis];
  }
  return found;
}
