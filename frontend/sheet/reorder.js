// Lines and sections are moved by dragging their margin.
import { drag } from "../dragging.js";

const BEGIN = 4; // pixels before a press becomes a drag

// Calls `moveTo(line, before)` when a row is let go somewhere else; `end()` is the line below all.
export function reorderable(list, { end, moveTo }) {
  list.addEventListener("pointerdown", (event) => {
    const margin = event.target.closest(".row-margin");
    if (!margin) return;
    const row = margin.closest("[data-line]");
    const mark = Object.assign(document.createElement("div"), { className: "drop-mark" });
    let before = null;
    const move = (moved) => {
      if (before === null && Math.abs(moved.clientY - event.clientY) < BEGIN) return;
      row.dataset.dragged = "";
      const place = placeAt(list, moved.clientY, end());
      before = place.line;
      mark.style.top = `${place.top}px`;
      if (!mark.isConnected) list.append(mark);
    };
    const away = () => {
      delete row.dataset.dragged;
      mark.remove();
    };
    const drop = () => {
      away();
      if (before === null) return;
      // The click that follows a drag is none.
      addEventListener("click", swallow, { capture: true, once: true });
      setTimeout(() => removeEventListener("click", swallow, { capture: true }));
      moveTo(Number(row.dataset.line), before);
    };
    drag(event, { move, drop, back: away });
  });
}

function swallow(event) {
  event.stopPropagation();
  event.preventDefault();
}

// The gap between rows nearest to a height on the screen: the line below it, and where to draw it.
function placeAt(list, y, end) {
  const offset = list.getBoundingClientRect().top - list.scrollTop;
  const rows = [...list.querySelectorAll(".row[data-line]")].filter((row) => row.offsetParent);
  for (const row of rows) {
    const { top, height } = row.getBoundingClientRect();
    if (y < top + height / 2) return { line: Number(row.dataset.line), top: top - offset };
  }
  return { line: end, top: (rows.at(-1)?.getBoundingClientRect().bottom ?? offset) - offset };
}
