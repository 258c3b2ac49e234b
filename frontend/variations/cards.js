// The cards of a contact sheet. Only those that are seen are on the page: a thousand scroll like ten.

const WIDTH = 216; // pixels, at least
const GAP = 12;
const MARGIN = 300; // pixels above and below what is seen

function element(name, properties = {}, ...children) {
  const node = Object.assign(document.createElement(name), properties);
  node.append(...children);
  return node;
}

export class Cards {
  /**
   * @param {HTMLElement} host
   * @param {{picture: Function, choose: Function, pin: Function, take: Function}} told
   */
  constructor(host, told) {
    this.host = host;
    this.told = told;
    this.inner = element("div", { className: "cards-inner" });
    host.append(this.inner);
    this.cards = new Map(); // by number, those on the page
    this.trials = [];
    this.looks = { shown: [], labels: new Map(), varied: [], chosen: null, pinned: [] };
    host.addEventListener("scroll", () => this.#lay(), { passive: true });
    host.addEventListener("keydown", (event) => this.#key(event));
    new ResizeObserver(() => this.#lay()).observe(host);
  }

  show(trials, looks) {
    this.trials = trials;
    this.looks = looks;
    for (const card of this.cards.values()) card.stale = true;
    this.#lay();
  }

  #lay() {
    const { clientWidth, clientHeight, scrollTop } = this.host;
    if (!clientWidth) return;
    const columns = Math.max(1, Math.floor((clientWidth - GAP) / (WIDTH + GAP)));
    const width = (clientWidth - GAP * (columns + 1)) / columns;
    const height = width * 0.64 + this.#linesHigh();
    this.columns = columns;
    this.inner.style.height = `${Math.ceil(this.trials.length / columns) * (height + GAP) + GAP}px`;
    const first = Math.max(0, Math.floor((scrollTop - MARGIN) / (height + GAP))) * columns;
    const last = Math.min(this.trials.length, Math.ceil((scrollTop + clientHeight + MARGIN) / (height + GAP)) * columns);
    const seen = new Set();
    for (let at = first; at < last; at++) {
      const trial = this.trials[at];
      seen.add(trial.number);
      const card = this.#card(trial);
      const place = `translate(${GAP + (at % columns) * (width + GAP)}px, ${GAP + Math.floor(at / columns) * (height + GAP)}px)`;
      Object.assign(card.node.style, { transform: place, width: `${width}px`, height: `${height}px` });
      card.node.setAttribute("aria-posinset", String(at + 1));
      card.node.setAttribute("aria-setsize", String(this.trials.length));
    }
    for (const [number, card] of this.cards) {
      if (seen.has(number)) continue;
      card.node.remove();
      this.cards.delete(number);
    }
  }

  #linesHigh() {
    const { varied, shown } = this.looks;
    return 34 + 17 * (Math.ceil(varied.length / 2) + Math.ceil((shown.length + 1) / 2));
  }

  #card(trial) {
    let card = this.cards.get(trial.number);
    if (!card || card.trial !== trial) {
      card?.node.remove();
      card = this.#made(trial);
      this.cards.set(trial.number, card);
      this.inner.append(card.node);
      this.told.picture(trial, card.canvas);
    } else if (card.stale && card.canvas.dataset.drawn !== "yes") this.told.picture(trial, card.canvas);
    if (card.stale !== false) this.#fill(card);
    return card;
  }

  #made(trial) {
    const canvas = element("canvas", { className: "card-picture" });
    canvas.setAttribute("aria-hidden", "true");
    const said = element("div", { className: "card-said" });
    const node = element("article", { className: "card", tabIndex: 0 }, canvas, said);
    node.dataset.number = String(trial.number);
    node.setAttribute("role", "listitem");
    node.addEventListener("click", () => this.told.choose(trial.number));
    node.addEventListener("focus", () => this.told.choose(trial.number));
    return { node, canvas, said, trial, stale: true };
  }

  #fill(card) {
    const { trial, node, said } = card;
    const { shown, labels, varied, chosen, pinned } = this.looks;
    card.stale = false;
    node.className = ["card", trial.why && "failing", pinned.includes(trial.number) && "pinned", chosen === trial.number && "chosen"].filter(Boolean).join(" ");
    const number = element("b", { textContent: trial.title || String(trial.number + 1) });
    const state = trial.why ? element("span", { className: "complaint", textContent: `✕ ${trial.why}`, title: trial.why }) : element("span", { className: "tag holds", textContent: "holds" });
    const pin = this.#button(pinned.includes(trial.number) ? "pinned" : "pin", `${pinned.includes(trial.number) ? "Pinned" : "Pin"} number ${trial.number + 1}`, () => this.told.pin(trial.number));
    pin.setAttribute("aria-pressed", String(pinned.includes(trial.number)));
    const take = this.#button("take", `Take number ${trial.number + 1}`, () => this.told.take(trial.number));
    const inputs = varied.map((name) => pair(shortened(name), trial.said[name]));
    const values = shown.filter((name) => name in trial.texts).map((name) => pair(shortened(name), trial.texts[name], labels.get(name)));
    const pieces = Object.values(trial.parts).reduce((sum, part) => sum + part.pieces, 0);
    if (pieces && values.length < 4) values.push(pair("pieces", String(pieces)));
    said.replaceChildren(
      element("p", { className: "card-head" }, number, state, element("span", { className: "card-words" }, pin, take)),
      element("p", { className: "card-inputs" }, ...inputs),
      element("p", { className: "card-values" }, ...values),
    );
    node.setAttribute("aria-label", `Trial ${trial.number + 1}: ${trial.why ? `fails, ${trial.why}` : "holds"}`);
  }

  #button(text, label, press) {
    const button = element("button", { type: "button", textContent: text });
    button.setAttribute("aria-label", label);
    button.addEventListener("click", (event) => {
      event.stopPropagation();
      press();
    });
    return button;
  }

  // Arrows go from card to card, also to those that are not seen yet; P pins, Enter takes.
  #key(event) {
    const node = event.target.closest?.(".card");
    if (!node || event.target !== node) return;
    const here = this.trials.findIndex((trial) => trial.number === Number(node.dataset.number));
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: this.columns, ArrowUp: -this.columns }[event.key];
    if (step) this.#go(here + step);
    else if (event.key === "Home") this.#go(0);
    else if (event.key === "End") this.#go(this.trials.length - 1);
    else if (event.key.toLowerCase() === "p") this.told.pin(this.trials[here].number);
    else if (event.key === "Enter") this.told.take(this.trials[here].number);
    else return;
    event.preventDefault();
  }

  #go(at) {
    const trial = this.trials[Math.min(Math.max(at, 0), this.trials.length - 1)];
    if (!this.cards.has(trial.number)) {
      const rows = Math.ceil(this.trials.length / this.columns);
      this.host.scrollTop = (Math.floor(at / this.columns) / rows) * this.inner.offsetHeight;
      this.#lay();
    }
    this.cards.get(trial.number)?.node.focus();
  }
}

function pair(name, said, title = name) {
  return element("span", { title: `${title} ${said}` }, element("i", { textContent: name }), element("b", { textContent: said }));
}

function shortened(name) {
  return name.replaceAll("_", " ");
}
