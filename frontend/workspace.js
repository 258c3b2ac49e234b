// The workspace of a study.
import Alpine from "@alpinejs/csp";

import { SlideRule } from "./faceplate/slide-rule.js";
import { getJson, NewestWins, postForScene, postForState, Refusal, sendFile } from "./server.js";
import { rowsOf } from "./sheet/rows.js";
import { Stage } from "./stage/stage.js";
import { Steady } from "./steady.js";

// Kept outside the reactive state: objects with a life of their own must not be proxied.
const queue = new NewestWins(() => Alpine.nextTick(tellSettled));
const rules = new Map();
const steady = new Steady();
const turning = {}; // values of inputs that are being turned, by name

function partRow({ name, label, colour, count, line }) {
  return { name, label, colour, count, line, shown: !window.ovolo.stage.hidden.has(name) };
}

let lastChange = Promise.resolve();

let changesUnderWay = 0;

// Whether everything asked for is done, for whoever watches the page from outside.
function tellSettled() {
  document.body.dataset.settled = changesUnderWay || queue.busy ? "no" : "yes";
}

Alpine.data("workspace", () => ({
  title: "",
  rows: [],
  inputs: [],
  parts: [],
  checks: [],
  problems: [],
  presets: [],
  files: [],
  seen: null,
  newName: null,
  presetTitle: null,
  deleting: null,
  view: "axonometric",
  views: ["axonometric", "plan", "front", "side"],
  status: "",
  complaint: "",
  hint: "",
  canUndo: false,
  canRedo: false,
  editing: null,
  adding: null,
  draft: "",
  drawer: "",
  scaleText: "",
  scaleStyle: { width: "0px" },

  init() {
    const state = JSON.parse(document.getElementById("state").textContent);
    this.address = `/studies/${state.study}/`;
    this.takeState(state);
    this.rows = rowsOf(state);
    const host = document.getElementById("stage");
    const antialias = new URLSearchParams(location.search).get("antialias") !== "off";
    window.ovolo = { stage: new Stage(host, { antialias }) };
    window.ovolo.stage.onDraw = (scale) => this.showScale(scale);
    this.refresh();
    addEventListener("keydown", (event) => this.shortcut(event));
  },

  takeState(state) {
    this.revision = state.revision;
    this.canUndo = state.can_undo;
    this.canRedo = state.can_redo;
    this.files = state.files;
    this.title = state.title;
    document.title = `${state.title} · Ovolo`;
  },

  // Asks for the scene of the present revision with the values that are being turned.
  refresh() {
    queue.ask(async () => {
      try {
        const scene = await postForScene(`${this.address}evaluate`, {
          revision: this.revision,
          set: { ...turning },
          held: window.ovolo.stage.heldShapes(),
        });
        this.take(scene);
        if (this.status === "No server") this.status = "";
      } catch (error) {
        this.fail(error);
      }
    });
    tellSettled();
  },

  take(scene) {
    if (scene.stopped) {
      this.complaint = scene.stopped;
      this.show("rows", rowsOf(scene), (row) => row.key);
      return;
    }
    this.show("rows", rowsOf(scene), (row) => row.key);
    this.show("inputs", scene.inputs, (input) => input.name);
    this.show("parts", scene.parts.map(partRow), (part) => part.name);
    this.show("checks", scene.checks, (check) => check.line);
    this.show("problems", scene.problems, (problem) => `${problem.line}:${problem.column}:${problem.item}:${problem.message}`);
    this.show("presets", scene.presets, (preset) => preset.title);
    for (const input of scene.inputs) rules.get(input.name)?.show(input);
    window.ovolo.stage.apply(scene);
  },

  show(list, items, keyOf) {
    const changed = steady.take(list, items, keyOf);
    if (changed) this[list] = changed;
  },

  fail(error) {
    this.needed = Boolean(error.needed);
    if (error instanceof Refusal) {
      this.complaint = error.message;
      this.hint = error.hint;
    } else {
      this.status = "No server";
      this.complaint = "The server does not answer; nothing you did is lost. Try again in a moment.";
      this.hint = "";
    }
  },

  // Sends one change and takes over the state after it; true where it was accepted. Changes
  // go one after another, each made from the revision the one before it gave.
  change(action, body) {
    this.status = "Saving";
    changesUnderWay += 1;
    tellSettled();
    const done = lastChange.then(() => this.send(action, body));
    lastChange = done.finally(() => {
      changesUnderWay -= 1;
      Alpine.nextTick(tellSettled);
    });
    return done;
  },

  async send(action, body) {
    try {
      this.takeState(await postForState(this.address + action, { revision: this.revision, ...body }));
      this.status = "Saved";
      this.complaint = "";
      this.forgetTurning(body);
      this.refresh();
      return true;
    } catch (error) {
      this.status = "Not saved";
      this.fail(error);
      this.forgetTurning(body);
      return false;
    }
  },

  // Once a value is in the text it is no longer being turned, unless it was turned on meanwhile.
  forgetTurning({ name, value }) {
    if (turning[name] === value) delete turning[name];
  },

  undo() {
    return this.change("undo", {});
  },

  redo() {
    return this.change("redo", {});
  },

  reload() {
    location.reload();
  },

  dismiss() {
    this.complaint = "";
  },

  // --- the faceplate ---

  hasRule(input) {
    return input.size !== undefined && !input.choices.length;
  },

  hasChoices(input) {
    return Boolean(input.choices.length) || input.kind === "yes/no";
  },

  isPlain(input) {
    return !this.hasRule(input) && !this.hasChoices(input);
  },

  options(input) {
    if (input.kind === "yes/no") return [{ key: "yes", value: true }, { key: "no", value: false }];
    return input.choices.map((value, at) => ({ key: input.choices_shown?.[at] ?? String(value), value }));
  },

  isChosen(input, option) {
    return input.value === option.value;
  },

  choose(input, option) {
    this.change("edit", { edit: "set", name: input.name, value: option.value });
  },

  mountRule(host, input) {
    const name = input.name;
    rules.set(name, new SlideRule(host, input, {
      turned: (value) => {
        turning[name] = value;
        this.refresh();
      },
      settled: (value) => this.change("edit", { edit: "set", name, value }),
      typed: async (text) => {
        const kept = await this.change("edit", { edit: "set", name, typed: text });
        if (!kept) rules.get(name).show(this.inputs.find((one) => one.name === name));
      },
    }));
  },

  // --- presets ---

  applyPreset(preset) {
    this.change("edit", { edit: "apply_preset", title: preset.title });
  },

  get isSaving() {
    return this.presetTitle !== null;
  },

  beginSaving() {
    this.presetTitle = this.presets.find((preset) => preset.same)?.title ?? "";
    this.$nextTick(() => document.getElementById("preset-title")?.focus());
  },

  typeTitle(event) {
    this.presetTitle = event.target.value;
  },

  async savePreset() {
    if (await this.change("edit", { edit: "save_preset", title: this.presetTitle })) this.presetTitle = null;
  },

  stopSaving() {
    this.presetTitle = null;
  },

  get presetSummary() {
    if (!this.presets.length) return "";
    return this.presets.some((preset) => preset.same) ? "" : "none matches";
  },

  // --- files ---

  get fileSummary() {
    return this.files.length || "none";
  },

  fileAddress(file) {
    return `${this.address}files/${encodeURIComponent(file.name)}`;
  },

  fileSize(file) {
    return file.size < 2000 ? `${file.size} bytes` : `${Math.round(file.size / 1000)} kB`;
  },

  isSeen(file) {
    return this.seen?.name === file.name;
  },

  async fileWork(work) {
    this.complaint = "";
    changesUnderWay += 1;
    tellSettled();
    try {
      await work();
    } catch (error) {
      this.fail(error);
    } finally {
      changesUnderWay -= 1;
      Alpine.nextTick(tellSettled);
    }
  },

  attach(event) {
    const [file] = event.target.files;
    if (!file) return;
    this.fileWork(async () => {
      this.takeState(await sendFile(`${this.address}files/`, file));
      this.seen = null;
      this.refresh();
    }).finally(() => (event.target.value = ""));
  },

  detach(file) {
    this.fileWork(async () => {
      this.takeState(await postForState(`${this.fileAddress(file)}/remove`, {}));
      this.refresh();
    });
  },

  see(file) {
    if (this.isSeen(file)) this.seen = null;
    else this.fileWork(async () => (this.seen = { name: file.name, ...(await getJson(`${this.fileAddress(file)}?see`)) }));
  },

  // --- the sheet ---

  isEditing(row) {
    return this.editing === row.line;
  },

  isAdding(row) {
    return this.adding === row.line;
  },

  open(row) {
    this.newName = null;
    this.deleting = null;
    this.complaint = "";
    this.adding = null;
    this.editing = row.line;
    this.draft = row.text;
    this.focusEditor();
  },

  addBelow(row) {
    this.editing = null;
    this.adding = row.line;
    this.draft = "";
    this.focusEditor();
  },

  addAtEnd() {
    this.addBelow(this.rows.at(-1) ?? { line: 0 });
  },

  focusEditor() {
    this.$nextTick(() => {
      const editor = document.querySelector(".editor textarea");
      if (!editor) return;
      editor.rows = Math.max(1, this.draft.split("\n").length);
      editor.focus();
      editor.setSelectionRange(editor.value.length, editor.value.length);
      editor.scrollIntoView({ block: "nearest" });
    });
  },

  leave() {
    const line = this.editing ?? this.adding;
    this.editing = null;
    this.adding = null;
    this.$nextTick(() => document.querySelector(`[data-line="${line}"]`)?.focus());
  },

  async commit(row) {
    const text = this.draft.replace(/\s+$/, "");
    const adding = this.adding !== null;
    if (!adding && text === row.text) return this.leave();
    const body = adding
      ? { edit: "insert", after: row.line + (row.height ?? 1) - 1, text }
      : { edit: "replace", line: row.line, text };
    if (await this.change("edit", body)) this.leave();
  },

  // Deleting a line that others need is asked for twice: the first time says who they are.
  async remove(row) {
    const all_the_same = this.deleting === row.line;
    this.deleting = null;
    if (await this.change("edit", { edit: "delete", line: row.line, all_the_same })) this.leave();
    else if (this.needed) this.deleting = row.line;
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
    this.newName = row.own;
    this.$nextTick(() => document.getElementById("new-name")?.select());
  },

  typeName(event) {
    this.newName = event.target.value;
  },

  async rename(row) {
    const kept = await this.change("edit", { edit: "rename", name: row.own, new: this.newName });
    if (kept) this.leave();
  },

  turnable(row) {
    return row.type === "input" || (row.type === "formula" && row.own === row.name);
  },

  turnSaid(row) {
    return row.type === "input" ? "Make it a formula" : "Make it an input";
  },

  async turnKind(row) {
    const edit = row.type === "input" ? "to_formula" : "to_input";
    if (await this.change("edit", { edit, name: row.own })) this.leave();
  },

  // A line moves past the one above or below it; a section moves past the next section.
  async move(row, way) {
    const section = row.type === "section";
    const stops = this.rows.filter((one) => !section || one.type === "section").map((one) => one.line);
    const end = this.rows.at(-1).line + this.rows.at(-1).height;
    const at = stops.indexOf(row.line);
    const before = way < 0 ? stops[at - 1] : stops[at + 2] ?? end;
    if (before === undefined) return;
    if (await this.change("edit", { edit: "move", line: row.line, before })) this.leave();
  },

  // Enter commits; with Shift, or inside a block, it begins a new line.
  editorKey(event, row) {
    if (event.key === "Escape") {
      event.preventDefault();
      event.stopPropagation();
      this.leave();
    } else if (event.key === "Enter" && !event.shiftKey) {
      event.preventDefault();
      this.commit(row);
    }
  },

  typeDraft(event) {
    this.draft = event.target.value;
    event.target.rows = Math.max(1, this.draft.split("\n").length);
  },

  jump(line) {
    const row = [...this.rows].reverse().find((one) => one.line <= line);
    if (row) this.open(row);
  },

  // --- the stage ---

  isView(view) {
    return this.view === view;
  },

  setView(view) {
    this.view = view;
    window.ovolo.stage.setView(view);
  },

  fit() {
    window.ovolo.stage.setView(this.view);
  },

  togglePart(part) {
    part.shown = !part.shown; // the list is taken afresh with the next scene
    window.ovolo.stage.showPart(part.name, part.shown);
  },

  swatch(colour) {
    return { background: colour };
  },

  // A scale bar of a round length, between 50 and 125 pixels long.
  showScale(millimetres) {
    const raw = millimetres * 50;
    const decade = 10 ** Math.floor(Math.log10(raw));
    const length = decade * [1, 2, 5, 10].find((factor) => factor * decade >= raw);
    this.scaleText = length >= 1000 ? `${length / 1000} m` : `${length} mm`;
    this.scaleStyle = { width: `${length / millimetres}px` };
  },

  // --- the drawer ---

  isDrawer(name) {
    return this.drawer === name;
  },

  toggleDrawer(name) {
    this.drawer = this.drawer === name ? "" : name;
  },

  get holding() {
    return this.checks.filter((check) => check.passed).length;
  },

  get failed() {
    return this.checks.filter((check) => check.passed === false).length;
  },

  get checkSummary() {
    return this.failed ? `${this.failed} of ${this.checks.length} fail` : `${this.holding} hold`;
  },

  get problemSummary() {
    const waiting = this.problems.filter((problem) => problem.waiting).length;
    const wrong = this.problems.length - waiting;
    if (!wrong) return "no problems";
    return `${wrong} problem${wrong > 1 ? "s" : ""}${waiting ? `, ${waiting} waiting` : ""}`;
  },

  checkMark(check) {
    if (check.passed === null) return "… not tried";
    return check.passed ? "✓ holds" : "✕ fails";
  },

  checkClass(check) {
    return check.passed ? "tag holds" : "tag fails";
  },

  shortcut(event) {
    const typing = /^(INPUT|TEXTAREA)$/.test(event.target.tagName);
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "z" || typing) return;
    event.preventDefault();
    if (event.shiftKey) this.redo();
    else this.undo();
  },
}));

Alpine.start();
