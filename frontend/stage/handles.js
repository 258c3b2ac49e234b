// Handles on the stage: the points that are inputs, the ends of dims that measure an input, and
// the cutting plane. They are elements of the page, so the keyboard reaches them too.
import * as THREE from "three";

import { scaleOf, steppedTo } from "../faceplate/turning.js";

const SNAP = 9; // pixels within which a point is drawn to a datum
const FLAT_VIEW = 0.15; // a plane seen more edge-on than this is not dragged in

export class Handles {
  constructor(stage, host) {
    this.stage = stage;
    this.host = host;
    this.handles = new Map();
    // Called with the name of an input and its new value.
    /** @type {(name: string, value: number | number[]) => void} */
    this.onTurn = () => {};
    this.onSettle = this.onTurn;
  }

  // Takes the inputs and dims of a scene.
  show(scene) {
    const wanted = new Map();
    for (const input of scene.inputs ?? []) {
      if (input.kind === "point" && Array.isArray(input.value)) wanted.set(`point ${input.name}`, new PointHandle(input));
      for (let at = 0; input.width && at < input.value.length / input.width; at += 1) wanted.set(`point ${input.name} ${at}`, new ListedPointHandle(input, at));
    }
    const inputs = new Map((scene.inputs ?? []).map((input) => [input.name, input]));
    for (const dim of scene.dims ?? []) {
      const input = inputs.get(dim.name);
      if (input && dim.form === "length" && typeof input.value === "number") wanted.set(`dim ${dim.line}`, new DimHandle(dim, input));
    }
    for (const [key, handle] of this.handles) {
      if (wanted.has(key) || key === "cut") continue;
      handle.element.remove();
      this.handles.delete(key);
    }
    for (const [key, source] of wanted) this.#take(key, source);
  }

  // A handle is kept while it is dragged: only what it stands for is taken over.
  #take(key, source) {
    const known = this.handles.get(key);
    if (!known) this.handles.set(key, this.#make(source));
    else if (!known.dragging) known.source = source;
    const { element } = this.handles.get(key);
    if (element.ariaLabel !== source.said) element.ariaLabel = source.said;
  }

  showCut(source) {
    this.handles.get("cut")?.element.remove();
    this.handles.delete("cut");
    if (source) this.handles.set("cut", this.#make(source, "cut"));
  }

  #make(source, kind = "turns") {
    const element = Object.assign(document.createElement("button"), { type: "button", className: `handle ${kind}` });
    element.setAttribute("aria-label", source.said);
    this.host.append(element);
    const handle = { element, source, dragging: false };
    element.addEventListener("pointerdown", (event) => this.#begin(event, handle));
    element.addEventListener("keydown", (event) => this.#key(event, handle));
    return handle;
  }

  #begin(event, handle) {
    if (event.button !== 0) return;
    event.preventDefault();
    handle.element.focus();
    handle.element.setPointerCapture(event.pointerId);
    handle.dragging = true;
    const before = handle.source.value;
    const move = (moved) => {
      const datum = this.stage.construction.near(moved.clientX, moved.clientY, SNAP, this.stage);
      const value =
        handle.source.valueOn?.(datum) ??
        handle.source.valueAt(this.stage.rayAt(moved.clientX, moved.clientY).ray, this.stage.camera);
      if (value === null || String(value) === String(handle.source.value)) return;
      handle.source.value = value;
      this.#turn(handle);
    };
    const end = () => {
      handle.element.removeEventListener("pointermove", move);
      handle.element.removeEventListener("pointerup", end);
      handle.element.removeEventListener("pointercancel", end);
      handle.dragging = false;
      if (String(before) !== String(handle.source.value)) this.#settle(handle);
    };
    handle.element.addEventListener("pointermove", move);
    handle.element.addEventListener("pointerup", end);
    handle.element.addEventListener("pointercancel", end);
  }

  #key(event, handle) {
    const way = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!way || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    handle.source.value = handle.source.moved(way, event.shiftKey ? 10 : 1);
    this.#turn(handle);
    clearTimeout(handle.pause);
    handle.dragging = true;
    handle.pause = setTimeout(() => {
      handle.dragging = false;
      this.#settle(handle);
    }, 500);
  }

  #turn(handle) {
    if (handle.source.turn) handle.source.turn(handle.source.value);
    else this.onTurn(handle.source.name, valueIn(handle.source));
    this.stage.draw();
  }

  #settle(handle) {
    if (!handle.source.turn) this.onSettle(handle.source.name, valueIn(handle.source));
  }

  place() {
    for (const { element, source } of this.handles.values()) {
      const { x, y } = this.stage.onScreen(source.place());
      element.style.translate = `${x}px ${y}px`;
    }
  }

  report() {
    return [...this.handles].map(([key, { source }]) => ({ key, value: source.value, place: source.place().toArray() }));
  }
}

// The whole value of the input that a handle belongs to.
function valueIn(source) {
  return source.together ? source.together(source.value) : source.value;
}

// A point that is an input, dragged in its own plane or across the view.
class PointHandle {
  constructor(input) {
    this.name = input.name;
    this.value = input.value;
    this.said = `${input.label}, a point to drag`;
    const step = input.step > 0 ? input.step : input.size > 100 ? input.size / 100 : 1;
    this.scale = { from: input.low ?? -Infinity, to: input.high ?? Infinity, base: input.low ?? 0, step };
  }

  place() {
    const [x, y, z = 0] = this.value;
    return new THREE.Vector3(x, y, z);
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

  moved([x, y], factor) {
    const steps = [x, y, 0];
    return this.value.map((value, at) => steppedTo(value + steps[at] * factor * this.scale.step, this.scale));
  }
}

// One point of an input that is a list of points; the others stay.
class ListedPointHandle extends PointHandle {
  constructor(input, at) {
    super({ ...input, value: input.value.slice(at * input.width, (at + 1) * input.width) });
    this.said = `${input.label}, point ${at + 1} to drag`;
    this.together = (value) => input.value.toSpliced(at * input.width, input.width, ...value);
  }
}

// The end of a dim, dragged along it.
class DimHandle {
  constructor(dim, input) {
    this.name = input.name;
    this.value = input.value;
    this.said = `${input.label}, the end of its dim`;
    this.scale = scaleOf(input);
    this.start = new THREE.Vector3(...dim.start);
    const along = new THREE.Vector3(...dim.end).sub(this.start);
    this.along = along.lengthSq() > 0 ? along.normalize() : new THREE.Vector3(1, 0, 0);
    this.shift = acrossOf(this.along).multiplyScalar(dim.offset);
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
