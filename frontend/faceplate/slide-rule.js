// A slide rule: the control of one number, length or angle. A drawn ruler with a hairline to
// drag, a value to type, arrow and page keys; its limits and its step can be typed anew.
import { drag } from "../dragging.js";
import { scaleOf, steppedTo, written } from "./turning.js";

const SVG = "http://www.w3.org/2000/svg";
const INSET = 6;
const KEY_PAUSE = 500; // milliseconds

function svg(name, attributes = {}) {
  const node = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
  return node;
}

function element(name, properties = {}, ...children) {
  const node = Object.assign(document.createElement(name), properties);
  node.append(...children);
  return node;
}

export class SlideRule {
  /**
   * @param {HTMLElement} host
   * @param {Record<string, any>} input as the scene has it
   * @param {object} told
   * @param {(value: number) => void} told.turned while it moves
   * @param {(value: number) => void} told.settled when it is let go
   * @param {(value: number) => void} told.unturned when it came back to where it began
   * @param {(text: string) => void} told.typed by hand
   * @param {() => void} [told.restore] at a double click
   * @param {(role: string, text: string) => void} [told.limited] where limits can be typed
   */
  constructor(host, input, { turned, settled, unturned, typed, restore, limited }) {
    this.host = host;
    this.turned = turned;
    this.settled = settled;
    this.unturned = unturned;
    this.typed = typed;
    this.restore = restore;
    this.limited = limited;
    this.#build(input);
    this.show(input);
    // Asking the page for its width at each turn would lay it out anew each time.
    this.watch = new ResizeObserver(([{ contentRect }]) => {
      this.width = contentRect.width;
      this.#draw();
    });
    this.watch.observe(this.body);
  }

  dispose() {
    this.watch.disconnect();
  }

  #build(input) {
    this.box = element("input", { className: "rule-typed", id: `value-${input.key ?? input.name}`, autocomplete: "off" });
    const label = element("label", { textContent: input.label, htmlFor: this.box.id });
    if (input.help) label.title = input.help;
    this.unit = element("span", { className: "unit" });
    const head = element("div", { className: "rule-label" }, label, element("span", {}, this.box, " ", this.unit));

    this.body = svg("svg", { class: "rule-body", role: "slider", tabindex: "0", "aria-label": input.label });
    this.face = svg("rect", { class: "face", x: "0.5", y: "3.5", height: "18" });
    this.ticks = svg("path", { class: "ticks" });
    this.hair = svg("line", { class: "hair", y1: "2", y2: "25" });
    this.wedge = svg("path", { class: "wedge" });
    this.bands = svg("g", { class: "rule-bands" });
    this.body.append(this.face, this.bands, this.ticks, this.hair, this.wedge);

    this.limits = element("div", { className: "rule-limits" });
    this.places = {};
    for (const [role, said] of [["low", "lower limit"], ["step", "step"], ["high", "upper limit"]]) {
      this.places[role] = this.limited ? element("button", { type: "button", className: "rule-limit" }) : element("span");
      if (this.limited) this.places[role].addEventListener("click", () => this.#typeLimit(role, said, input.label));
      this.limits.append(this.places[role]);
    }
    this.why = element("p", { className: "rule-why" });
    this.why.hidden = true;
    this.host.replaceChildren(head, this.body, this.limits, this.why);
    this.#listen();
  }

