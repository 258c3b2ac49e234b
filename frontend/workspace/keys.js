// The keyboard: shortcuts of the whole page, and the way from line to line.
import Alpine from "../alpine.js";
import { all, dialog } from "../elements.js";

export const SHORTCUTS = [
  ["?", "this list"],
  ["↑ ↓", "from line to line"],
  ["Enter", "open a line; keep what was typed"],
  ["Esc", "leave a line, a panel, a mode; while dragging: give it up, and all is as it was"],
  ["Tab", "take what is offered while typing"],
  ["Ctrl Space", "offer names and words"],
  ["Alt ↑ ↓", "move a line or a section; on a figure in the editor: turn it (Shift: ten steps)"],
  ["F1", "look up a word: the one at the cursor, or any"],
  ["F2", "rename everywhere"],
  ["F6", "to the next region: head, sheet, stage, faceplate (Shift: the one before)"],
  ["Alt N", "a new line below"],
  ["Alt I", "insert"],
  ["Alt T", "the sheet as text, or as lines"],
  ["Ctrl F, Ctrl /", "in the sheet as text: find and replace; lines commented out, or in again"],
  ["Alt ↑ ↓, Alt Shift ↑ ↓", "in the sheet as text, not on a figure: lines moved, copied"],
  ["Shift ↑ ↓, Shift click", "several lines picked: then Alt ↑ ↓ moves them, Ctrl C, X and V copy them"],
  ["Delete, Ctrl /", "on lines: taken out; commented out, or in again"],
  ["Alt 1 to 4", "axonometric, plan, front, side"],
  ["Alt 5", "the same from the other side: below, back, left"],
  ["Arrows, + and -", "on the picture: walk around it, come nearer and go away (Shift: move it)"],
  ["Delete", "leave the chosen item out of its array, or bring it back"],
  ["x, y, z", "on a handle: along one axis only (Shift while dragging); Enter: type its value"],
  ["Shift click on a piece", "picked with the one whose card is open: what is typed is set for all"],
  ["Click on a dim", "its value is typed: the input takes it, a formula is aimed at"],
  ["Insert, Delete", "on a point of a list: one more after it, or without it"],
  ["Alt D", "the flat drawing"],
  ["Alt C", "cut"],
  ["Alt M", "measure"],
  ["Alt O", "draw an outline"],
  ["Alt R", "roll all inputs that are not on hold"],
  ["Ctrl Z, Ctrl Shift Z", "undo, redo"],
  ["← →, Page keys, Home, End", "turn a slide rule or a handle by one step, ten steps, to its limits"],
  ["Double click", "a slide rule back to the value the study was opened with, or of the moment named last"],
];

// In each region, what is reached first: by the keyboard it is entered there.
const ENTRANCES = { head: "button:not(:disabled)", sheet: ".row[tabindex='0'], .cm-content", stage: "canvas", faceplate: "[role=slider], [role=radio][tabindex='0'], button" };

function nextRegion(way) {
  const regions = Object.keys(ENTRANCES);
  const here = document.activeElement?.closest("[data-region]")?.getAttribute("data-region") ?? "head";
  for (let step = 1; step <= regions.length; step++) {
    const name = regions.at((regions.indexOf(here) + step * way) % regions.length);
    const [first] = all(`[data-region=${name}] :is(${ENTRANCES[name]})`).filter((one) => one.getClientRects().length);
    if (first) return first.focus();
  }
  return undefined;
}

export const keys = () => ({
  needs: ["saving", "showing", "writing", "several", "text", "inserting", "looking", "measuring", "drawing", "drawer", "closing", "sketching", "rolling", "words"],

  open: false,

  get shortcuts() {
    return this.open ? SHORTCUTS.map(([press, does]) => ({ press, does })) : [];
  },

  begin() {
    addEventListener("keydown", (event) => this.shortcut(event));
  },

  toggle() {
    this.open = !this.open;
    const shown = dialog("keys");
    if (this.open) shown.showModal();
    else shown.close();
  },

  closed() {
    this.open = false;
  },

  shortcut(event) {
    const typing = event.target.closest?.("input, textarea, [contenteditable=true]");
    const key = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && key === "z" && !typing) {
      event.preventDefault();
      return event.shiftKey ? this.saving.redo() : this.saving.undo();
    }
    if (event.key === "F6") {
      event.preventDefault();
      return nextRegion(event.shiftKey ? -1 : 1);
    }
    if (event.key === "F1" && !event.defaultPrevented) {
      event.preventDefault();
      return this.words.lookUp("");
    }
    if (event.key === "?" && !typing && !event.repeat) return this.toggle();
    if (this.writing.carry(event)) return undefined;
    if (event.key === "Escape" && !event.defaultPrevented && this.closing.closeOne()) return event.preventDefault();
    if (event.key === "Delete" && !typing && !event.repeat && this.looking.card?.place && !event.defaultPrevented) return this.looking.turnLeftOut();
    if (event.altKey && !event.ctrlKey && !event.metaKey) this.altShortcut(event);
  },

  altShortcut(event) {
    const actions = {
      KeyN: () => (this.drawer.focusedRow ? this.writing.addBelow(this.drawer.focusedRow) : this.writing.addAtEnd()),
      KeyI: () => this.inserting.beginInsert(this.drawer.focusedRow),
      KeyT: () => this.text.toggleText(),
      KeyD: () => this.drawing.toggleDrawing(),
      KeyC: () => this.looking.toggleCut(),
      KeyM: () => this.measuring.toggle(),
      KeyR: () => this.rolling.all(),
      KeyO: () => this.sketching.toggle(),
    };
    actions.Digit5 = () => this.looking.turnRound();
    this.looking.views.forEach((view, at) => (actions[`Digit${at + 1}`] = () => this.looking.setView(view.name)));
    const action = actions[event.code];
    if (!action) return;
    event.preventDefault();
    if (!event.repeat) action(); // a key that is held does it once
  },

  // All lines are one stop of the Tab key: that where one was last.
  get reachedLine() {
    return this.drawer.focusedRow?.line ?? this.showing.rows[0]?.line;
  },

  // On a line: arrows go to the next one, with Alt they move it.
  rowKey(event, row) {
    if (this.several.severalKey(event, row)) return undefined;
    const way = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (event.key === "F2" && this.writing.canRename(row)) {
      event.preventDefault();
      this.writing.open(row).then(() => Alpine.nextTick(() => Alpine.nextTick(() => this.writing.beginRename(row))));
    }
    if (!way || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    if (event.altKey) return this.writing.moveFocused(way);
    const rows = all("#sheet .row").filter((one) => one.offsetParent);
    rows[rows.indexOf(event.target) + way]?.focus();
  },
});
