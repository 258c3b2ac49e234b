// A slide rule: the control of one number, length or angle. A drawn ruler with a hairline to
// drag, a value to type, arrow and page keys.

const SVG = "http://www.w3.org/2000/svg";
const INSET = 6;
const KEY_PAUSE = 500; // milliseconds

function svg(name, attributes = {}) {
  const node = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, value);
  return node;
}

export class SlideRule {
  // `turned(value)` while it moves, `settled(value)` when it is let go, `typed(text)` by hand.
  constructor(host, input, { turned, settled, typed }) {
    this.host = host;
    this.turned = turned;
    this.settled = settled;
    this.typed = typed;
    this.#build(input);
    this.show(input);
    new ResizeObserver(() => this.#drawTicks()).observe(this.body);
  }

  #build(input) {
    const label = document.createElement("label");
    label.textContent = input.label;
    label.title = input.help;
    this.box = Object.assign(document.createElement("input"), { className: "rule-typed", id: `value-${input.name}` });
    label.htmlFor = this.box.id;
    this.unit = Object.assign(document.createElement("span"), { className: "unit" });
    const value = document.createElement("span");
    value.append(this.box, " ", this.unit);
    const head = Object.assign(document.createElement("div"), { className: "rule-label" });
    head.append(label, value);

    this.body = svg("svg", { class: "rule-body", role: "slider", tabindex: "0", "aria-label": input.label });
    this.face = svg("rect", { class: "face", x: "0.5", y: "3.5", height: "18" });
    this.ticks = svg("path", { class: "ticks" });
    this.hair = svg("line", { class: "hair", y1: "2", y2: "25" });
    this.wedge = svg("path", { class: "wedge" });
    this.body.append(this.face, this.ticks, this.hair, this.wedge);

    this.limits = Object.assign(document.createElement("div"), { className: "rule-limits" });
    this.low = document.createElement("span");
    this.high = document.createElement("span");
    this.limits.append(this.low, this.high);
    this.host.replaceChildren(head, this.body, this.limits);
    this.#listen();
  }

  #listen() {
    this.body.addEventListener("pointerdown", (event) => {
      this.body.setPointerCapture(event.pointerId);
      this.body.focus();
      this.dragging = true;
      this.#turnTo(this.#valueAt(event));
    });
    this.body.addEventListener("pointermove", (event) => {
      if (this.dragging) this.#turnTo(this.#valueAt(event));
    });
    const release = () => {
      if (!this.dragging) return;
      this.dragging = false;
      this.settled(this.value);
    };
    this.body.addEventListener("pointerup", release);
    this.body.addEventListener("pointercancel", release);
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
        this.box.value = this.shownNumber;
        this.box.blur();
      }
    });
    this.box.addEventListener("blur", () => {
      if (this.box.value.trim() !== this.shownNumber) this.typed(this.box.value);
    });
  }

  // A run of key presses is one change: it is over after a pause.
  #settleKeys() {
    clearTimeout(this.pause);
    if (!this.keyed) return;
    this.keyed = false;
    this.settled(this.value);
  }

  #key(event) {
    const steps = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[event.key];
    let value = steps ? this.value + steps * this.step : null;
    if (event.key === "Home") value = this.from;
    if (event.key === "End") value = this.to;
    if (value === null) return;
    event.preventDefault();
    this.keyed = true;
    this.#turnTo(value);
  }

  #valueAt(event) {
    const { left, width } = this.body.getBoundingClientRect();
    const share = (event.clientX - left - INSET) / (width - 2 * INSET);
    return this.from + Math.min(Math.max(share, 0), 1) * (this.to - this.from);
  }

  // The nearest step from the lower limit, within the limits.
  #turnTo(value) {
    const stepped = this.base + Math.round((value - this.base) / this.step) * this.step;
    const held = Math.min(Math.max(stepped, this.from), this.to);
    const clean = Number(held.toPrecision(12));
    if (clean === this.value) return;
    this.value = clean;
    this.#drawHair();
    this.#showNumber(this.#formatted(clean));
    this.turned(clean);
  }

  #formatted(value) {
    const decimals = Math.max(0, Math.min(6, Math.ceil(-Math.log10(this.step / this.size) - 1e-9)));
    return (value / this.size).toFixed(decimals);
  }

  // Takes an input as the server gives it. A rule without limits reaches to twice its value.
  show(input) {
    if (this.dragging || this.keyed) return;
    const reach = Math.max(Math.abs(input.value) * 2, input.size * 10);
    this.size = input.size;
    this.value = input.value;
    this.from = Math.min(input.low ?? (input.value < 0 ? -reach : 0), input.value);
    this.to = Math.max(input.high ?? reach, input.value);
    this.base = input.low ?? 0;
    this.step = input.step > 0 ? input.step : 10 ** Math.floor(Math.log10((this.to - this.from) / 100));
    this.low.textContent = input.low_shown ?? "";
    this.high.textContent = input.high_shown ?? "";
    this.unit.textContent = input.unit;
    this.body.setAttribute("aria-valuemin", this.from / this.size);
    this.body.setAttribute("aria-valuemax", this.to / this.size);
    this.#drawTicks();
    this.#showNumber(input.number);
  }

  #showNumber(number) {
    this.shownNumber = number;
    if (document.activeElement !== this.box || this.dragging) this.box.value = number;
    this.body.setAttribute("aria-valuenow", this.value / this.size);
    this.body.setAttribute("aria-valuetext", `${number} ${this.unit.textContent}`);
  }

  // Ticks at multiples of the step, as many as can be told apart; every fifth and tenth longer.
  #drawTicks() {
    const width = this.body.clientWidth;
    if (!width) return;
    this.face.setAttribute("width", width - 1);
    const room = width - 2 * INSET;
    let spacing = this.step;
    const factors = [2, 2.5, 2];
    for (let turn = 0; room * spacing < 4 * (this.to - this.from); turn++) spacing *= factors[turn % 3];
    const first = Math.ceil((this.from - this.base) / spacing - 1e-9);
    let path = "";
    for (let at = first; this.base + at * spacing <= this.to * (1 + 1e-12) + spacing * 1e-6; at++) {
      const x = this.#x(this.base + at * spacing).toFixed(1);
      const length = at % 10 === 0 ? 11 : at % 5 === 0 ? 8 : 5;
      path += `M${x} 21.5v${-length}`;
    }
    this.ticks.setAttribute("d", path);
    this.#drawHair();
  }

  #x(value) {
    const room = this.body.clientWidth - 2 * INSET;
    return INSET + ((value - this.from) / (this.to - this.from || 1)) * room;
  }

  #drawHair() {
    const x = this.#x(this.value);
    this.hair.setAttribute("x1", x);
    this.hair.setAttribute("x2", x);
    this.wedge.setAttribute("d", `M${x - 5} 0h10l-5 7z`);
  }
}
