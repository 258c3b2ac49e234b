// The rule of layers: a bar for each, drawn over a rule with ticks, and a hair on the one that is looked at.
import { drag } from "../dragging.js";

const SVG = "http://www.w3.org/2000/svg";
const BARS = 54;
const FACE = [58, 78];

function svg(name, attributes) {
  const node = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, String(value));
  return node;
}

export class LayerRule {
  constructor(host, turned) {
    this.host = host;
    this.turned = turned;
    this.seen = { count: 0, layer: 0, values: [], amiss: new Set() };
    this.body = svg("svg", { class: "layer-rule", role: "slider", tabindex: 0, "aria-label": "Layer", "aria-valuemin": 1 });
    host.append(this.body);
    this.#listen();
    new ResizeObserver(() => this.#draw()).observe(host);
  }

  show(seen) {
    this.seen = seen;
    this.#draw();
  }

  #listen() {
    const at = (event) => {
      const { left, width } = this.body.getBoundingClientRect();
      this.turned(Math.floor(((event.clientX - left) / width) * this.seen.count));
    };
    this.body.addEventListener("pointerdown", (event) => {
      const before = this.seen.layer;
      if (drag(event, { move: at, back: () => this.turned(before) })) at(event);
    });
    this.body.addEventListener("keydown", (event) => {
      const { layer, count } = this.seen;
      const steps = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10, Home: -count, End: count };
      if (!(event.key in steps)) return;
      event.preventDefault();
      this.turned(layer + steps[event.key]);
    });
  }

  #draw() {
    const { count, layer, values, amiss } = this.seen;
    const width = this.host.clientWidth;
    this.body.replaceChildren();
    this.body.setAttribute("aria-valuemax", String(Math.max(count, 1)));
    this.body.setAttribute("aria-valuenow", String(layer + 1));
    if (!width || !count) return;
    this.body.setAttribute("viewBox", `0 0 ${width} 92`);
    const step = width / count;
    const most = Math.max(...values, 1e-9);
    const bar = (at) => {
      const high = ((values[at] ?? 0) / most) * BARS;
      return `M${(at * step).toFixed(2)} ${BARS}v${(-high).toFixed(2)}h${Math.max(step - (step > 3 ? 1 : 0), 0.4).toFixed(2)}v${high.toFixed(2)}z`;
    };
    this.body.append(svg("path", { class: "bars", d: values.map((_, at) => bar(at)).join("") || "M0 0" }));
    this.body.append(svg("path", { class: "bar-chosen", d: values[layer] === undefined ? "M0 0" : bar(layer) }));
    this.body.append(svg("path", { class: "amiss", d: [...amiss].map((at) => `M${(at * step).toFixed(2)} ${BARS}h${Math.max(step, 1).toFixed(2)}v3h${(-Math.max(step, 1)).toFixed(2)}z`).join("") || "M0 0" }));
    this.body.append(svg("rect", { class: "face", x: 0.5, y: FACE[0] + 0.5, width: width - 1, height: FACE[1] - FACE[0] }));
    this.body.append(svg("path", { class: "ticks", d: this.#ticks(count, step) }));
    const x = (layer + 0.5) * step;
    this.body.append(svg("path", { class: "hair", d: `M${x} ${BARS}V${FACE[1] + 8}` }), svg("path", { class: "wedge", d: `M${x - 4} ${FACE[1] + 8}h8l-4 -6z` }));
  }

  // A tick for each layer where there is room, a longer one for each tenth.
  #ticks(count, step) {
    const every = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 5000].find((one) => one * step >= 4) ?? 5000;
    let d = "";
    for (let at = every; at < count; at += every) d += `M${(at * step).toFixed(2)} ${FACE[1]}v${(at / every) % 10 ? -6 : -11}`;
    return d || "M0 0";
  }
}
