// What is drawn of a shape while things move.
import assert from "node:assert/strict";
import { test } from "node:test";

import { coarser, fromAfar, stepOf } from "../../frontend/stage/coarse.js";

// A sphere of triangles between meridians and parallels, with its equator as an edge.
function sphere(radius, parts) {
  const [positions, normals, triangles, edges] = [[], [], [], []];
  const at = (i, j) => {
    const [a, b] = [(Math.PI * i) / parts, (2 * Math.PI * (j % (2 * parts))) / (2 * parts)];
    return [Math.sin(a) * Math.cos(b), Math.sin(a) * Math.sin(b), Math.cos(a)];
  };
  for (let i = 0; i <= parts; i++) {
    for (let j = 0; j < 2 * parts; j++) {
      normals.push(...at(i, j));
      positions.push(...at(i, j).map((one) => radius * one));
      const [p, q] = [2 * parts * i + j, 2 * parts * i + ((j + 1) % (2 * parts))];
      if (i < parts) triangles.push(p, p + 2 * parts, q, q, p + 2 * parts, q + 2 * parts);
    }
  }
  for (let j = 0; j < 2 * parts; j++) edges.push(...at(parts / 2, j).map((one) => radius * one), ...at(parts / 2, j + 1).map((one) => radius * one));
  return { positions: new Float32Array(positions), normals: new Float32Array(normals), triangles: new Uint32Array(triangles), edges: new Float32Array(edges) };
}

const corner = ({ positions }, at) => [...positions.subarray(3 * at, 3 * at + 3)];

// By the divergence theorem: the sum of a · (b x c) / 6.
function volume(shape) {
  let sum = 0;
  for (let of = 0; of < shape.triangles.length; of += 3) {
    const [[a, b, c], [d, e, f], [g, h, i]] = [0, 1, 2].map((at) => corner(shape, shape.triangles[of + at]));
    sum += a * (e * i - f * h) + b * (f * g - d * i) + c * (d * h - e * g);
  }
  return sum / 6;
}

// The steps from place to place along all triangles, less those back: none are left of a closed surface.
function open(shape) {
  const steps = new Map();
  for (let of = 0; of < shape.triangles.length; of += 3) {
    const names = [0, 1, 2].map((at) => corner(shape, shape.triangles[of + at]).join());
    for (const [from, to] of [[0, 1], [1, 2], [2, 0]]) {
      const [forth, back] = [`${names[from]}>${names[to]}`, `${names[to]}>${names[from]}`];
      if (steps.get(back)) steps.set(back, steps.get(back) - 1);
      else steps.set(forth, (steps.get(forth) ?? 0) + 1);
    }
  }
  return [...steps.values()].reduce((sum, one) => sum + one, 0);
}

test("a round shape keeps its size and stays closed with a small part of its triangles", () => {
  const whole = sphere(100, 90);
  const true_ = (4 / 3) * Math.PI * 100 ** 3;
  for (const [cell, share, within] of [[5, 0.5, 0.01], [10, 0.15, 0.03]]) {
    const coarse = coarser(whole, [cell, cell, cell]);
    assert.ok(coarse.triangles.length < share * whole.triangles.length, `${coarse.triangles.length / 3} triangles`);
    assert.ok(Math.abs(volume(coarse) / true_ - 1) < within, `${volume(coarse) / true_}`);
    assert.equal(open(coarse), 0);
    assert.equal(coarse.normals.length, coarse.positions.length);
    const known = new Set(Array.from({ length: whole.positions.length / 3 }, (_, at) => corner(whole, at).join()));
    for (let at = 0; at < coarse.positions.length / 3; at++) assert.ok(known.has(corner(coarse, at).join()), "it is one of its corners");
  }
});

test("an edge of many short chords goes on all round", () => {
  const { edges } = coarser(sphere(100, 90), [10, 10, 10]);
  assert.ok(edges.length / 6 < 120 && edges.length / 6 > 40, `${edges.length / 6} chords`);
  for (let at = 0; at < edges.length; at += 6) {
    assert.deepEqual([...edges.subarray(at + 3, at + 6)], [...edges.subarray((at + 6) % edges.length, ((at + 6) % edges.length) + 3)]);
  }
});

