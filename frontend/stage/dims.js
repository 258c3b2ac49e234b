// Dimension lines: thin, with a tick at either end, and name over value.
import * as THREE from "three";

import { clearOffset, isClear } from "./clear-places.js";

const SHIFTS = [0, 1, -1, 2, -2, 3, -3]; // in heights of a label

export class Dims {
  constructor(stage, labels) {
    this.stage = stage;
    this.labels = labels;
    this.group = new THREE.Group();
    this.material = new THREE.LineBasicMaterial();
    this.wrongMaterial = new THREE.LineBasicMaterial();
    this.shown = [];
    /** @type {(dim: Record<string, any>, label: HTMLElement) => void} a dim was clicked, to be typed */
    this.onType = () => {};
    stage.scene.add(this.group);
  }

  theme(colour) {
    this.material.color.copy(colour("--color-ink-soft"));
    this.wrongMaterial.color.copy(colour("--color-madder"));
  }

  // Labels are kept where there was one before, for they are shown anew at every turn.
  /** @param {Partial<import("../scene").SceneSaid>} scene */
  take({ dims = [] }) {
    for (const { label } of this.shown.slice(dims.length)) {
      label.leader.remove();
      label.remove();
    }
    for (const line of this.group.children) line.geometry.dispose();
    this.group.clear();
    this.shown = dims.map((dim, at) => this.#one(dim, this.shown[at]?.label));
  }

  #one(dim, known) {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.Float32BufferAttribute(dim.segments, 3));
    this.group.add(new THREE.LineSegments(geometry, dim.wrong ? this.wrongMaterial : this.material));
    const points = [];
    for (let at = 0; at < dim.segments.length; at += 3) points.push(new THREE.Vector3(...dim.segments.slice(at, at + 3)));
    return { dim, points, middle: new THREE.Vector3(...dim.place), label: this.#label(dim, known ?? this.#blank()) };
  }

  #blank() {
    // `offset` keeps it clear of the parts.
    const leader = Object.assign(document.createElement("i"), { className: "dim-leader", hidden: true });
    const label = Object.assign(document.createElement("div"), { offset: null, leader });
    this.labels.append(leader);
    label.addEventListener("click", () => this.onType(this.shown.find((one) => one.label === label).dim, label));
    label.append("", document.createElement("br"), document.createElement("b"));
    this.labels.append(label);
    return label;
  }

  #label(dim, label) {
    const said = [dim.said, dim.shown, dim.wrong].join("\n");
    if (label.said === said) return label;
    label.said = said;
    label.className = dim.wrong ? "dim-said wrong" : "dim-said";
    label.firstChild.data = dim.said;
    label.lastChild.textContent = dim.wrong ? `✕ ${dim.shown}` : dim.shown;
    return label;
  }

  // How strongly they are drawn, from 0 (not at all) to 1.
  setStrength(strength) {
    this.group.visible = strength > 0;
    for (const material of [this.material, this.wrongMaterial]) {
      Object.assign(material, { transparent: strength < 1, opacity: strength, needsUpdate: true });
    }
  }

  points() {
    return this.shown.flatMap((dim) => dim.points);
  }

  // Each at the middle of its line, or where it was clear of the parts when it rested last, or so far
  // above or below that it is clear of those before it.
  place() {
    const taken = [];
    for (const one of this.shown) {
      const box = this.#boxOf(one);
      const off = one.label.offset ?? { x: 0, y: 0 };
      const [x, y] = [box.x + off.x, box.y + off.y];
      const shift = SHIFTS.find((by) => taken.every((other) => isClear(other, { ...box, x, y: y + by * box.height }))) ?? 0;
      this.#put(one, box, { x: off.x, y: off.y + shift * box.height });
      taken.push(one.at);
    }
  }

  // All anew, where they are clear of the parts.
  rest() {
    if (!this.group.visible || !this.shown.length) return;
    const share = this.stage.depths.coveredBy(this.stage);
    const taken = this.stage.handles.boxes();
    const frame = this.stage.freeFrame();
    for (const one of this.shown) {
      const box = this.#boxOf(one);
      one.label.offset = clearOffset(box, taken, share, frame);
      this.#put(one, box, one.label.offset);
      taken.push(one.at);
    }
  }

  #boxOf(one) {
    return { ...this.stage.onScreen(one.middle), ...this.#sizeOf(one.label) };
  }

  // What stands apart from its line is led back to it.
  #put(one, box, off) {
    const { label } = one;
    one.at = { ...box, x: box.x + off.x, y: box.y + off.y };
    one.led = Math.hypot(off.x, off.y) > 0.9 * box.height ? { x: box.x, y: box.y } : null;
    label.style.translate = `${one.at.x}px ${one.at.y}px`;
    label.leader.hidden = !one.led;
    if (!one.led) return;
    const [x, y] = [box.x - one.at.x, box.y - one.at.y];
    Object.assign(label.leader.style, { translate: label.style.translate, width: `${Math.hypot(x, y)}px`, rotate: `${Math.atan2(y, x)}rad` });
  }

  // What is written takes another size: measured once, for asking the page lays it out anew.
  measureAnew() {
    for (const { label } of this.shown) label.measured = "";
  }

  #sizeOf(label) {
    if (label.measured !== label.said) {
      label.measured = label.said;
      label.size = { width: label.offsetWidth, height: label.offsetHeight };
    }
    return label.size;
  }
}
