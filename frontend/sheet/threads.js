// Threads in the margin: solid to what a line uses, dashed to what uses it.
import { grouped } from "../grouped.js";

const SVG = "http://www.w3.org/2000/svg";
const EDGE = 51; // where names begin
const DEEPEST = 14;

// The rows a line is tied to, by their line numbers.
export function tiesOf(row, rows) {
  const uses = rows.filter((one) => one.own && row.needs.includes(one.own) && one.line !== row.line);
  const usedBy = row.own ? rows.filter((one) => one.needs.includes(row.own) && one.line !== row.line) : [];
  return { uses: uses.map((one) => one.line), usedBy: usedBy.map((one) => one.line) };
}

// All rows that follow from a row, itself first.
export function following(row, rows) {
  const users = grouped(rows.flatMap((one) => one.needs.map((need) => ({ need, one }))), ({ need }) => need);
  const reached = new Set([row]);
  for (const one of reached) for (const user of users.get(one.own) ?? []) reached.add(user.one); // a set goes on to what comes in
  return [...reached];
}

export function drawThreads(svg, line, { uses, usedBy }) {
  svg.replaceChildren();
  const from = heightOf(svg, line);
  if (from === null) return;
  for (const [lines, kind] of [[uses, "uses"], [usedBy, "used-by"]]) {
    for (const other of lines) {
      const to = heightOf(svg, other);
      if (to === null) continue;
      const x = EDGE - Math.min(6 + Math.abs(to - from) / 16, DEEPEST);
      const path = document.createElementNS(SVG, "path");
      path.setAttribute("d", `M${EDGE} ${from}C${x} ${from} ${x} ${from} ${x} ${from + Math.sign(to - from) * 8}V${to - Math.sign(to - from) * 8}C${x} ${to} ${x} ${to} ${EDGE} ${to}`);
      path.setAttribute("class", kind);
      svg.append(path);
    }
  }
}

// The middle of the first line of a row, measured in the drawing; null where the row is folded away.
function heightOf(svg, line) {
  const row = svg.parentElement.querySelector(`[data-line="${line}"]`);
  if (!row || !row.offsetParent) return null;
  const top = row.getBoundingClientRect().top - svg.getBoundingClientRect().top;
  return top + Math.min(row.offsetHeight, 28) / 2;
}