  #listen() {
    this.body.addEventListener("pointerdown", (event) => this.#begin(event));
    this.body.addEventListener("dblclick", () => this.restore?.());
    this.body.addEventListener("keydown", (event) => this.#key(event));
    this.body.addEventListener("keyup", () => {
      clearTimeout(this.pause);
      this.pause = setTimeout(() => this.#settleKeys(), KEY_PAUSE);
    });
    this.body.addEventListener("blur", () => this.#settleKeys());
    this.box.addEventListener("focus", () => this.box.select());
    this.box.addEventListener("keydown", (event) => {
      if (event.key === "Enter") this.box.blur();
      if (event.key === "Escape") {
        event.preventDefault(); // it leaves the box, nothing else
        this.box.value = this.shownNumber;
        this.box.blur();
      }
    });
    this.box.addEventListener("blur", () => {
      if (this.box.value.trim() !== this.shownNumber) this.typed(this.box.value);
    });
  }

  #begin(event) {
    this.#settleKeys();
    const before = this.value;
    this.place = this.body.getBoundingClientRect();
    this.dragging = drag(event, {
      move: (moved) => this.#turnTo(this.#valueAt(moved)),
      drop: () => this.#end(before),
      back: () => {
        this.#show(before); // which may lie between two steps
        this.#end(before);
      },
    });
    if (!this.dragging) return;
    this.body.focus();
    if (event.detail < 2) this.#turnTo(this.#valueAt(event));
  }

  // A turn is over: it is settled, or where it came back to what it was, forgotten.
  #end(before) {
    this.dragging = false;
    if (this.value === before) this.unturned(before);
    else this.settled(this.value);
  }

  // A run of key presses is one change: it is over after a pause.
  #settleKeys() {
    clearTimeout(this.pause);
    if (!this.keyed) return;
    this.keyed = false;
    this.#end(this.before);
  }

  #key(event) {
    const { from, to, step } = this.scale;
    const steps = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[event.key];
    let value = steps ? this.value + steps * step : null;
    if (event.key === "Home") value = from;
    if (event.key === "End") value = to;
    if (value === null || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    if (!this.keyed) this.before = this.value;
    this.keyed = true;
    this.#turnTo(value);
  }