test("what is larger than its cells stays as it is, and of what is smaller nothing is left", () => {
  const whole = sphere(100, 8);
  const same = coarser(whole, [0.01, 0.01, 0.01]);
  assert.ok(Math.abs(volume(same) - volume(whole)) < 1);
  assert.equal(open(same), 0);
  const none = coarser(whole, [1000, 1000, 1000]);
  assert.deepEqual([none.triangles.length, none.edges.length], [0, 0]);
});

test("along each axis the cells have a size of their own", () => {
  const flat = coarser(sphere(100, 20), [0.01, 0.01, 1000]);
  const places = Array.from({ length: flat.positions.length / 3 }, (_, at) => corner(flat, at));
  const above = places.filter(([, , z]) => z > 1).length;
  const below = places.filter(([, , z]) => z < -1).length;
  assert.ok(Math.min(above, below) === 0, "upper and lower half are drawn at one place");
  assert.ok(flat.triangles.length > 0);
});

// A prism along z on a ring of corners, with its rims as edges.
function rod(radius, height, sides = 12) {
  const shape = { positions: [], normals: [], triangles: [], edges: [] };
  for (let at = 0; at < sides; at++) {
    const [x, y] = [Math.cos((2 * Math.PI * at) / sides), Math.sin((2 * Math.PI * at) / sides)];
    for (const z of [0, height]) {
      shape.positions.push(radius * x, radius * y, z);
      shape.normals.push(x, y, 0);
    }
    const [a, b] = [2 * at, 2 * ((at + 1) % sides)];
    shape.triangles.push(a, b, a + 1, b, b + 1, a + 1);
  }
  return { positions: new Float32Array(shape.positions), normals: new Float32Array(shape.normals), triangles: new Uint32Array(shape.triangles), edges: new Float32Array(0) };
}

test("what is thin does not vanish, and is coarser where there is room", () => {
  const thin = rod(0.5, 500);
  assert.equal(coarser(thin, [4, 4, 4]).triangles.length, 0, "in such cells it would");
  const kept = fromAfar(thin, [4, 4, 4]) ?? thin;
  assert.ok(kept.triangles.length >= 36, "nor does it in those that are as narrow as it is");
  const leaning = { ...thin, positions: thin.positions.map((one, at) => (at % 3 < 2 ? one + thin.positions[at - (at % 3) + 2] : one)) };
  assert.equal(fromAfar(leaning, [4, 4, 4]), null, "or it is drawn as it is");
  const wide = fromAfar(rod(40, 500, 600), [4, 4, 4]);
  assert.ok(wide && wide.triangles.length < 1800, "and this is drawn with less");
});

test("small holes are not lost: their edges count", () => {
  const whole = sphere(100, 20);
  const edges = [];
  for (let hole = 0; hole < 200; hole++) {
    for (let at = 0; at < 12; at++) for (const step of [at, at + 1]) edges.push(10 * hole + Math.cos((Math.PI * step) / 6), Math.sin((Math.PI * step) / 6), 0);
  }
  const pierced = { ...whole, edges: new Float32Array(edges) };
  assert.equal(coarser(pierced, [8, 8, 8]).edges.length < edges.length / 4, true, "in such cells they would be");
  const found = fromAfar(pierced, [8, 8, 8]) ?? pierced;
  assert.ok(found.edges.length > edges.length / 4);
});

test("inside out it is as coarse as else", () => {
  const whole = sphere(100, 40);
  const turned = { ...whole, triangles: Uint32Array.from(whole.triangles, (_, at) => whole.triangles[at - (at % 3) + 2 - (at % 3)]) };
  assert.equal(fromAfar(turned, [7, 7, 7]).triangles.length, fromAfar(whole, [7, 7, 7]).triangles.length);
});

test("a shape looks the same at ten times its size", () => {
  const ten = ({ positions, edges, ...rest }) => ({ ...rest, positions: positions.map((one) => 10 * one), edges: edges.map((one) => 10 * one) });
  const [small, large] = [fromAfar(sphere(100, 40), [7, 7, 7]), fromAfar(ten(sphere(100, 40)), [70, 70, 70])];
  assert.deepEqual(large.triangles, small.triangles);
});

test("sizes of cells are few, and never larger than what was asked for", () => {
  for (let size = 1e-3; size < 1e4; size *= 1.07) {
    assert.ok(stepOf(size) <= size * (1 + 1e-9) && stepOf(size) > size / 1.42);
  }
  const steps = new Set(Array.from({ length: 100 }, (_, at) => stepOf(1 + at / 100)));
  assert.ok(steps.size <= 3);
});
