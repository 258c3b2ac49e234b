// Drawing an outline in plan, front or side: clicks are written as one chain; what a click is drawn to stands
// in it by its name or its relation.
import Alpine from "../alpine.js";
import * as THREE from "three";

import { InTurn } from "../newest.js";
import { postForJson } from "../server.js";
import { figureTyped } from "../typed.js";
import { edit } from "./edit.js";
import { turning } from "./faceplate.js";
import { watched } from "./settled.js";
import { keptSquare } from "./square.js";

// By view the axes that lie across and up, and the one along which one looks.
const WAYS = { straight: "straight", smooth: "without a bend", through: "arc through", radius: "arc of radius" };
const PLANES = { plan: ["x", "y", "z"], front: ["x", "z", "y"], side: ["y", "z", "x"] };

const turns = new InTurn();

export const sketching = () => ({
  needs: ["study", "saving", "showing", "writing", "looking", "drawing", "placing"],

  sketch: null, // the corners so far, each { at, snapped } and how the piece that leads to it goes
  sketchIn: "plan", // the view in whose plane it lies, from wherever one looks at it meanwhile
  sketchWays: Object.entries(WAYS).map(([name, label]) => ({ name, label })),
  sketchWay: "straight", // how the next piece goes
  sketchThrough: null, // the place that an arc goes through, once it was clicked
  sketchRadius: "",
  sketchNamed: false, // whether figures that stand for themselves are made inputs
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

  toggle() {
    if (this.sketch) return this.end();
    this.looking.closeCard();
    if (!(this.looking.view in PLANES) || this.drawing.drawn) this.looking.setView("plan");
    this.drawing.drawn = false;
    Object.assign(this, { sketch: [], sketchIn: this.looking.view, sketchWay: "straight", sketchThrough: null, sketchRadius: "", sketchLength: "", sketchTurn: "" });
    window.ovolo.stage.host.classList.add("measuring");
    this.keepStripFree();
    return undefined;
  },

  // What one clicks at is not to lie below what is written into meanwhile.
  keepStripFree() {
    const { stage } = window.ovolo;
    Alpine.nextTick(() => {
      const strip = document.querySelector("#stage-panels .strip");
      stage.keepFree({ above: strip ? strip.getBoundingClientRect().bottom - stage.host.getBoundingClientRect().top : 0 });
    });
  },

  end() {
    this.sketch = null;
    this.keepStripFree();
    window.ovolo.stage.host.classList.remove("measuring");
    window.ovolo.stage.marks.measure([], null);
  },

  get sketchSaid() {
    if (!this.sketch?.length) return "Click where it begins; corners, middles, datums and its own beginning draw a click to them. Shift keeps to right angles and parallels.";
    if (this.sketchWay === "through") return this.sketchThrough ? "Click where the arc ends." : "Click a place that the arc goes through.";
    return `${this.sketch.length} corner${this.sketch.length === 1 ? "" : "s"}. Backspace takes the last one back; Enter closes it.`;
  },

  // At a corner, a datum, a middle, or the beginning that is near; else on a round step; with Shift at right
  // angles and parallels to what is drawn.
  sketchCorner(event) {
    const { stage } = window.ovolo;
    const near = this.nearBeginning(event) ?? stage.picking.cornerAt(event.clientX, event.clientY) ?? stage.picking.middleAt(event.clientX, event.clientY);
    const plane = PLANES[this.sketchIn];
    if (near) return { at: near.map((one, axis) => ("xyz"[axis] === plane[2] ? 0 : Number(one.toPrecision(9)))), snapped: true };
    const at = this.placing.inPlane(event, plane[2]);
    if (!at) return null;
    const last = this.sketch.at(-1);
    if (!event.shiftKey || !last) return { at, snapped: false };
    const [a, b] = plane.map((axis) => "xyz".indexOf(axis));
    const kept = keptSquare(this.sketch.map((one) => [one.at[a], one.at[b]]), [at[a], at[b]], (length) => this.placing.onStep(length));
    [at[a], at[b]] = kept.at;
    return { at, snapped: false, beside: kept.beside, square: kept.square };
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
    if (first && this.sketchWay === "through" && !this.sketchThrough) {
      this.sketchThrough = corner;
      return undefined;
    }
    if (this.sketchWay === "straight" && this.sketch.length > 2 && String(first.at) === String(corner.at)) return this.keepSketch("closed");
    const way = this.wayTo();
    if (!way) return undefined;
    this.sketch = [...this.sketch, { ...corner, ...way }];
    this.sketchThrough = null;
    this.showSketch();
    return undefined;
  },

  // How the next piece goes; null, with a complaint, where that cannot be read.
  wayTo() {
    if (!this.sketch.length || this.sketchWay === "straight") return {};
    if (this.sketchWay === "smooth") return { smooth: true };
    if (this.sketchWay === "through") return { through: this.sketchThrough };
    const { symbol, size } = this.showing.lengthUnit;
    const radius = figureTyped(this.sketchRadius, symbol) * size;
    if (radius) return { radius };
    this.saving.complain("the arc wants a radius", `for example 1200 (${symbol}); below 0 it turns right`);
    return null;
  },

  clickSketch(event) {
    return this.addCorner(this.sketchCorner(event));
  },

  // A length and a direction typed: from the last corner on.
  typeSketch(which, event) {
    this[which] = event.target.value;
  },

  addTyped() {
    const { symbol, size } = this.showing.lengthUnit;
    const length = figureTyped(this.sketchLength, symbol) * size;
    const turn = (figureTyped(this.sketchTurn, "°") * Math.PI) / 180;
    const last = this.sketch.at(-1)?.at ?? [0, 0, 0];
    if (!Number.isFinite(length) || !Number.isFinite(turn)) return this.saving.complain("a length and a direction are wanted", `for example 1200 and 30 (${symbol} and degrees)`);
    const at = [...last];
    const [across, up] = PLANES[this.sketchIn].map((axis) => "xyz".indexOf(axis));
    at[across] = Number((at[across] + length * Math.cos(turn)).toPrecision(9));
    at[up] = Number((at[up] + length * Math.sin(turn)).toPrecision(9));
    this.addCorner({ at, snapped: false, typed: [length, turn] });
    Object.assign(this, { sketchLength: "", sketchTurn: "" });
    return undefined;
  },

  setWay(way) {
    this.sketchWay = way;
    this.sketchThrough = null;
  },

  nameSketch(event) {
    this.sketchNamed = event.target.checked;
  },

  showSketch(next = null) {
    const following = [this.sketchThrough, next].filter(Boolean);
    const corners = [...this.sketch.flatMap((one) => (one.through ? [one.through, one] : [one])), ...following].map((one) => one.at);
    window.ovolo.stage.marks.measure(corners.length > 1 ? [corners] : corners.map((one) => [one]), null);
  },

  sketchKey(event) {
    if (event.target.closest?.("input, textarea, [contenteditable=true]")) return;
    if (event.key === "Backspace") {
      if (this.sketchThrough) this.sketchThrough = null;
      else this.sketch = this.sketch.slice(0, -1);
      this.showSketch();
    } else if (event.key === "Enter") this.keepSketch("closed");
    else return;
    event.preventDefault();
    event.stopPropagation();
  },

  // A corner of a line that is drawn was dragged.
  async moveCorner(name, index, at) {
    if (await this.writing.keepDraft()) await this.saving.change("edit", edit({ edit: "move_corner", name, index, at }));
  },

  closeSketch() {
    return this.keepSketch("closed");
  },

  leaveOpen() {
    return this.keepSketch("open");
  },

  mirrorSketch() {
    return this.keepSketch("mirrored");
  },

  // Once: whoever asks again while it is on its way means the same.
  keepSketch(ending) {
    return turns.run(async () => this.isSketching && this.keepNow(ending));
  },

  async keepNow(ending) {
    const through = this.sketchThrough;
    if (through && ending === "closed") this.sketch = [...this.sketch, { ...this.sketch[0], through }]; // the arc closes it
    else if (through) return this.saving.complain("the arc has no end yet", "click where it ends, or press Backspace");
    this.sketchThrough = null;
    if (!(await this.writing.keepDraft())) return undefined;
    try {
      const asked = { revision: this.study.revision, set: { ...turning }, picks: this.sketch, name: this.sketchIn, ending, named: this.sketchNamed };
      const { lines } = await watched(() => postForJson(`${this.study.address}outline`, asked));
      const last = this.showing.rows.at(-1);
      if (await this.saving.change("edit", edit({ edit: "insert", after: last ? last.line + last.height - 1 : 0, text: lines.join("\n") }))) this.end();
    } catch (error) {
      this.saving.fail(error);
    }
    return undefined;
  },
});
