// What handles stand for: a point, a point of a list, the end of a dim, the cutting plane. Each knows
// its place, and its value under a ray and after a press of a key.
import * as THREE from "three";

import { scaleOf, steppedTo, written } from "../faceplate/turning.js";

const TURN_STEP = Math.PI / 36; // 5°
const FLAT_VIEW = 0.15; // a plane seen more edge-on than this is not dragged in
export const AXES = ["x", "y", "z"];

// The whole value of the input that a handle belongs to.
export function valueIn(source) {
  return source.together ? source.together(source.value) : source.value;
}

// A point that is an input, dragged in its own plane or across the view.
export class PointHandle {
  constructor(input, unit) {
    this.name = input.name;
    this.value = input.value;
    this.said = `${input.label}, a point to drag`;
    this.label = input.label;
    this.unit = unit;
    this.size = input.size;
    const step = input.step > 0 ? input.step : input.size > 100 ? input.size / 100 : 1;
    this.scale = { from: input.low ?? -Infinity, to: input.high ?? Infinity, base: input.low ?? 0, step, size: input.size };
  }

  place() {
    const [x, y, z = 0] = this.value;
    return new THREE.Vector3(x, y, z);
  }

  get figures() {
    return this.value.map((one) => written(one, this.scale.step, this.size));
  }

  get shown() {
    return `(${this.figures.join(", ")}) ${this.unit}`;
  }

  get axes() {
    return AXES.slice(0, this.value.length);
  }

  // Along one axis only, the others as they were at the beginning.
  valueAlong(axis, ray, before) {
    const at = AXES.indexOf(axis);
    const way = new THREE.Vector3().setComponent(at, 1);
    const start = new THREE.Vector3(...before, ...[0].slice(0, 3 - before.length));
    const met = alongLine(ray, start, way);
    return met === null ? null : before.toSpliced(at, 1, steppedTo(before[at] + met, this.scale));
  }

  valueAt(ray, camera) {
    const here = this.place();
    const view = camera.getWorldDirection(new THREE.Vector3());
    const level = this.value.length === 2 || Math.abs(view.z) > 0.9;
    const normal = level && Math.abs(view.z) > FLAT_VIEW ? new THREE.Vector3(0, 0, 1) : view;
    const met = ray.intersectPlane(new THREE.Plane().setFromNormalAndCoplanarPoint(normal, here), new THREE.Vector3());
    if (!met) return null;
    return this.value.map((_, at) => steppedTo(met.getComponent(at), this.scale));
  }

  // The place of a datum, where it lies within the limits and is not the point itself.
  valueOn(datum) {
    if (!datum || datum.distanceTo(this.place()) < 1e-6) return null;
    const value = this.value.map((_, at) => datum.getComponent(at));
    return value.every((one) => one >= this.scale.from && one <= this.scale.to) ? value : null;
  }

  moved([x, y], factor, axis = "") {
    const steps = axis ? AXES.map((one) => (one === axis ? x || y : 0)) : [x, y, 0];
    return this.value.map((value, at) => steppedTo(value + steps[at] * factor * this.scale.step, this.scale));
  }

  // To one of its limits, along the axis that is locked or the first.
  limit(end, axis = "x") {
    const limit = end ? this.scale.to : this.scale.from;
    return Number.isFinite(limit) ? this.value.toSpliced(AXES.indexOf(axis), 1, steppedTo(limit, this.scale)) : this.value;
  }
}

// A placed piece, moved where it stands: its picture goes along, its line follows when it is let go.
export class PieceHandle extends PointHandle {
  constructor({ name, label, value, unit, size, step }, { turn, settle }) {
    super({ name, label, value, size, low: null, high: null, step }, unit);
    this.said = `${label}, a piece to move`;
    this.turn = turn;
    this.settle = settle;
  }
}

// A corner of a chain, dragged along the axes in which it is written as figures.
export class CornerHandle extends PointHandle {
  constructor({ name, index, at, free, beside }, { unit, size, step }, { turn, settle }) {
    super({ name, label: `${name}, corner ${index + 1}`, value: at, size, low: null, high: null, step }, unit);
    this.free = free;
    this.index = index;
    this.turn = (value) => turn(beside, value);
    this.settle = (value) => settle(name, index, value);
  }

  get axes() {
    return this.free;
  }

  // What may not move stays.
  #kept(value) {
    return value && value.map((one, at) => (this.free.includes(AXES[at]) ? one : this.value[at]));
  }

  valueAt(ray, camera) {
    return this.#kept(super.valueAt(ray, camera));
  }

  valueOn(datum) {
    return this.#kept(super.valueOn(datum));
  }

  moved(step, factor, axis) {
    return this.#kept(super.moved(step, factor, axis));
  }
}

// A piece that stands level, turned about its place in steps; `value` is by how much (radians).
export class TurnHandle {
  constructor({ name, label, centre, reach }, { turn, settle, typed }) {
    this.name = name;
    this.value = 0;
    this.centre = centre;
    this.reach = reach;
    this.turn = turn;
    this.settle = settle;
    this.typed = typed;
    this.said = `${label}, to turn it`;
    this.label = `turn ${label} by`;
    this.unit = "°";
  }

