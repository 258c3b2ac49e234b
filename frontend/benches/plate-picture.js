// A plate drawn on a canvas: the lines of a layer, the layers as a stack, or the footprints. It is moved by
// dragging, and made larger by the wheel about the pointer.
import { drag } from "../dragging.js";

const RIM = 28;
const MOST_DRAWN = 160; // layers of a stack that are drawn

export const ROLE_KINDS = {
  "outer wall": "outer",
  "inner walls": "inner",
  skin: "skin",
  inside: "inside",
  support: "support",
  brim: "brim",
  travel: "travel",
};

const COLOURS = {
  outer: "--color-ink",
  inner: "--color-ink-soft",
  skin: "--line-skin",
  inside: "--line-inside",
  support: "--line-support",
  brim: "--color-verdigris",
  travel: "--color-indigo",
};

export class PlatePicture {
  constructor(host, again) {
    this.host = host;
    this.again = again;
    this.canvas = document.createElement("canvas");
    host.append(this.canvas);
    this.look = null; // { scale, x, y } where it was moved
    this.marked = null;
    this.scale = 1;
    this.width = 0;
    this.height = 0;
    this.#listen();
    new ResizeObserver(() => again()).observe(host);
    matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => again());
  }

  fit() {
    this.look = null;
    this.marked = null;
  }

  // Goes near to a place of the plate, and marks it.
  lookAt([x, y]) {
    this.look = { scale: Math.max(this.scale, 12), x, y };
    this.marked = [x, y];
  }

  show(seen) {
    this.seen = seen;
    this.#size();
    const pen = this.canvas.getContext("2d");
    pen.setTransform(this.ratio, 0, 0, this.ratio, 0, 0);
    pen.clearRect(0, 0, this.width, this.height);
    if (!seen.print || !this.width) return;
    this.#place();
    if (seen.view === "Stack") this.#drawStack(pen);
    else if (seen.view === "Plate") this.#drawPlate(pen);
    else this.#drawLayer(pen);
  }

  #size() {
    this.ratio = devicePixelRatio || 1;
    ({ clientWidth: this.width, clientHeight: this.height } = this.host);
    this.canvas.width = Math.round(this.width * this.ratio);
    this.canvas.height = Math.round(this.height * this.ratio);
    const style = getComputedStyle(this.host);
    this.colour = (name) => style.getPropertyValue(name).trim();
  }

  // The box (x, y of its least and greatest corner) of what stands on the plate.
  #box() {
    const { print, plate, view } = this.seen;
    if (view === "Plate") return [0, 0, print.width, print.depth];
    const places = print.plates[plate].places;
    return [
      Math.min(...places.map((one) => one.x)),
      Math.min(...places.map((one) => one.y)),
      Math.max(...places.map((one) => one.x + one.size[0])),
      Math.max(...places.map((one) => one.y + one.size[1])),
    ];
  }

  #place() {
    const [x0, y0, x1, y1] = this.#box();
    const scale = Math.min((this.width - 2 * RIM) / (x1 - x0), (this.height - 2 * RIM - 30) / (y1 - y0));
    const { scale: own, x, y } = this.look ?? { scale, x: (x0 + x1) / 2, y: (y0 + y1) / 2 };
    this.scale = own;
    this.at = (px, py) => [this.width / 2 + (px - x) * own, this.height / 2 + 10 - (py - y) * own];
    this.back = (px, py) => [x + (px - this.width / 2) / own, y - (py - this.height / 2 - 10) / own];
  }

  #path(pen, flat) {
    for (let at = 0; at < flat.length; at += 2) {
      const [x, y] = this.at(flat[at], flat[at + 1]);
      if (at) pen.lineTo(x, y);
      else pen.moveTo(x, y);
    }
  }

  #drawLayer(pen) {
    this.#drawRim(pen);
    const { lines, layer } = this.seen;
    if (!lines || lines.layer !== layer) return;
    pen.lineJoin = "round";
    const thick = (width) => Math.min(Math.max(width * this.scale * 0.72, 0.7), 60);
    for (const [role, kind] of Object.entries(ROLE_KINDS)) {
      const own = lines.lines.filter((one) => one.role === role);
      pen.strokeStyle = this.colour(COLOURS[kind]);
      for (const width of new Set(own.map((one) => one.width))) {
        pen.beginPath();
        for (const one of own.filter((each) => each.width === width)) this.#path(pen, one.at);
        pen.lineWidth = kind === "outer" ? Math.max(thick(width), 1.4) : thick(width);
        pen.stroke();
      }
    }
    this.#drawTravel(pen, lines.lines);
    this.#drawMark(pen);
  }

  #drawTravel(pen, lines) {
    pen.beginPath();
    lines.slice(1).forEach((one, at) => {
      const before = lines[at].at;
      this.#path(pen, [before.at(-2), before.at(-1), one.at[0], one.at[1]]);
    });
    pen.strokeStyle = this.colour(COLOURS.travel);
    pen.lineWidth = 0.6;
    pen.setLineDash([3, 3]);
    pen.stroke();
    pen.setLineDash([]);
  }

  #drawMark(pen) {
    if (!this.marked) return;
    const [x, y] = this.at(...this.marked);
    pen.beginPath();
    pen.arc(x, y, 16, 0, 7);
    pen.strokeStyle = this.colour("--color-madder");
    pen.lineWidth = 2;
    pen.stroke();
  }

  #drawRim(pen) {
    const { width, depth } = this.seen.print;
    const step = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000].find((one) => one * this.scale >= 24) ?? 1000;
    pen.beginPath();
    for (let x = 0; x <= width; x += step) this.#path(pen, [x, 0, x, depth]);
    for (let y = 0; y <= depth; y += step) this.#path(pen, [0, y, width, y]);
    pen.strokeStyle = this.colour("--ground-grid");
    pen.lineWidth = 1;
    pen.stroke();
    pen.beginPath();
    this.#path(pen, [0, 0, width, 0, width, depth, 0, depth, 0, 0]);
    pen.strokeStyle = this.colour("--color-ink-soft");
    pen.stroke();
  }

  #drawPlate(pen) {
    this.#drawRim(pen);
    const { print, plate, outlines } = this.seen;
    pen.beginPath();
    for (const ring of outlines[0] ?? []) this.#path(pen, [...ring, ring[0], ring[1]]);
    pen.fillStyle = this.colour("--color-sheet");
    pen.fill("evenodd");
    pen.strokeStyle = this.colour("--color-ink");
    pen.lineWidth = 1;
    pen.stroke();
    pen.font = "12px Spline Sans, sans-serif";
    pen.textAlign = "center";
    for (const one of print.plates[plate].places) {
      const [left, bottom] = this.at(one.x, one.y);
      const [right, top] = this.at(one.x + one.size[0], one.y + one.size[1]);
      pen.strokeStyle = this.colour("--color-rule");
      pen.strokeRect(left, top, right - left, bottom - top);
      const said = print.bodies[one.body].label;
      if (pen.measureText(said).width > right - left) continue;
      pen.fillStyle = this.colour("--color-ink");
      pen.fillText(said, (left + right) / 2, (top + bottom) / 2 + 4);
    }
  }

  // Layer upon layer, seen from the front and above: each covers what it hides of those below.
  #drawStack(pen) {
    const { print, layer, outlines, plate } = this.seen;
    const [x0, y0, x1, y1] = this.#box();
    const tall = print.levels[print.plates[plate].layers - 1] + print.heights[print.plates[plate].layers - 1];
    const [turned, lean, rise] = [Math.cos(0.6), Math.sin(0.6), 0.82];
    const flat = (x, y) => [(x - x0) * turned - (y - y0) * lean, ((x - x0) * lean + (y - y0) * turned) * 0.5];
    const corners = [flat(x0, y0), flat(x1, y0), flat(x1, y1), flat(x0, y1)];
    const [left, right] = [Math.min(...corners.map(([x]) => x)), Math.max(...corners.map(([x]) => x))];
    const high = Math.max(...corners.map(([, y]) => y)) + tall * rise;
    const own = Math.min((this.width - 2 * RIM) / (right - left), (this.height - 2 * RIM - 30) / high) * (this.look ? this.look.scale / this.#fitScale() : 1);
    const put = (x, y, z) => {
      const [px, py] = flat(x, y);
      return [this.width / 2 + (px - (left + right) / 2) * own, this.height / 2 + 15 + (high / 2 - py - z * rise) * own];
    };
    const every = Math.max(1, Math.ceil((layer + 1) / MOST_DRAWN));
    for (let at = 0; at <= layer; at += 1) {
      if (at % every && at !== layer) continue;
      if (!outlines[at]) continue;
      const z = print.levels[at] + print.heights[at];
      pen.beginPath();
      for (const ring of outlines[at]) {
        for (let k = 0; k < ring.length; k += 2) {
          const [px, py] = put(ring[k], ring[k + 1], z);
          if (k) pen.lineTo(px, py);
          else pen.moveTo(px, py);
        }
        pen.closePath();
      }
      pen.fillStyle = this.colour(at === layer ? "--color-sheet" : "--color-rule");
      pen.fill("evenodd");
      pen.strokeStyle = this.colour(at === layer ? "--color-ink" : "--color-ink-soft");
      pen.lineWidth = at === layer ? 1.2 : 0.35;
      pen.stroke();
    }
  }

  #fitScale() {
    const [x0, y0, x1, y1] = this.#box();
    return Math.min((this.width - 2 * RIM) / (x1 - x0), (this.height - 2 * RIM - 30) / (y1 - y0));
  }

  #listen() {
    this.canvas.addEventListener("pointerdown", (event) => {
      const before = this.look;
      const lookAt = (look) => {
        this.look = look;
        this.again();
      };
      const move = (_, by) => {
        if (!this.at) return;
        const [x, y] = this.back(this.width / 2 - by[0], this.height / 2 + 10 - by[1]);
        lookAt({ scale: this.scale, x, y });
      };
      drag(event, { move, back: () => lookAt(before) });
    });
    this.canvas.addEventListener(
      "wheel",
      (event) => {
        if (!this.back) return;
        event.preventDefault();
        const scale = Math.min(Math.max(this.scale * 1.0015 ** -event.deltaY, 0.02), 2000);
        const [x, y] = this.back(event.offsetX, event.offsetY);
        // What lies under the pointer stays there.
        this.look = { scale, x: x - (event.offsetX - this.width / 2) / scale, y: y + (event.offsetY - this.height / 2 - 10) / scale };
        this.again();
      },
      { passive: false },
    );
  }
}
