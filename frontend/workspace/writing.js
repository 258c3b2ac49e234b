// Writing lines: opening one, typing in it, adding, renaming, moving, deleting, folding.
import Alpine from "../alpine.js";
import { editorModule, fetchEarly } from "../later.js";
import { withKept } from "../sheet/rows.js";
import { kept, keep } from "./kept.js";
import { edit } from "./edit.js";
import { box } from "../elements.js";
import { may } from "../may.js";

let editor = null; // the editor of the open line
let place = null; // the element it stands in

const PARTS = ["region", "curve", "solid", "surface"];
const DRAWN = [...PARTS, "point", "list"];
const HARDLY = [...DRAWN, "function", "record", "study", "table", "file"]; // no input holds one of these

export const writing = () => ({
  needs: ["saving", "showing", "several", "text", "looking", "drawer", "words"],

  editing: null, // the line that is open
  adding: null, // the line below which one is being added
  typed: "", // what stands in the open line
  newName: null,
  deleting: null,
  folded: {}, // titles of folded sections
  unkept: null, // lines that were ended with Enter and are on their way to the server
  carried: null, // keys that were pressed while no editor was there to take them
  pinned: [], // names of lines whose geometry stays on the stage
  placeholder: "name = formula",
  opening: false, // a line was pressed, and its editor is not there yet

  begin(state) {
    this.folded = kept(state.study, "folded", {});
    this.pinned = kept(state.study, "pinned", []);
    fetchEarly(editorModule);
    addEventListener("beforeunload", (event) => {
      if (this.draft || this.unkept) event.preventDefault();
    });
  },

  isEditing(row) {
    return this.editing === row.line;
  },

  // The rows at which something stands open, or below which it does.
  get busyRows() {
    const rows = this.showing.rows;
    return this.isOpen ? Alpine.raw(rows).filter((row) => this.isEditing(row) || this.isAdding(row.line + row.height - 1)) : [];
  },

  isAdding(line) {
    return this.adding === line;
  },

  get isOpen() {
    return this.editing !== null || this.adding !== null;
  },

  get openRow() {
    return this.showing.rows.find((row) => row.line === this.editing) ?? null;
  },

  // What is being typed and not saved yet, as the server and the rows take it; null where nothing is.
  get draft() {
    if (this.unkept || !may("edit")) return null;
    if (this.text.asText) return this.text.textDraft();
    const row = this.openRow;
    if (row && this.typed !== row.text) return this.draftOf(row.line, row.height, row.text, row.own);
    if (this.adding !== null && this.typed.trim()) return this.draftOf(this.adding + 1, 0, "", "");
    return null;
  },

  draftOf(line, old, saved, own) {
    const lines = this.saving.savedWhole.split("\n");
    const typed = this.typed.split("\n");
    lines.splice(line - 1, old, ...typed);
    return { whole: lines.join("\n"), line, height: typed.length, old, saved, own };
  },

  // The draft as an edit of the text.
  draftAsEdit() {
    if (!this.draft) return null;
    if (this.text.asText) return { edit: "rewrite", text: this.draft.whole };
    const text = this.typed.replace(/\s+$/, "");
    return this.adding === null
      ? { edit: "replace", line: this.editing, text }
      : { edit: "insert", after: this.adding, text };
  },

  async open(row) {
    this.opening = true;
    if (await this.keepDraft()) this.start({ editing: row.line, typed: row.text });
    else this.opening = false;
  },

  async addBelow(row, text = "") {
    if (!may("edit")) return;
    this.opening = true;
    if (await this.keepDraft()) this.startBelow(row, text);
    else this.opening = false;
  },

  startBelow(row, text) {
    this.start({ adding: row.line + (row.height ?? 1) - 1, typed: text });
  },

  addAtEnd(text = "") {
    const last = this.showing.rows.at(-1) ?? { line: 0, height: 1 };
    return this.addBelow(last, text);
  },

  start({ editing = null, adding = null, typed }) {
    Object.assign(this, { newName: null, deleting: null, editing: null, adding: null });
    this.saving.complaint = "";
    this.showing.draftRow = null;
    this.carried = "";
    this.showing.endPause();
    Alpine.nextTick(() => {
      Object.assign(this, { editing, adding, typed, opening: false });
      this.showing.refresh();
    });
  },

  // Saves what is being typed; false where the server refuses it.
  async keepDraft() {
    const edit = this.draftAsEdit();
    if (!edit) return true;
    return this.saving.change("edit", edit);
  },

  // What makes an editor; nothing where it is not here and the server is not reached, and says so.
  async editorMaker() {
    try {
      return (await editorModule()).createEditor;
    } catch (error) {
      this.saving.complain(error.message, "what is here stays; open it again when the server is back");
      return null;
    }
  },

  // Called with the place for the editor when a line is opened.
  async mountEditor(host) {
    const createEditor = await this.editorMaker();
    if (!createEditor) return this.closeLine();
    if (!host.isConnected) return;
    editor?.destroy();
    place = host;
    const ended = this.takeCarried();
    const adding = this.adding !== null;
    editor = createEditor(host, {
      text: this.typed,
      label: adding ? "New line" : `Line ${this.editing}`,
      placeholder: adding ? this.placeholder : "",
      atEnd: adding,
      readOnly: !may("edit"),
      sheet: this.sheetForEditor(),
      changed: (text) => {
        this.typed = text;
        this.showing.typedAt = performance.now();
        this.showing.refresh();
      },
      commit: () => this.commit(),
      leave: () => this.leave(),
      rename: () => this.openRow && this.beginRename(this.openRow),
      makeInput: (name) => this.makeInput(name),
      lookUp: (word) => this.words.lookUp(word),
    });
    editor.focus();
    host.scrollIntoView({ block: "nearest" });
    if (ended.length) this.keepLines(ended);
  },

  // What was typed while no editor was there goes into the one that is made; lines that were ended by
  // Enter are given back.
  takeCarried() {
    const pieces = (this.carried ?? "").split("\n");
    this.carried = null;
    const last = pieces.pop();
    if (this.adding === null || !pieces.length) {
      this.typed += pieces.join("") + last;
      return [];
    }
    pieces[0] = this.typed + pieces[0];
    this.typed = last;
    return pieces.filter((line) => line.trim());
  },

  // What an editor wants to know of the sheet.
  sheetForEditor() {
    return { names: () => this.namesNow(), vocabulary: () => this.text.vocabulary };
  },

  // All names of the sheet with what they are and their present values.
  namesNow() {
    return new Map(
      this.showing.rows
        .filter((row) => row.own)
        .map((row) => [row.own, { type: row.type, kind: row.kind, label: row.label, value: `${row.number} ${row.unit}`.trim(), parameters: row.study?.inputs.join(", ") ?? row.name.match(/\(([^)]*)\)/)?.[1], yields: row.study?.yields }]),
    );
  },

  showProblems(scene, draft) {
    const from = this.adding !== null ? this.adding + 1 : this.editing;
    const height = this.typed.split("\n").length;
    const all = scene.problems.filter((problem) => !problem.waiting);
    if (this.text.asText) this.text.showProblemsInText(all);
    else if (editor && (draft || this.editing !== null)) {
      editor.setProblems(all.filter((one) => one.line >= from && one.line < from + height).map((one) => ({ ...one, line: one.line - from + 1 })));
    }
  },

  // A key that is pressed while one editor has gone and the next is not there yet: also where its
  // line is shown anew meanwhile. True where it was kept.
  carry(event) {
    const waits = this.carried !== null || (this.isOpen && !place?.isConnected);
    if (!waits || event.target !== document.body || event.ctrlKey || event.metaKey || event.altKey) return false;
    this.carried ??= "";
    if (event.key === "Backspace") this.carried = this.carried.slice(0, -1);
    else if (event.key === "Enter") this.carried += "\n";
    else if (event.key.length === 1) this.carried += event.key;
    else return false;
    event.preventDefault();
    return true;
  },

  closeLine() {
    editor?.destroy();
    editor = null;
    this.carried = null;
    this.showing.endPause();
    Object.assign(this, { editing: null, adding: null, typed: "", newName: null });
    this.showing.draftRow = null;
  },

  leave() {
    const line = this.editing ?? this.adding;
    const hadDraft = Boolean(this.draft);
    this.closeLine();
    if (hadDraft) this.showing.refresh();
    Alpine.nextTick(() => this.focusLine(line));
  },

  focusLine(line) {
    box(`.row[data-line="${line}"]`)?.focus();
  },

  // Keeps what was typed. After a line that was added comes the next one.
  async commit() {
    if (this.adding !== null) return this.commitAdded();
    const change = this.draftAsEdit();
    if (!change || (await this.saving.change("edit", change))) this.leave();
    return undefined;
  },

  // The editor is free at once for the line after it: what is typed, and ended, while the server has
  // not answered is kept in its order. What it refuses comes back with all that was typed since.
  async commitAdded() {
    const text = this.typed.replace(/\s+$/, "");
    if (this.unkept) return text && this.unkept.push(this.takeTyped());
    return text ? this.keepLines([this.takeTyped()]) : this.leave();
  },

  async keepLines(lines) {
    this.unkept = lines;
    let after = this.adding;
    while (this.unkept.length) {
      const [line] = this.unkept;
      if (!(await this.saving.change("edit", edit({ edit: "insert", after, text: line })))) return this.giveBack(after);
      this.unkept.shift();
      if (!this.showing.rows.some((one) => one.line === after + 1 && one.text === line)) this.showing.rows = withKept(this.showing.rows, after, line);
      after += line.split("\n").length;
    }
    this.unkept = null;
    return this.start({ adding: after, typed: this.typed });
  },

  takeTyped() {
    const text = this.typed.replace(/\s+$/, "");
    this.setTyped("");
    return text;
  },

  giveBack(after) {
    const whole = [...this.unkept, this.typed].join("\n"); // Enter was pressed behind each
    this.unkept = null;
    this.adding = after;
    this.setTyped(whole);
    editor?.toEnd();
  },

  setTyped(text) {
    this.typed = text;
    editor?.setText(text);
  },

  // Deleting a line that others need is asked for twice: the first time says who they are.
  remove(row) {
    return this.several.inTurn(() => this.removeNow(row));
  },

  async removeNow(row) {
    const all_the_same = this.deleting === row.line;
    this.deleting = null;
    this.typed = row.text;
    if (await this.saving.change("edit", edit({ edit: "delete", line: row.line, all_the_same }))) {
      this.closeLine();
      await this.several.focusAfter(row.line);
    }
    else if (this.saving.needed) this.deleting = row.line;
  },

  deleteSaid(row) {
    return this.deleting === row.line ? "Delete all the same" : "Delete line";
  },

  canRename(row) {
    return Boolean(row.own) && row.type !== "unreadable";
  },

  isRenaming(row) {
    return this.newName !== null && this.isEditing(row);
  },

  beginRename(row) {
    if (!this.canRename(row)) return;
    this.newName = row.own;
    Alpine.nextTick(() => box("#new-name")?.select());
  },

  typeName(event) {
    this.newName = event.target.value;
  },

  async rename(row) {
    const name = row.own;
    const next = this.newName;
    if (!(await this.keepDraft())) return;
    if (await this.saving.change("edit", edit({ edit: "rename", name, new: next }))) this.leave();
  },

  turnable(row) {
    if (row.type === "input") return true;
    const figure = Boolean(row.number) && !row.failing && !HARDLY.includes(row.kind);
    return row.type === "formula" && row.own === row.name && figure;
  },

  turnSaid(row) {
    return row.type === "input" ? "Make it a formula" : "Make it an input";
  },

  async turnKind(row) {
    const kind = row.type === "input" ? "to_formula" : "to_input";
    const name = row.own;
    if (!(await this.keepDraft())) return;
    if (await this.saving.change("edit", edit({ edit: kind, name }))) this.leave();
  },

  canBePart(row) {
    return row.type === "formula" && PARTS.includes(row.kind) || this.showing.loose.some((one) => one.name === row.own);
  },

  // The line that is being added becomes a part with its first keeping.
  keepAsPart() {
    this.typed = `part ${this.typed.trimStart()}`;
    return this.commit();
  },

  async makePart(name) {
    if (!(await this.keepDraft())) return;
    if (await this.saving.change("edit", edit({ edit: "to_part", name }))) this.leave();
  },

  isInternal(row) {
    return Boolean(this.showing.inputs.find((input) => input.name === row.own)?.internal);
  },

  internalSaid(row) {
    return this.isInternal(row) ? "Put on the faceplate" : "Keep internal";
  },

  async turnInternal(row) {
    const change = edit({ edit: "internal", name: row.own, internal: !this.isInternal(row) });
    if (!(await this.keepDraft())) return;
    if (await this.saving.change("edit", change)) this.leave();
  },

  // An input of the name that is missing, above the line that is being typed.
  async makeInput(name) {
    const typed = this.draftAsEdit() ?? { line: this.editing };
    if (!(await this.saving.change("edit", edit({ ...typed, edit: "unknown_to_input", name })))) return;
    this.leave();
  },

  // A name that is a formula by now leaves all presets.
  async forget(name) {
    if (!(await this.keepDraft())) return;
    if (await this.saving.change("edit", edit({ edit: "forget", name }))) this.leave();
  },

  forgetSaid(row) {
    return row ? `Take ${row.overruled} out of all presets` : "";
  },

  makeInputSaid(row) {
    return row ? `Make ${row.unknown} an input` : "";
  },

  // What is said of the line that is open: of the draft, where there is one.
  get openSaid() {
    return this.showing.draftRow ?? this.openRow ?? {};
  },

  // --- order ---

  // A line moves past the one above or below it; a section moves past the next section.
  move(row, way) {
    return this.several.inTurn(() => this.moveNow(row, way));
  },

  // By its key: the line that has the focus when it is this key's turn.
  moveFocused(way) {
    return this.several.inTurn(async () => {
      const row = this.drawer.focusedRow;
      if (row) await this.moveNow(row, way);
    });
  },

  async moveNow(row, way) {
    const section = row.type === "section";
    const stops = this.showing.rows.filter((one) => !section || one.type === "section").map((one) => one.line);
    const end = this.showing.rows.at(-1).line + this.showing.rows.at(-1).height;
    const at = stops.indexOf(row.line);
    const before = way < 0 ? stops[at - 1] : stops[at + 2] ?? end;
    if (before === undefined || (way > 0 && at === stops.length - 1)) return;
    if (!(await this.keepDraft())) return;
    if (!(await this.saving.change("edit", edit({ edit: "move", line: row.line, before })))) return;
    this.closeLine();
    await this.several.seen();
    this.focusLine(way < 0 ? before : before - row.height);
  },

  async moveTo(line, before) {
    this.closeLine();
    await this.saving.change("edit", edit({ edit: "move", line, before }));
  },

  // --- folding ---

  isFolded(row) {
    return Boolean(this.folded[row.title]);
  },

  fold(row) {
    this.folded = { ...this.folded, [row.title]: !this.folded[row.title] };
    keep("folded", this.folded);
  },

  // What folds a section, or unfolds it.
  foldOf(row) {
    const open = !this.isFolded(row);
    const count = open ? 0 : Alpine.raw(this.showing.rows).filter((one) => one.section === row.title && one.type !== "section" && one.text.trim()).length;
    const said = open ? "fold" : `unfold ${count} line${count === 1 ? "" : "s"}`;
    return { said, label: `${said} ${row.title}`, open };
  },

  // --- geometry of lines that are no parts ---

  canPin(row) {
    return row.type === "formula" && Boolean(row.own) && DRAWN.includes(row.kind);
  },

  isPinned(row) {
    return this.pinned.includes(row.own);
  },

  pinSaid(row) {
    return this.isPinned(row) ? "Take off the stage" : "Pin on the stage";
  },

  pin(row) {
    const name = row.own;
    this.pinned = this.isPinned(row) ? this.pinned.filter((one) => one !== name) : [...this.pinned, name];
    keep("pinned", this.pinned);
    this.showing.refresh();
  },

  constructionWanted() {
    const row = this.showing.draftRow ?? this.openRow ?? this.drawer.focusedRow;
    const chosen = row && row.type !== "part" && row.own ? [row.own] : [];
    window.ovolo.stage.construction.strong = new Set([...this.pinned, ...chosen]);
    return this.looking.looks.datums ? ["*"] : [...new Set([...this.pinned, ...chosen])];
  },
});
