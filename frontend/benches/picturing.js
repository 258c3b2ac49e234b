// What is seen of a print: a layer, the stack, the plate; and the rule by which layers are gone through.
import { amount } from "./saying.js";
import { laid } from "./printing.js";
import { LayerRule } from "./layer-rule.js";
import { PlatePicture, ROLE_KINDS } from "./plate-picture.js";

let picture = null;
let rule = null;

export const picturing = () => ({
  needs: ["settingUp", "making"],

  view: "Layer",
  views: ["Layer", "Stack", "Plate"],
  bars: "area",
  scale: 1,
  drawn: 0,

  begin() {
    picture = new PlatePicture(document.getElementById("picture"), () => this.drawPicture());
    rule = new LayerRule(document.getElementById("layer-rule"), (layer) => this.making.setLayer(layer));
  },

  isView(one) {
    return this.view === one;
  },

  setView(one) {
    if (this.view === one) return;
    this.view = one;
    this.fit();
    if (one === "Layer") this.making.showLayer();
  },

  setBars({ target }) {
    this.bars = target.value;
    this.drawRule();
  },

  fit() {
    picture.fit();
    this.drawPicture();
  },

  lookAt(place) {
    picture.lookAt(place);
    this.drawPicture();
  },

  drawAnew() {
    this.drawRule();
    this.drawPicture();
  },

  drawRule() {
    const amiss = new Set(laid.found.map((one) => one.layer));
    rule.show({ count: this.making.count, layer: this.making.layer, values: laid.figures.map((one) => one?.[this.bars] ?? 0), amiss });
  },

  drawPicture() {
    picture.show({ view: this.view, print: laid.print, plate: this.making.plate, layer: this.making.layer, lines: laid.lines, outlines: laid.outlines });
    this.scale = picture.scale;
    this.drawn += 1;
  },

  get legend() {
    if (this.drawn < 0 || this.view !== "Layer" || !laid.lines) return [];
    const met = [...new Set(laid.lines.lines.map((one) => one.role))];
    return [...met, "travel"].map((role) => ({ role, kind: ROLE_KINDS[role] }));
  },

  get levelSaid() {
    if (this.making.took < 0 || !laid.print || !this.making.count) return "";
    return `z = ${amount(laid.print.levels[this.making.layer] + laid.print.heights[this.making.layer])} mm`;
  },

  get layerSaid() {
    const one = this.making.took >= 0 ? laid.figures[this.making.layer] : null;
    if (!one) return "";
    const line = Object.values(one.lengths).reduce((sum, length) => sum + length, 0);
    return `${amount(one.area / 100)} cm² · ${amount(line / 1000)} m of line · ${amount(one.seconds)} s`;
  },

  get barLength() {
    const wanted = 80 / this.scale;
    const power = 10 ** Math.floor(Math.log10(wanted));
    return [5, 2, 1].map((one) => one * power).find((one) => one <= wanted) ?? power;
  },

  get scaleSaid() {
    return this.drawn >= 0 && laid.print && this.view !== "Stack" ? `${amount(this.barLength)} mm` : "";
  },

  get scaleStyle() {
    return { width: `${this.barLength * this.scale}px`, visibility: this.settingUp.isThere && this.view !== "Stack" ? "visible" : "hidden" };
  },

  get pictureSaid() {
    if (!this.settingUp.isThere) return "Nothing to print";
    if (this.view === "Plate") return `Plate ${this.making.plate + 1}: ${laid.print.plates[this.making.plate].places.length} pieces`;
    return `${this.view === "Stack" ? "The layers up to" : "Layer"} ${this.making.layer + 1} of ${this.making.count}`;
  },
});
