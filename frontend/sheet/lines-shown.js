// The lines of the sheet in the page, kept in step by hand: one look at all of them instead of templates and
// watchers for each, for a sheet may have thousands.
import Alpine from "../alpine.js";
import { say } from "./line-shown.js";

const HEARD = ["mousedown", "click", "keydown", "focus", "blur", "mouseenter"];
const OF_ITSELF = ["focus", "blur", "mouseenter"]; // they are told of an element, not of what is in it

/** @typedef {{ className: string, tabIndex: number, hidden: boolean, open: boolean, fold: { said: string, label: string, open: boolean } | null }} Looks */

// A line in the page: its place, the line itself, and for a section what folds it.
class Line {
  constructor() {
    this.place = Object.assign(document.createElement("div"), { className: "relative" });
    this.line = Object.assign(document.createElement("button"), { type: "button" });
    this.fold = null;
    this.row = null;
    this.beside = "";
  }

  // A row that says what it did is the same object.
  say(row, besides) {
    const beside = JSON.stringify(besides);
    if (this.row === row && this.beside === beside) return;
    this.row = row;
    this.beside = beside;
    say(this.line, row, besides);
  }

  /** @param {Looks} looks */
  look({ className, tabIndex, hidden, open, fold }) {
    const { line, place } = this;
    if (line.className !== className) line.className = className;
    if (line.tabIndex !== tabIndex || !line.hasAttribute("tabindex")) line.tabIndex = tabIndex;
    if (place.hidden !== hidden) place.hidden = hidden;
    if (open) line.remove(); // its editor stands in its place
    else if (!line.parentNode) place.prepend(line);
    this.#folds(open ? null : fold);
  }

  #folds(fold) {
    if (!fold) {
      this.fold?.remove();
      this.fold = null;
      return;
    }
    if (!this.fold) this.line.after((this.fold = Object.assign(document.createElement("button"), { type: "button", className: "row-fold" })));
    if (this.fold.textContent !== fold.said) this.fold.textContent = fold.said;
    this.fold.setAttribute("aria-expanded", String(fold.open));
    this.fold.setAttribute("aria-label", fold.label);
  }
}

class Lines {
  /** @type {Map<number, Line>} by their keys */
  #shown = new Map();

  /** @param {Element} list */
  constructor(list) {
    this.list = list;
  }

  // Each row has its place, in their order; a place that no row has goes.
  /** @param {{ key: number }[]} rows  @param {(row: any) => import("./line-shown.js").Besides} besides */
  say(rows, besides) {
    const before = this.#shown;
    this.#shown = new Map(rows.map((row) => [row.key, before.get(row.key) ?? new Line()]));
    for (const [key, line] of before) if (!this.#shown.has(key)) this.#leave(line);
    let last = null;
    for (const row of rows) {
      const line = this.at(row.key);
      line.say(row, besides(row));
      if (last ? last.nextSibling !== line.place : this.list.firstChild !== line.place) {
        if (last) last.after(line.place);
        else this.list.prepend(line.place);
      }
      last = line.place;
    }
  }

  // What stood open at it belongs to the page, which takes it away itself.
  #leave(line) {
    this.list.after(...[...standing.keys()].filter((one) => line.place.contains(one)));
    line.place.remove();
  }

  /** @param {{ key: number }[]} rows  @param {(row: any) => Looks} looks */
  look(rows, looks) {
    for (const row of rows) this.at(row.key)?.look(looks(row));
  }

  at(key) {
    return this.#shown.get(key);
  }
}

/** @type {Map<Element, number>} what stands open, by the keys of the rows at which it does */
const standing = new Map();

/** @type {Lines | null} */
let lines = null;

function settle() {
  for (const [element, key] of standing) {
    const place = lines?.at(key)?.place;
    if (place && element.parentNode !== place) place.append(element);
  }
}

// `x-lines`: all lines of the sheet, by what they are, say and look like, and where it is told what they hear.
Alpine.directive("lines", (list, { expression }, { effect, evaluate }) => {
  const room = /** @type {any} */ (evaluate(expression));
  lines = new Lines(list);
  const shown = lines;
  effect(() => {
    const [rows, besides] = [room.all, room.besides()];
    Alpine.mutateDom(() => {
      shown.say(rows, besides);
      settle();
    });
  });
  effect(() => {
    const [rows, looks] = [room.all, room.looks()];
    Alpine.mutateDom(() => shown.look(rows, looks));
  });
  for (const type of HEARD) list.addEventListener(type, (event) => hear(event, room), { capture: true });
});

function hear(event, room) {
  const folds = event.target.closest?.(".row-fold");
  if (folds) return event.type === "click" && room.fold(Number(folds.previousSibling.dataset.line));
  const line = event.target.closest?.(".row");
  if (!line || (OF_ITSELF.includes(event.type) && line !== event.target)) return;
  return room.hear(event, Number(line.dataset.line));
}

// `x-standing-at`: what is in it stands open at a row, and has its place in that of the row. (It stays itself where
// it is, for whatever lists it puts it back there.)
Alpine.directive("standing-at", (element, { expression }, { effect, evaluateLater, cleanup }) => {
  const evaluate = evaluateLater(expression);
  const open = element.firstElementChild;
  Alpine.addScopeToNode(open, {}, element);
  effect(() =>
    evaluate((row) => {
      standing.set(open, row.key);
      Alpine.mutateDom(settle);
    }),
  );
  cleanup(() => {
    standing.delete(open);
    Alpine.destroyTree(open);
    Alpine.mutateDom(() => open.remove());
  });
});
