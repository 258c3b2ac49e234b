// The drawer at the bottom of the sheet: working, checks, parts, files, problems; and threads.
import { whenReplaced } from "../alpine.js";
import { formulaModule } from "../later.js";
import { getJson, postForJson, sendFile } from "../server.js";
import { reorderable } from "../sheet/reorder.js";
import { sayProblem } from "../sheet/rows.js";
import { drawThreads, following, tiesOf } from "../sheet/threads.js";
import { watched } from "./settled.js";

const THREAD_PAUSE = 120; // milliseconds over a line before its threads are drawn

const inWords = (count) => count.toLocaleString("en-GB");

export const drawer = () => ({
  drawer: "",
  seen: null,
  workLine: null, // the line that the drawer explains
  focusedRow: null,
  threaded: null, // the line whose threads are drawn, with the lines it is tied to

  begin() {
    reorderable(document.getElementById("sheet"), {
      end: () => this.rows.at(-1).line + this.rows.at(-1).height,
      moveTo: (line, before) => this.moveTo(line, before),
    });
    whenReplaced(() => this.rows, () => this.threaded && this.$nextTick(() => this.threaded && this.drawThreadsOf(this.threaded.line)));
  },

  isDrawer(name) {
    return this.drawer === name;
  },

  toggleDrawer(name) {
    this.drawer = this.drawer === name ? "" : name;
    if (this.drawer === "working") this.refresh();
    if (this.drawer === "files") this.lookBeside();
  },

  jump(line) {
    const row = [...this.rows].reverse().find((one) => one.line <= line);
    if (!row) return undefined;
    if (this.asText) this.asText = false;
    if (this.folded[row.section]) this.fold({ title: row.section });
    return this.open(row);
  },

  // --- working ---

  // The line to explain: the one that is open, or that was chosen last.
  workingWanted(draft) {
    if (this.asText) return null;
    if (draft) return draft.line;
    const line = this.editing ?? (this.drawer === "working" ? this.workLine ?? this.focusedRow?.line : null);
    if (line !== null && line !== undefined) this.workLine = line;
    return line ?? null;
  },

  get workingOfOpen() {
    return this.isOpen ? this.working.slice(0, 1).filter((step) => step.formula || step.result) : [];
  },

  async typeset(host, latex) {
    const formulas = await formulaModule().catch(() => null);
    if (formulas) formulas.default(host, latex);
    else host.textContent = latex; // as it is written, until the server is back
  },

  // name = formula = numbers = result, each once.
  latexOf(step) {
    return [step.name, step.formula, step.numbers, step.result].filter(Boolean).join(" = ");
  },

  printWorking() {
    window.print();
  },

  roleOf(step) {
    return step.role === "input" ? "text-sanguine" : "";
  },

  // --- threads ---

  beginThreads(row) {
    clearTimeout(this.threading);
    this.threading = setTimeout(() => this.drawThreadsOf(row.line), THREAD_PAUSE);
  },

  focusRow(row) {
    this.focusedRow = row;
    this.beginThreads(row);
    if (this.canPin(row) || this.drawer === "working") {
      this.workLine = row.line;
      this.refresh();
    }
  },

  drawThreadsOf(line) {
    const row = this.rows.find((one) => one.line === line);
    if (!row?.text.trim() || row.type === "section") return this.endThreads();
    const ties = tiesOf(row, this.rows);
    this.threaded = { line, tied: [line, ...ties.uses, ...ties.usedBy] };
    drawThreads(document.getElementById("threads"), line, ties);
    const lines = new Set(following(row, this.rows).map((one) => one.line));
    window.ovolo.stage.mark(this.parts.filter((part) => lines.has(part.line)).map((part) => part.name));
  },

  endThreads() {
    clearTimeout(this.threading);
    if (!this.threaded) return;
    this.threaded = null;
    document.getElementById("threads").replaceChildren();
    window.ovolo.stage.mark([]);
  },

  rowClass(row) {
    const untied = this.threaded && !this.threaded.tied.includes(row.line) && row.type !== "section";
    return `${row.classes}${untied ? " untied" : ""}${this.isHovered(row) ? " pointed" : ""}${this.isPicked(row) ? " picked" : ""}`;
  },

  // --- checks and problems ---

  get holding() {
    return this.checks.filter((check) => check.passed).length;
  },

  get failed() {
    return this.checks.filter((check) => check.passed === false).length;
  },

  get checkSummary() {
    if (!this.checks.length) return "";
    return this.failed ? `${this.failed} of ${this.checks.length} fail` : `${this.holding} hold`;
  },

  get problemSummary() {
    const waiting = this.problems.filter((problem) => problem.waiting).length;
    const wrong = this.problems.length - waiting;
    if (!wrong && this.draftRow?.failing) return "unfinished line";
    if (!wrong) return "no problems";
    return `${wrong} problem${wrong > 1 ? "s" : ""}${waiting ? `, ${waiting} waiting` : ""}`;
  },

  problemSaid: sayProblem,

  checkMark(check) {
    if (check.passed === null) return "… not tried";
    return check.passed ? "✓ holds" : "✕ fails";
  },

  checkClass(check) {
    return check.passed ? "tag holds" : "tag fails";
  },

  // --- files ---

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
    this.complain();
    try {
      await watched(work);
    } catch (error) {
      this.fail(error);
    }
  },

  attach(event) {
    const [file] = event.target.files;
    if (!file) return;
    const most = Number(event.target.dataset.most);
    if (file.size > most) {
      this.complain(`${file.name} has ${inWords(file.size)} bytes; at most ${inWords(most)} are taken`);
      event.target.value = "";
      return;
    }
    this.fileWork(async () => {
      this.takeState(await sendFile(`${this.address}files/`, file));
      this.seen = null;
      this.refresh();
    }).finally(() => (event.target.value = ""));
  },

  detach(file) {
    this.fileWork(async () => {
      this.takeState(await postForJson(`${this.fileAddress(file)}/remove`, {}));
      this.refresh();
    });
  },

  see(file) {
    if (this.isSeen(file)) this.seen = null;
    else this.fileWork(async () => (this.seen = { name: file.name, ...(await getJson(`${this.fileAddress(file)}?see`)) }));
  },
});
