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

const shown = new WeakMap();

// `x-line`: what a line shows, from plain data.
Alpine.directive("line", (element, { expression }, { effect, evaluateLater }) => {
  const evaluate = evaluateLater(expression);
  effect(() =>
    evaluate((/** @type {LineShown} */ line) => {
      const said = JSON.stringify(line);
      if (shown.get(element) === said) return;
      shown.set(element, said);
      const after = shownLine(line);
      Alpine.mutateDom(() => {
        if (after.length !== element.childNodes.length) element.replaceChildren(...after);
        else [...element.childNodes].forEach((child, at) => take(child, after[at]));
      });
    }),
  );
});
