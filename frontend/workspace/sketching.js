// Drawing an outline in plan, front or side: clicks are written as one chain; what a click is drawn to stands
// in it by its name.
import * as THREE from "three";

import { postForJson } from "../server.js";
import { figureTyped } from "../typed.js";
import { edit } from "./edit.js";
import { turning } from "./faceplate.js";
import { watched } from "./settled.js";

// By view the axes that lie across and up, and the one along which one looks.
const PLANES = { plan: ["x", "y", "z"], front: ["x", "z", "y"], side: ["y", "z", "x"] };

export const sketching = () => ({
  sketch: null, // the corners so far, each { at, snapped, smooth }
  sketchSmooth: false, // whether the next piece goes on without a bend
  sketchLength: "",
  sketchTurn: "",

  begin() {
    const canvas = window.ovolo.stage.renderer.domElement;
    canvas.addEventListener("pointermove", (event) => this.sketch && this.showSketch(this.sketchCorner(event)));
    addEventListener("keydown", (event) => this.sketch && this.sketchKey(event));
  },

  get isSketching() {
    return this.sketch !== null;
  },

  toggleSketch() {
    if (this.sketch) return this.endSketch();
    this.closeCard();
    if (!(this.view in PLANES) || this.drawn) this.setView("plan");
    this.drawn = false;
    Object.assign(this, { sketch: [], sketchSmooth: false, sketchLength: "", sketchTurn: "" });
    window.ovolo.stage.host.classList.add("measuring");
    return undefined;
  },

  endSketch() {
    this.sketch = null;
    window.ovolo.stage.host.classList.remove("measuring");
    window.ovolo.stage.marks.measure([], null);
  },

  get sketchSaid() {
    if (!this.sketch?.length) return "Click where it begins; corners, datums and its own beginning draw a click to them. Shift keeps to right angles.";
    return `${this.sketch.length} corner${this.sketch.length === 1 ? "" : "s"}. Backspace takes the last one back; Enter closes it.`;
  },

  // At a corner, a datum, or the beginning that is near; else on a round step, at right angles with Shift.
  sketchCorner(event) {
    const { stage } = window.ovolo;
    const near = this.nearBeginning(event) ?? stage.picking.cornerAt(event.clientX, event.clientY);
    const plane = PLANES[this.view];
    if (near) return { at: near.map((one, axis) => ("xyz"[axis] === plane[2] ? 0 : Number(one.toPrecision(9)))), snapped: true, smooth: this.sketchSmooth };
    const normal = new THREE.Vector3();
    normal[plane[2]] = 1;
    const met = stage.rayAt(event.clientX, event.clientY).ray.intersectPlane(new THREE.Plane(normal, 0), new THREE.Vector3());
    if (!met) return null;
    const at = met.toArray().map((one) => this.onStep(one));
    const last = this.sketch.at(-1);
    if (event.shiftKey && last) this.keepSquare(at, last.at, plane);
    return { at, snapped: false, smooth: this.sketchSmooth };
  },

  keepSquare(at, last, [across, up]) {
    const [a, b] = [across, up].map((axis) => "xyz".indexOf(axis));
    if (Math.abs(at[a] - last[a]) >= Math.abs(at[b] - last[b])) at[b] = last[b];
    else at[a] = last[a];
  },

  nearBeginning(event) {
    const { stage } = window.ovolo;
    const [first] = this.sketch;
    if (!first || this.sketch.length < 3) return null;
    const { left, top } = stage.host.getBoundingClientRect();
    const { x, y } = stage.onScreen(new THREE.Vector3(...first.at));
    return Math.hypot(event.clientX - left - x, event.clientY - top - y) < 10 ? first.at : null;
  },

  addCorner(corner) {
    if (!corner) return undefined;
    const [first] = this.sketch;
    if (this.sketch.length > 2 && String(first.at) === String(corner.at)) return this.keepSketch(true);
    this.sketch = [...this.sketch, corner];
    this.showSketch();
    return undefined;
  },

  clickSketch(event) {
    return this.addCorner(this.sketchCorner(event));
  },

  // A length and a direction typed: from the last corner on.
  typeSketch(which, event) {
    this[which] = event.target.value;
  },

  addTyped() {
    const { symbol, size } = this.lengthUnit;
    const length = figureTyped(this.sketchLength, symbol) * size;
    const turn = (figureTyped(this.sketchTurn, "°") * Math.PI) / 180;
    const last = this.sketch.at(-1)?.at ?? [0, 0, 0];
    if (!Number.isFinite(length) || !Number.isFinite(turn)) return this.complain("a length and a direction are wanted", `for example 1200 and 30 (${symbol} and degrees)`);
    const at = [...last];
    const [across, up] = PLANES[this.view].map((axis) => "xyz".indexOf(axis));
    at[across] = Number((at[across] + length * Math.cos(turn)).toPrecision(9));
    at[up] = Number((at[up] + length * Math.sin(turn)).toPrecision(9));
    this.addCorner({ at, snapped: false, smooth: this.sketchSmooth });
    Object.assign(this, { sketchLength: "", sketchTurn: "" });
    return undefined;
  },

  setSmooth(smooth) {
    this.sketchSmooth = smooth;
  },

  showSketch(next = null) {
    const corners = [...this.sketch, ...(next ? [next] : [])].map((one) => one.at);
    window.ovolo.stage.marks.measure(corners.length > 1 ? [corners] : corners.map((one) => [one]), null);
  },

  sketchKey(event) {
    if (event.target.closest?.("input, textarea, [contenteditable=true]")) return;
    if (event.key === "Backspace") {
      this.sketch = this.sketch.slice(0, -1);
      this.showSketch();
    } else if (event.key === "Enter") this.keepSketch(true);
    else return;
    event.preventDefault();
    event.stopPropagation();
  },

  closeSketch() {
    return this.keepSketch(true);
  },

  leaveOpen() {
    return this.keepSketch(false);
  },

  async keepSketch(closed) {
    if (!(await this.keepDraft())) return;
    try {
      const asked = { revision: this.revision, set: { ...turning }, picks: this.sketch, name: this.view, index: closed ? 1 : 0 };
      const { line } = await watched(() => postForJson(`${this.address}outline`, asked));
      const last = this.rows.at(-1);
      if (await this.change("edit", edit({ edit: "insert", after: last ? last.line + last.height - 1 : 0, text: line }))) this.endSketch();
    } catch (error) {
      this.fail(error);
    }
  },
});
