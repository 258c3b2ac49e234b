// A plot drawn as an SVG: dots, crosses for those that fail, a brush, and the frontier of two aims.
import { drag } from "../dragging.js";
import { frontier } from "./frontier.js";
import { ticksBetween } from "./ticks.js";

const SVG = "http://www.w3.org/2000/svg";
const LEFT = 52;
const RIGHT = 14;
const HALF_A_DIGIT = 3.6; // pixels, of the figures at the axes
const TOP = 12;
const BOTTOM = 24;
const NEAR = 9; // pixels within which a dot is meant

function svg(name, attributes = {}, text = "") {
  const node = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, String(value));
  if (text) node.textContent = text;
  return node;
}

export class Plot {
  constructor(host, { brushed, chosen }) {
    this.host = host;
    this.brushed = brushed;
    this.chosen = chosen;
    this.dots = [];
    this.looks = { labels: ["", ""], aims: { x: "", y: "" } };
    this.body = svg("svg", { class: "plot", role: "img" });
    host.append(this.body);
    this.#listen();
    new ResizeObserver(() => this.#draw()).observe(host);
  }

  show(dots, looks) {
    this.dots = dots;
    this.looks = looks;
    this.#draw();
  }

  clearBrush() {
    this.band = null;
    this.#draw();
  }

  #listen() {
    this.body.addEventListener("pointerdown", (event) => {
      const from = this.#at(event);
      const before = this.band;
      drag(event, {
        move: (moved) => this.#brush(from, this.#at(moved)),
        drop: (last) => this.#drop(from, this.#at(last)),
        back: () => {
          this.band = before;
          this.#draw();
        },
      });
    });
  }

  #brush(from, to) {
    this.band = { x: [Math.min(from.x, to.x), Math.max(from.x, to.x)], y: [Math.min(from.y, to.y), Math.max(from.y, to.y)] };
    this.#draw();
  }

  // Where it was hardly moved, the nearest dot was meant.
  #drop(from, to) {
    if (Math.hypot(to.px - from.px, to.py - from.py) < 4) {
      this.band = null;
      const dot = this.#nearest(to);
      if (dot) this.chosen(dot.number);
    }
    this.#draw();
    this.brushed(this.band);
  }

  #at(event) {
    const box = this.body.getBoundingClientRect();
    const [px, py] = [event.clientX - box.left, event.clientY - box.top];
    const { x, y } = this.scale ?? { x: [0, 1], y: [0, 1] };
    const { width, height } = this.size;
    return { px, py, x: x[0] + ((px - LEFT) / (width - LEFT - RIGHT)) * (x[1] - x[0]), y: y[1] - ((py - TOP) / (height - TOP - BOTTOM)) * (y[1] - y[0]) };
  }

  #nearest({ px, py }) {
    let best = null;
    for (const dot of this.dots) {
      const away = Math.hypot(this.#x(dot.x) - px, this.#y(dot.y) - py);
      if (away < (best?.away ?? NEAR)) best = { away, number: dot.number };
    }
    return best;
  }

  // Where a figure stands under its mark: never beyond the edge.
  #under(value) {
    const x = this.#x(value);
    const edge = this.size.width - 2;
    return x + said(value).length * HALF_A_DIGIT > edge ? { x: edge, "text-anchor": "end" } : { x, "text-anchor": "middle" };
  }

  #x(value) {
    const [low, high] = this.scale.x;
    return LEFT + ((value - low) / (high - low)) * (this.size.width - LEFT - RIGHT);
  }

  #y(value) {
    const [low, high] = this.scale.y;
    return TOP + (1 - (value - low) / (high - low)) * (this.size.height - TOP - BOTTOM);
  }

  #draw() {
    const { clientWidth: width, clientHeight: height } = this.host;
    this.size = { width, height };
    this.body.replaceChildren();
    if (!width || !height || !this.dots.length) return;
    this.body.setAttribute("viewBox", `0 0 ${width} ${height}`);
    this.body.setAttribute("aria-label", `${this.looks.labels[1]} against ${this.looks.labels[0]}, ${this.dots.length} trials`);
    const ticks = { x: ticksBetween(this.dots.map((dot) => dot.x), 7), y: ticksBetween(this.dots.map((dot) => dot.y), 4) };
    this.scale = { x: [ticks.x[0], ticks.x.at(-1)], y: [ticks.y[0], ticks.y.at(-1)] };
    if (this.band) this.#drawBand();
    this.#drawAxes(ticks);
    this.#drawDots();
    this.#drawFrontier();
  }

  #drawBand() {
    const { x, y } = this.band;
    const [left, top] = [this.#x(x[0]), this.#y(y[1])];
    this.body.append(svg("rect", { class: "plot-band", x: left, y: top, width: Math.max(this.#x(x[1]) - left, 1), height: Math.max(this.#y(y[0]) - top, 1) }));
  }

  #drawAxes({ x, y }) {
    const [left, right, top, bottom] = [this.#x(x[0]), this.#x(x.at(-1)), this.#y(y.at(-1)), this.#y(y[0])];
    this.body.append(svg("path", { class: "plot-axis", d: `M${left} ${top}V${bottom}H${right}` }));
    for (const value of x) this.body.append(svg("path", { class: "plot-axis", d: `M${this.#x(value)} ${bottom}v4` }), svg("text", { ...this.#under(value), y: bottom + 16 }, said(value)));
    for (const value of y) this.body.append(svg("path", { class: "plot-axis", d: `M${left} ${this.#y(value)}h-4` }), svg("text", { x: left - 8, y: this.#y(value) + 4, "text-anchor": "end" }, said(value)));
  }

  #drawDots() {
    let crosses = "";
    for (const dot of this.dots) {
      const [x, y] = [this.#x(dot.x), this.#y(dot.y)];
      if (dot.fails) crosses += `M${x - 3} ${y - 3}l6 6m0-6l-6 6`;
      else this.body.append(svg("circle", { class: "plot-dot", cx: x, cy: y, r: 3 }));
    }
    this.body.append(svg("path", { class: "plot-cross", d: crosses || "M0 0" }));
  }

  // The trials that hold and of which none is better in both aims (the Pareto frontier).
  #drawFrontier() {
    const { x: aimX, y: aimY } = this.looks.aims;
    if (!aimX || !aimY) return;
    const best = frontier(this.dots, aimX, aimY);
    if (best.length < 2) return;
    this.body.append(svg("polyline", { class: "plot-frontier", points: best.map((dot) => `${this.#x(dot.x)},${this.#y(dot.y)}`).join(" ") }));
  }
}

function said(value) {
  return Number(value.toPrecision(6)).toLocaleString("en-GB").replaceAll(",", "\u2009");
}