  place() {
    const [x, y, z = 0] = this.centre;
    return new THREE.Vector3(x + this.reach * Math.cos(this.value), y + this.reach * Math.sin(this.value), z);
  }

  get degrees() {
    return Math.round((this.value * 180) / Math.PI);
  }

  get figures() {
    return [String(this.degrees)];
  }

  get shown() {
    return `${this.degrees}°`;
  }

  valueAt(ray) {
    const centre = new THREE.Vector3(...this.centre);
    const met = ray.intersectPlane(new THREE.Plane().setFromNormalAndCoplanarPoint(new THREE.Vector3(0, 0, 1), centre), new THREE.Vector3());
    return met && stepped(Math.atan2(met.y - centre.y, met.x - centre.x));
  }

  moved([x, y], factor) {
    return stepped(this.value + (x || y) * factor * TURN_STEP);
  }

  limit() {
    return this.value;
  }
}

function stepped(angle) {
  return Math.round(angle / TURN_STEP) * TURN_STEP;
}

// One point of an input that is a list of points; the others stay.
export class ListedPointHandle extends PointHandle {
  constructor(input, unit, at) {
    super({ ...input, value: input.value.slice(at * input.width, (at + 1) * input.width) }, unit);
    this.said = `${input.label}, point ${at + 1} to drag`;
    this.label = `${input.label}, point ${at + 1}`;
    this.point = at;
    this.width = input.width;
    this.together = (value) => input.value.toSpliced(at * input.width, input.width, ...value);
  }

  // All points with one more after this: halfway to the next, or as far again behind the last.
  grown() {
    const { width, point: at } = this;
    const all = this.together(this.value);
    const next = all.slice((at + 1) * width, (at + 2) * width);
    const before = all.slice((at - 1) * width, at * width);
    const added = this.value.map((one, axis) => (next.length ? (one + next[axis]) / 2 : at ? one + (one - before[axis]) / 2 : one + (axis ? 0 : 10 * this.scale.step)));
    return all.toSpliced((at + 1) * width, 0, ...added.map((one) => steppedTo(one, this.scale)));
  }

  // All points without this; null where it is one of two.
  thinned() {
    const all = this.together(this.value);
    return all.length > 2 * this.width ? all.toSpliced(this.point * this.width, this.width) : null;
  }
}

// The end of a dim, dragged along it.
export class DimHandle {
  constructor(dim, input, unit) {
    this.name = input.name;
    this.value = input.value;
    this.said = `${input.label}, the end of its dim`;
    this.label = input.label;
    this.unit = unit;
    this.size = input.size;
    this.scale = scaleOf(input);
    this.start = new THREE.Vector3(...dim.start);
    const along = new THREE.Vector3(...dim.end).sub(this.start);
    this.along = along.lengthSq() > 0 ? along.normalize() : new THREE.Vector3(1, 0, 0);
    this.shift = acrossOf(this.along).multiplyScalar(dim.offset);
  }

  get figures() {
    return [written(this.value, this.scale.step, this.size)];
  }

  get shown() {
    return `${this.figures[0]} ${this.unit}`;
  }

  limit(end) {
    return steppedTo(end ? this.scale.to : this.scale.from, this.scale);
  }

  place() {
    return this.start.clone().add(this.shift).addScaledVector(this.along, this.value);
  }

  valueAt(ray) {
    const along = alongLine(ray, this.start.clone().add(this.shift), this.along);
    return along === null ? null : steppedTo(along, this.scale);
  }

  moved([x, y], factor) {
    return steppedTo(this.value + (x || y) * factor * this.scale.step, this.scale);
  }
}

// The cutting plane, dragged along its axis.
export class CutHandle {
  constructor(cut, said, step, turn) {
    this.cut = cut;
    this.said = said;
    this.step = step;
    this.turn = turn;
    this.value = cut.at;
  }

  place() {
    const corner = this.cut.corner?.clone() ?? new THREE.Vector3();
    corner[this.cut.axis] = this.cut.at;
    return corner;
  }

  valueAt(ray) {
    const along = new THREE.Vector3();
    along[this.cut.axis] = 1;
    const start = this.place();
    start[this.cut.axis] = 0;
    const met = alongLine(ray, start, along);
    return met === null ? null : this.#held(met);
  }

  limit(end) {
    return this.cut.range(this.cut.axis)[end ? 1 : 0];
  }

  moved([x, y], factor) {
    return this.#held(this.cut.at + (x || y) * factor * this.step);
  }

  #held(value) {
    const [low, high] = this.cut.range(this.cut.axis);
    return Math.min(Math.max(Math.round(value / this.step) * this.step, low), high);
  }
}

// The side to which a dim is set off: to the right of its way in plan; of an upright one along x.
function acrossOf(along) {
  return Math.hypot(along.x, along.y) < 1e-9 * along.length()
    ? new THREE.Vector3(1, 0, 0)
    : new THREE.Vector3(along.y, -along.x, 0).normalize();
}

// How far along a line (from `start` in direction `along`) it comes nearest to a ray; null where
// the line is seen end-on.
function alongLine(ray, start, along) {
  const across = along.dot(ray.direction);
  const square = 1 - across * across;
  if (square < 0.01) return null;
  const apart = ray.origin.clone().sub(start);
  return (apart.dot(along) - apart.dot(ray.direction) * across) / square;
}
