// Several lines picked in the list: with Shift and the arrows, or Shift and a click. They are moved,
// copied, commented out and deleted together; what is copied goes over the clipboard as text.
import Alpine from "../alpine.js";
import { box } from "../elements.js";
import { edit } from "./edit.js";

export const several = () => ({
  needs: ["saving", "showing", "writing", "drawer"],

  picked: null, // { anchor, head }: the lines at which the pick began and ends

  begin() {
    document.addEventListener("copy", (event) => this.copyLines(event));
    document.addEventListener("cut", (event) => this.copyLines(event) && this.deleteLines());
    document.addEventListener("paste", (event) => this.pasteLines(event));
  },

  get pickedRows() {
    return this.showing.rows.filter((row) => isWithin(this.picked, row));
  },

  get pickedSaid() {
    return `${this.pickedRows.length} lines`;
  },

  get severalPicked() {
    return Boolean(this.picked) && this.picked.anchor !== this.picked.head;
  },

  isPicked(row) {
    return this.severalPicked && isWithin(this.picked, row);
  },

  // With Shift the focus stays on the line from which the pick goes.
  holdFocus(event) {
    if (event.shiftKey) event.preventDefault();
  },

  pressRow(event, row) {
    if (!event.shiftKey) {
      this.unpick();
      return this.writing.open(row);
    }
    this.pickTo(row);
    box(`.row[data-line="${row.line}"]`)?.focus();
    return undefined;
  },

  pickTo(row) {
    const anchor = this.picked?.anchor ?? this.drawer.focusedRow?.line ?? row.line;
    this.picked = { anchor, head: row.line };
  },

  unpick() {
    this.picked = null;
  },

  // The lines that a key is meant for: those picked, else the one that has the focus.
  linesMeant() {
    const rows = this.severalPicked ? this.pickedRows : this.drawer.focusedRow ? [this.drawer.focusedRow] : [];
    return rows.length ? { line: rows[0].line, last: rows.at(-1).line, rows } : null;
  },

  atLines() {
    return Boolean(document.activeElement?.closest(".row, #picked"));
  },

  copyLines(event) {
    const meant = this.atLines() && this.linesMeant();
    if (!meant || String(getSelection())) return false;
    event.clipboardData.setData("text/plain", textOf(meant.rows));
    event.preventDefault();
    return true;
  },

  async copyPicked() {
    await navigator.clipboard.writeText(textOf(this.pickedRows));
    this.saving.status = `${this.pickedSaid} copied`;
  },

  async pasteLines(event) {
    const text = event.clipboardData.getData("text/plain").replaceAll("\r\n", "\n").replace(/\n+$/, "");
    const meant = this.atLines() && this.linesMeant();
    if (!meant || !text.trim()) return;
    event.preventDefault();
    const last = meant.rows.at(-1);
    const after = last.line + last.height - 1;
    if (await this.saving.change("edit", edit({ edit: "insert", after, text }))) this.focusAfter(after + 1);
  },

  async deleteLines() {
    const meant = this.linesMeant();
    if (!meant) return;
    const all_the_same = this.writing.deleting === `${meant.line}-${meant.last}`;
    this.writing.deleting = null;
    const { line, last } = meant;
    if (await this.saving.change("edit", edit({ edit: "delete", line, last, all_the_same }))) this.focusAfter(line);
    else if (this.saving.needed) this.writing.deleting = `${line}-${last}`;
  },

  get deletePickedSaid() {
    const meant = this.linesMeant();
    return meant && this.writing.deleting === `${meant.line}-${meant.last}` ? "Delete all the same" : "Delete";
  },

  async commentLines() {
    const meant = this.linesMeant();
    if (meant) await this.saving.change("edit", edit({ edit: "comment", line: meant.line, last: meant.last }));
  },

  // The picked lines past the one above or below them.
  async moveLines(way) {
    const meant = this.linesMeant();
    const at = meant && this.showing.rows.indexOf(meant.rows[0]);
    const beyond = meant && (way < 0 ? this.showing.rows[at - 1] : this.showing.rows[at + meant.rows.length]);
    if (!beyond) return;
    const before = way < 0 ? beyond.line : beyond.line + beyond.height;
    if (!(await this.saving.change("edit", edit({ edit: "move", line: meant.line, last: meant.last, before })))) return;
    const shift = way * beyond.height;
    this.picked = { anchor: this.picked.anchor + shift, head: this.picked.head + shift };
    Alpine.nextTick(() => this.writing.focusLine(this.picked?.head));
  },

  // The focus stays in the list where lines came or went.
  focusAfter(line) {
    this.unpick();
    Alpine.nextTick(() => {
      const row = this.showing.rows.findLast((one) => one.line <= line) ?? this.showing.rows[0];
      this.writing.focusLine(row?.line);
    });
  },

  // On a line: keys for it and for those picked. True where the key was one of them.
  severalKey(event, row) {
    const command = event.ctrlKey || event.metaKey;
    const way = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (way && event.shiftKey && !event.altKey && !command) {
      const next = this.showing.rows[this.showing.rows.indexOf(row) + way];
      this.pickTo(row);
      if (next) this.pickTo(next);
      this.writing.focusLine(next?.line);
    } else if (way && event.altKey && this.severalPicked) this.moveLines(way);
    else if (event.key === "Delete") this.deleteLines();
    else if (command && event.key === "/") this.commentLines();
    else if (event.key === "Escape" && this.picked) this.unpick();
    else {
      if (way) this.unpick();
      return false;
    }
    event.preventDefault();
    return true;
  },
});

function isWithin(picked, { line }) {
  return Boolean(picked) && line >= Math.min(picked.anchor, picked.head) && line <= Math.max(picked.anchor, picked.head);
}

function textOf(rows) {
  return `${rows.map((row) => row.text).join("\n")}\n`;
}
