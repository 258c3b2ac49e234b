// Figures in a formula are turned in place: by dragging them sideways, or with Alt and the arrow
// keys (with Shift ten times as far).
import { Prec } from "@codemirror/state";
import { EditorView, keymap } from "@codemirror/view";
import { drag } from "../dragging.js";

const FIGURE = /\d+(?:\.\d+)?/g;
const PIXELS = 4; // a step

// The figure at a place: where it stands and how it is written. Names such as R10 are none.
function figureAt(state, at) {
  const line = state.doc.lineAt(at);
  for (const found of line.text.matchAll(FIGURE)) {
    const from = line.from + found.index;
    const to = from + found[0].length;
    if (at < from || at > to) continue;
    if (/[\p{L}_]/u.test(line.text[found.index - 1] ?? " ")) return null;
    const quotes = line.text.slice(0, found.index).match(/"/g)?.length ?? 0;
    return quotes % 2 ? null : { from, to, written: found[0] };
  }
  return null;
}

// The figure some steps on, a step being one in its last place; never below 0.
export function stepped(written, steps) {
  const decimals = written.split(".")[1]?.length ?? 0;
  return Math.max(Number(written) + steps * 10 ** -decimals, 0).toFixed(decimals);
}

function replaceFigure(view, { from, to }, next) {
  view.dispatch({ changes: { from, to, insert: next }, selection: { anchor: from, head: from + next.length }, userEvent: "input.scrub" });
}

function turn(steps) {
  return (view) => {
    const figure = figureAt(view.state, view.state.selection.main.from);
    if (!figure) return false;
    replaceFigure(view, figure, stepped(figure.written, steps));
    return true;
  };
}

export function scrubbing() {
  /** @type {[string, number][]} */
  const keys = [["Alt-ArrowUp", 1], ["Alt-ArrowDown", -1], ["Shift-Alt-ArrowUp", 10], ["Shift-Alt-ArrowDown", -10]];
  return [Prec.highest(keymap.of(keys.map(([key, steps]) => ({ key, run: turn(steps) })))), EditorView.domEventHandlers({ mousedown: beginDrag })];
}

function beginDrag(event, view) {
  if (event.button !== 0 || event.detail > 1) return false;
  const at = view.posAtCoords({ x: event.clientX, y: event.clientY }, false);
  const figure = figureAt(view.state, at);
  if (!figure || !event.target.closest(".tok-number")) return false;
  let place = figure;
  let moving = false;
  const move = (moved) => {
    const way = moved.clientX - event.clientX;
    if (!moving && Math.abs(way) < PIXELS) return;
    moving = true;
    const next = stepped(figure.written, Math.round(way / PIXELS) * (moved.shiftKey ? 10 : 1));
    if (next === view.state.sliceDoc(place.from, place.to)) return;
    replaceFigure(view, place, next);
    place = { ...place, to: place.from + next.length };
  };
  const drop = () => {
    if (!moving) view.dispatch({ selection: { anchor: at } });
    view.focus();
  };
  const back = () => {
    if (moving) replaceFigure(view, place, figure.written);
    view.focus();
  };
  event.preventDefault();
  return drag(event, { move, drop, back });
}
