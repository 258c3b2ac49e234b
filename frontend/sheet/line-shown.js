// A line as it stands in the sheet: its margin, what it says, its value or what is wrong with it, and what is said
// beside it.
import { saidIn } from "../alpine.js";

/** @typedef {{ mark: string, number_shown: string | number, title: string, colour: string, name: string, body: string, problem: string, hint: string, check: string, measured: string, number: string, unit: string }} LineShown */
/** @typedef {{ others: string, remarks: string, quiet: string, moved: string }} Besides what is said beside a line */

/** @param {LineShown & Besides} line  @returns {Element[]} */
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
/** @param {Element} element  @param {LineShown & { line: number, note: string, aria: string | null }} row  @param {Besides} besides */
export function say(element, row, besides) {
  const wanted = { "data-line": String(row.line), title: row.note, "aria-label": row.aria };
  for (const [name, value] of Object.entries(wanted)) {
    if (!value) element.removeAttribute(name);
    else if (element.getAttribute(name) !== value) element.setAttribute(name, value);
  }
  const after = shownLine({ ...row, ...besides });
  if (after.length !== element.childNodes.length) element.replaceChildren(...after);
  else [...element.childNodes].forEach((child, at) => take(child, after[at]));
}
