// Several lines picked in the list: with Shift and the arrows, or Shift and a click. They are moved,
// copied, commented out and deleted together; what is copied goes over the clipboard as text.
import Alpine from "../alpine.js";
import { box } from "../elements.js";
import { InTurn } from "../newest.js";
import { edit } from "./edit.js";
import { queue, watched } from "./settled.js";

const turns = new InTurn();

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

  // A key on lines is for the lines as those before it have left them: it waits until they are seen.
  inTurn(work) {
    return watched(() => turns.run(async () => {
      await queue.done;
      await work();
      await this.seen();
    }));
  },

  async seen() {
    await queue.done;
    await Alpine.nextTick();
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

  pasteLines(event) {
    const text = event.clipboardData.getData("text/plain").replaceAll("\r\n", "\n").replace(/\n+$/, "");
    if (!this.atLines() || !this.linesMeant() || !text.trim()) return undefined;
    event.preventDefault();
    return this.inTurn(() => this.insertBehind(text));
  },

  async insertBehind(text) {
    const last = this.linesMeant()?.rows.at(-1) ?? this.showing.rows.at(-1);
    const after = last ? last.line + last.height - 1 : 0;
    if (await this.saving.change("edit", edit({ edit: "insert", after, text }))) await this.focusAfter(after + 1);
  },

  deleteLines() {
    return this.inTurn(() => this.deleteMeant());
  },

  async deleteMeant() {
    const meant = this.linesMeant();
    if (!meant) return;
    const all_the_same = this.writing.deleting === `${meant.line}-${meant.last}`;
    this.writing.deleting = null;
    const { line, last } = meant;
    if (await this.saving.change("edit", edit({ edit: "delete", line, last, all_the_same }))) await this.focusAfter(line);
    else if (this.saving.needed) this.writing.deleting = `${line}-${last}`;
  },

  get deletePickedSaid() {
    const meant = this.linesMeant();
    return meant && this.writing.deleting === `${meant.line}-${meant.last}` ? "Delete all the same" : "Delete";
  },

  commentLines() {
    return this.inTurn(async () => {
      const meant = this.linesMeant();
      if (meant) await this.saving.change("edit", edit({ edit: "comment", line: meant.line, last: meant.last }));
    });
  },

  // The picked lines past the one above or below them.
  moveLines(way) {
    return this.inTurn(() => this.moveMeant(way));
  },

  async moveMeant(way) {
    const meant = this.linesMeant();
    const at = meant && this.showing.rows.indexOf(meant.rows[0]);
    const beyond = meant && (way < 0 ? this.showing.rows[at - 1] : this.showing.rows[at + meant.rows.length]);
    if (!beyond) return;
    const { picked } = this;
    const before = way < 0 ? beyond.line : beyond.line + beyond.height;
    if (!(await this.saving.change("edit", edit({ edit: "move", line: meant.line, last: meant.last, before })))) return;
    await this.seen();
    const shift = way * beyond.height;
    this.picked = { anchor: picked.anchor + shift, head: picked.head + shift };
    this.writing.focusLine(this.picked.head);
  },

  // The focus stays in the list where lines came or went.
  async focusAfter(line) {
    this.unpick();
    await this.seen();
    const row = this.showing.rows.findLast((one) => one.line <= line) ?? this.showing.rows[0];
    this.writing.focusLine(row?.line);
  },

  // What was picked is where it is among the lines as they are now; with one of its ends it is gone.
  follow(lineAfter) {
    if (!this.picked) return;
    const [anchor, head] = [lineAfter(this.picked.anchor), lineAfter(this.picked.head)];
    this.picked = anchor && head ? { anchor, head } : null;
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
    else if (event.key === "Delete") event.repeat || this.deleteLines(); // held, it takes out no more
    else if (command && event.key === "/") event.repeat || this.commentLines();
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
