// A small slide rule for a range: drawn like those of the faceplate, with a band between two ends that
// are dragged or turned by keys; the present value stands as a hairline.
import { drag } from "../dragging.js";
import { steppedTo } from "../faceplate/turning.js";

const SVG = "http://www.w3.org/2000/svg";
const INSET = 5;

function svg(name, attributes = {}) {
  const node = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
  return node;
}

export class RangeRule {
  /**
   * @param {HTMLElement} host
   * @param {Record<string, any>} axis
   * @param {(range: number[]) => void} narrowed
   */
  constructor(host, axis, narrowed) {
    this.axis = axis;
    this.narrowed = narrowed;
    this.range = [...axis.range];
    this.scale = { from: axis.low, to: axis.high, base: axis.base, step: axis.step > 0 ? axis.step : (axis.high - axis.low) / 200 || 1, size: axis.size };
    this.body = svg("svg", { class: "range-body" });
    this.band = svg("rect", { class: "range-band", y: "1", height: "17" });
    this.ticks = svg("path", { class: "ticks" });
    this.hair = svg("path", { class: "range-hair" });
    this.ends = [this.#end("least", 0), this.#end("greatest", 1)];
    this.body.append(svg("rect", { class: "face", x: "0.5", y: "0.5", height: "18", width: "100%" }), this.band, this.ticks, this.hair, ...this.ends);
    host.append(this.body);
    this.width = 0;
    new ResizeObserver(([{ contentRect }]) => {
      this.width = contentRect.width;
      this.#draw();
    }).observe(this.body);
  }

  #end(said, place) {
    const end = svg("rect", { class: "range-end", y: "0", width: "9", height: "19", tabindex: "0", role: "slider", "aria-label": `${said} ${this.axis.label}` });
    end.addEventListener("pointerdown", (event) => {
      const before = this.range[place];
      this.box = this.body.getBoundingClientRect();
      drag(event, { move: (moved) => this.#move(place, this.#valueAt(moved.clientX)), back: () => this.#set(place, before) });
      end.focus();
    });
    end.addEventListener("keydown", (event) => {
      const steps = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[event.key];
      const limit = { Home: this.scale.from, End: this.scale.to }[event.key];
      if (steps === undefined && limit === undefined) return;
      event.preventDefault();
      this.#move(place, limit ?? this.range[place] + steps * this.scale.step);
    });
    return end;
  }

  #valueAt(clientX) {
    const share = (clientX - this.box.left - INSET) / (this.box.width - 2 * INSET);
    return this.scale.from + share * (this.scale.to - this.scale.from);
  }

  #move(place, value) {
    this.#set(place, steppedTo(value, this.scale));
  }

  #set(place, next) {
    this.range[place] = place ? Math.max(next, this.range[0]) : Math.min(next, this.range[1]);
    this.#draw();
    this.narrowed([...this.range]);
  }

  show(axis) {
    if (!axis) return;
    this.range = [...axis.range];
    this.#draw();
  }

  #x(value) {
    const { from, to } = this.scale;
    return INSET + ((value - from) / (to - from || 1)) * (this.width - 2 * INSET);
  }

  #draw() {
    if (!this.width) return;
    const [low, high] = this.range.map((value) => this.#x(value));
    this.band.setAttribute("x", String(low));
    this.band.setAttribute("width", String(Math.max(high - low, 1)));
    let path = "";
    for (let at = 0; at <= 20; at++) path += `M${(INSET + (at * (this.width - 2 * INSET)) / 20).toFixed(1)} 18.5v${at % 10 ? (at % 5 ? -4 : -6) : -9}`;
    this.ticks.setAttribute("d", path);
    this.hair.setAttribute("d", `M${this.#x(this.axis.value)} 0v19`);
    for (const [at, end] of this.ends.entries()) {
      end.setAttribute("x", String((at ? high : low) - 4.5));
      end.setAttribute("aria-valuemin", String(this.scale.from / this.axis.size));
      end.setAttribute("aria-valuemax", String(this.scale.to / this.axis.size));
      end.setAttribute("aria-valuenow", String(this.range[at] / this.axis.size));
      end.setAttribute("aria-valuetext", `${Number((this.range[at] / this.axis.size).toPrecision(7))} ${this.axis.unit}`);
    }
  }
}
