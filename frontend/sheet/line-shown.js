// A line as it stands in the sheet: its margin, what it says, its value or what is wrong with it, and what is said
// beside it. Drawn by hand: a sheet has hundreds of lines, and templates for all that any of them may show
// take longer to begin than the rest of the page.
import Alpine, { saidIn } from "../alpine.js";

/** @typedef {{ mark: string, number_shown: string | number, title: string, colour: string, name: string, body: string, problem: string, hint: string, check: string, measured: string, number: string, unit: string, others: string, remarks: string, quiet: string, moved: string }} LineShown */

/** @param {LineShown} line  @returns {Element[]} */
function shownLine(line) {
  return [
    span("row-margin", [span("", [line.mark]), " ", span("", [String(line.number_shown)])]),
    span("row-said", line.title ? [span("heading", [line.title])] : [span("", saidBy(line))]),
    ...valueOf(line),
    ...["others", "remarks", "quiet"].filter((one) => line[one]).map((one) => span(`row-${one}`, [line[one]])),
    ...(line.moved ? [span("row-moved", ["→ ", span("", [line.moved])])] : []),
  ];
}

function saidBy({ colour, name, body }) {
  const swatch = span("swatch", []);
  swatch.style.background = colour;
  return [...(colour ? [swatch, " "] : []), span("row-name", [name]), " ", span("row-body", [body])];
}

function valueOf({ problem, hint, check, measured, number, unit }) {
  if (problem) return [span("row-value wide", saidIn(problem), hint)];
  if (check) return [span("row-value", [span(`tag ${check}`, [check], measured)])];
  return number ? [span("row-value", [span("figure", [number]), " ", span("unit", [unit])])] : [];
}

function span(className, children, title = "") {
  const made = document.createElement("span");
  if (className) made.className = className;
  if (title) made.title = title;
  made.append(...children);
  return made;
}

// Makes what is there what it should be, and touches only what differs.
function take(before, after) {
  if (before.isEqualNode(after)) return;
  const alike = ["nodeName", "className", "title"].every((one) => before[one] === after[one]) && before.childNodes.length === after.childNodes.length;
  if (!alike || !before.hasChildNodes()) return before.replaceWith(after);
  const children = [...after.childNodes];
  [...before.childNodes].forEach((child, at) => take(child, children[at]));
}

// What a line says, written where it differs from what is there.
function say(element, { line, note, aria, shown }) {
  const wanted = { "data-line": String(line), title: note, "aria-label": aria };
  Alpine.mutateDom(() => {
    for (const [name, value] of Object.entries(wanted)) {
      if (!value) element.removeAttribute(name);
      else if (element.getAttribute(name) !== value) element.setAttribute(name, value);
    }
    const after = shownLine(shown);
    if (after.length !== element.childNodes.length) element.replaceChildren(...after);
    else [...element.childNodes].forEach((child, at) => take(child, after[at]));
  });
}

function look(element, { className, tabIndex }) {
  if (element.className !== className) element.className = className;
  if (element.tabIndex !== tabIndex || !element.hasAttribute("tabindex")) element.tabIndex = tabIndex;
}

const HEARD = ["mousedown", "click", "keydown", "focus", "blur", "mouseenter"];
const said = new WeakMap();

// `x-row`: all that a line of the sheet is, by one directive: what it `says`, how it `looks`, what it `hears`.
Alpine.directive("row", (element, { expression }, { effect, evaluateLater }) => {
  const evaluate = evaluateLater(expression);
  effect(() =>
    evaluate((row) => {
      const now = row.says();
      const told = JSON.stringify(now);
      if (said.get(element) === told) return;
      said.set(element, told);
      say(element, now);
    }),
  );
  effect(() => evaluate((row) => Alpine.mutateDom(() => look(element, row.looks()))));
  for (const type of HEARD) element.addEventListener(type, (event) => evaluate((row) => row.hears(event)));
});