  #valueAt(event) {
    const { left, width } = this.place;
    const share = (event.clientX - left - INSET) / (width - 2 * INSET);
    return this.scale.from + Math.min(Math.max(share, 0), 1) * (this.scale.to - this.scale.from);
  }

  #turnTo(value) {
    this.#show(steppedTo(value, this.scale));
  }

  #show(next) {
    if (next === this.value) return;
    this.value = next;
    this.said = null; // it shows something else than what was given last
    this.#drawHair();
    this.#showNumber(written(next, this.scale.step, this.size));
    this.turned(next);
  }

  // A limit or the step, typed where it stands.
  #typeLimit(role, said, label) {
    const place = this.places[role];
    const box = element("input", { className: "rule-limit-typed", value: this.limitShown[role] ?? "" });
    box.setAttribute("aria-label", `${said} of ${label}`);
    let over = false;
    const end = (keep) => {
      if (over) return;
      over = true;
      const text = box.value.trim();
      box.replaceWith(place);
      if (keep && text && text !== this.limitShown[role]) this.limited(role, text);
      else if (keep !== "away") place.focus();
    };
    box.addEventListener("keydown", (event) => {
      if (event.key === "Enter") end(true);
      if (event.key === "Escape") end(false);
    });
    box.addEventListener("blur", () => end("away"));
    place.replaceWith(box);
    box.select();
  }

  // Takes an input as the server gives it.
  show(input) {
    if (this.dragging || this.keyed) return;
    const said = JSON.stringify(input);
    if (said === this.said && this.box.value === this.shownNumber) return;
    this.said = said;
    this.size = input.size;
    this.value = input.value;
    this.scale = scaleOf(input);
    this.limitShown = { low: input.low_shown, high: input.high_shown, step: input.step_shown };
    const { low, step, high } = this.places;
    low.textContent = input.low_shown ?? (this.limited ? "no lower limit" : "");
    high.textContent = input.high_shown ?? (this.limited ? "no upper limit" : "");
    step.textContent = input.step_shown ? `step ${input.step_shown}` : this.limited ? "no step" : "";
    if (this.limited) {
      low.setAttribute("aria-label", `${low.textContent}, lower limit of ${input.label}`);
      high.setAttribute("aria-label", `${high.textContent}, upper limit of ${input.label}`);
      step.setAttribute("aria-label", `${step.textContent} of ${input.label}`);
    }
    this.unit.textContent = input.unit;
    this.body.setAttribute("aria-valuemin", this.scale.from / this.size);
    this.body.setAttribute("aria-valuemax", this.scale.to / this.size);
    this.#draw();
    this.#showNumber(input.number);
  }

  // Where along it what follows from it fails, as the server found it; null while that is not known.
  /** @param {import("../answers").Bands | null} found */
  showBands(found) {
    if (!found && !this.banded) return;
    this.banded = found;
    this.#drawBands();
  }

  #drawBands() {
    const failing = this.banded?.failing ?? [];
    this.bands.replaceChildren(...failing.map((band) => this.#band(band)));
    const here = failing.find((band) => this.value >= band.low && this.value <= band.high);
    this.why.hidden = !here;
    this.why.textContent = here ? `✕ ${here.why}` : "";
    if (failing.length) this.body.setAttribute("aria-description", failing.map((band) => `fails from ${this.#said(band.low)} to ${this.#said(band.high)}: ${band.why}`).join("; "));
    else this.body.removeAttribute("aria-description");
  }

  #band({ low, high, why }) {
    const [from, to] = [this.#x(Math.max(low, this.scale.from)), this.#x(Math.min(high, this.scale.to))];
    const band = svg("g");
    const width = Math.max(to - from, 3);
    let hatch = "";
    for (let x = from - 5; x < from + width; x += 4) hatch += `M${Math.max(x, from).toFixed(1)} ${(26 - Math.max(0, from - x)).toFixed(1)}L${Math.min(x + 5, from + width).toFixed(1)} ${(26 - Math.min(5, from + width - x)).toFixed(1)}`;
    band.append(svg("rect", { x: from, y: 21, width, height: 5 }), svg("path", { d: hatch }), svg("title"));
    band.lastChild.textContent = `fails from ${this.#said(low)} to ${this.#said(high)}: ${why}`;
    return band;
  }

  #said(value) {
    return `${written(value, this.scale.step, this.size)} ${this.unit.textContent}`.trim();
  }

  #showNumber(number) {
    this.shownNumber = number;
    if (document.activeElement !== this.box || this.dragging) this.box.value = number;
    this.body.setAttribute("aria-valuenow", this.value / this.size);
    this.body.setAttribute("aria-valuetext", `${number} ${this.unit.textContent}`);
  }

  #draw() {
    this.#drawTicks();
    this.#drawHair();
    if (this.banded) this.#drawBands();
  }

  // Ticks at multiples of the step, as many as can be told apart; every fifth and tenth longer.
  #drawTicks() {
    if (!this.width) return; // it is not laid out yet
    const { from, to, base, step } = this.scale;
    const drawn = [this.width, from, to, base, step].join();
    if (drawn === this.ticksDrawn) return;
    this.ticksDrawn = drawn;
    this.face.setAttribute("width", this.width - 1);
    const room = this.width - 2 * INSET;
    let spacing = step;
    const factors = [2, 2.5, 2];
    for (let turn = 0; room * spacing < 4 * (to - from); turn++) spacing *= factors[turn % 3];
    const first = Math.ceil((from - base) / spacing - 1e-9);
    let path = "";
    for (let at = first; base + at * spacing <= to * (1 + 1e-12) + spacing * 1e-6; at++) {
      const x = this.#x(base + at * spacing).toFixed(1);
      const length = at % 10 === 0 ? 11 : at % 5 === 0 ? 8 : 5;
      path += `M${x} 21.5v${-length}`;
    }
    this.ticks.setAttribute("d", path);
  }

  #x(value) {
    const room = this.width - 2 * INSET;
    return INSET + ((value - this.scale.from) / (this.scale.to - this.scale.from || 1)) * room;
  }

  #drawHair() {
    if (!this.width) return;
    const x = this.#x(this.value);
    this.hair.setAttribute("x1", x);
    this.hair.setAttribute("x2", x);
    this.wedge.setAttribute("d", `M${x - 5} 0h10l-5 7z`);
  }
}
