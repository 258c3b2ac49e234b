// The drawer at the bottom of the sheet: working, checks, parts, files, problems; and threads.
import Alpine from "../alpine.js";
import { whenReplaced } from "../alpine.js";
import { box } from "../elements.js";
import { formulaModule } from "../later.js";
import { Newest } from "../newest.js";
import { getJson, postForJson, sendFile } from "../server.js";
import { keepOpenLineInSight } from "../sheet/in-sight.js";
import { reorderable } from "../sheet/reorder.js";
import { sayProblem } from "../sheet/rows.js";
import { drawThreads, following, tiesOf } from "../sheet/threads.js";
import { watched } from "./settled.js";

const THREAD_PAUSE = 120; // milliseconds over a line before its threads are drawn

let threading = null;
const seeing = new Newest();

const inWords = (count) => count.toLocaleString("en-GB");

export const drawer = () => ({
  needs: ["study", "saving", "showing", "writing", "text", "beside"],

  tab: "",
  /** @type {(import("../answers").FileSeenSaid & { name: string }) | null} */
  seen: null,
  workLine: null, // the line that the drawer explains
  focusedRow: null,
  threaded: null, // the line whose threads are drawn, with the lines it is tied to

  begin() {
    const sheet = document.getElementById("sheet");
    keepOpenLineInSight(sheet);
    reorderable(sheet, {
      end: () => this.showing.rows.at(-1).line + this.showing.rows.at(-1).height,
      moveTo: (line, before) => this.writing.moveTo(line, before),
    });
    whenReplaced(() => this.showing.rows, () => this.threaded && Alpine.nextTick(() => this.threaded && this.drawThreadsOf(this.threaded.line)));
  },

  isTab(name) {
    return this.tab === name;
  },

  toggle(name) {
    this.tab = this.tab === name ? "" : name;
    if (this.tab === "working") this.showing.refresh();
    if (this.tab === "files") this.beside.lookBeside();
  },

  jump(line) {
    const row = [...this.showing.rows].reverse().find((one) => one.line <= line);
    if (!row) return undefined;
    if (this.text.asText) this.text.asText = false;
    if (this.writing.folded[row.section]) this.writing.fold({ title: row.section });
    return this.writing.open(row);
  },

  // --- working ---

  // The line to explain: the one that is open, or that was chosen last.
  workingWanted(draft) {
    if (this.text.asText) return null;
    if (draft) return draft.line;
    const line = this.writing.editing ?? (this.tab === "working" ? this.workLine ?? this.focusedRow?.line : null);
    if (line !== null && line !== undefined) this.workLine = line;
    return line ?? null;
  },

  get workingOfOpen() {
    return this.writing.isOpen ? this.showing.working.slice(0, 1).filter((step) => step.formula || step.result) : [];
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
    clearTimeout(threading);
    threading = setTimeout(() => this.drawThreadsOf(row.line), THREAD_PAUSE);
  },

  focusRow(row) {
    this.focusedRow = row;
    this.beginThreads(row);
    if (this.writing.canPin(row) || this.tab === "working") {
      this.workLine = row.line;
      this.showing.refresh();
    }
  },

  // The line that has the focus keeps it where it is among the lines as they are now.
  follow(lineAfter) {
    this.workLine = this.workLine && lineAfter(this.workLine);
    if (!this.focusedRow) return;
    const { line } = this.focusedRow;
    const now = lineAfter(line);
    this.focusedRow = this.showing.rows.find((row) => row.line === now) ?? null;
    const here = box(`.row[data-line="${line}"]`);
    if (now !== line && here && here === document.activeElement) Alpine.nextTick(() => this.writing.focusLine(now ?? this.showing.rows[0]?.line));
  },

  drawThreadsOf(line) {
    const rows = Alpine.raw(this.showing.rows);
    const row = rows.find((one) => one.line === line);
    if (!row?.text.trim() || row.type === "section") return this.endThreads();
    const ties = tiesOf(row, rows);
    this.threaded = { line, tied: [line, ...ties.uses, ...ties.usedBy] };
    drawThreads(document.getElementById("threads"), line, ties);
    const lines = new Set(following(row, rows).map((one) => one.line));
    window.ovolo.stage.mark(this.showing.parts.filter((part) => lines.has(part.line)).map((part) => part.name));
  },

  endThreads() {
    clearTimeout(threading);
    if (!this.threaded) return;
    this.threaded = null;
    document.getElementById("threads").replaceChildren();
    window.ovolo.stage.mark([]);
  },

  // --- checks and problems ---

  get holding() {
    return this.showing.checks.filter((check) => check.passed).length;
  },

  get failed() {
    return this.showing.checks.filter((check) => check.passed === false).length;
  },

  get checkSummary() {
    if (!this.showing.checks.length) return "";
    if (this.showing.coming && !this.failed) return "…";
    const said = this.failed ? `${this.failed} of ${this.showing.checks.length} fail` : `${this.holding} hold`;
    return this.showing.checks.some((check) => check.doubt) ? `${said} ◦` : said;
  },

  get problemSummary() {
    const wrong = this.showing.problems.length - this.waiting;
    if (!wrong && this.showing.draftRow?.failing) return "unfinished line";
    if (!wrong) return "no problems";
    return `${wrong} problem${wrong > 1 ? "s" : ""}`;
  },

  get waiting() {
    return this.showing.problems.filter((problem) => problem.waiting).length;
  },

  // Beside the problems where there is room.
  get waitingSaid() {
    return this.waiting ? `, ${this.waiting} waiting` : "";
  },

  problemSaid: sayProblem,

  checkMark(check) {
    if (check.passed === null) return this.showing.coming ? "" : "… not tried";
    return `${check.passed ? "✓ holds" : "✕ fails"}${check.doubt ? " ◦" : ""}`;
  },

  checkClass(check) {
    if (check.passed === null && this.showing.coming) return "";
    return check.passed ? "tag holds" : "tag fails";
  },

  // --- files ---

  fileAddress(file) {
    return `${this.study.address}files/${encodeURIComponent(file.name)}`;
  },

  fileSize(file) {
    return file.size < 2000 ? `${file.size} bytes` : `${Math.round(file.size / 1000)} kB`;
  },

  isSeen(file) {
    return this.seen?.name === file.name;
  },

  async fileWork(work) {
    this.saving.complain();
    try {
      await watched(work);
    } catch (error) {
      this.saving.fail(error);
    }
  },

  async attach({ target }) {
    const files = [...target.files];
    if (!files.length) return;
    if (!this.isTab("files")) this.toggle("files");
    const most = Number(target.dataset.most);
    const large = files.find((file) => file.size > most);
    if (large) this.saving.complain(`${large.name} has ${inWords(large.size)} bytes; at most ${inWords(most)} are taken`);
    else await this.attachAll(files);
    target.value = "";
  },

  // Those that are refused are told together, for the next that is taken would close what was said of them.
  async attachAll(files) {
    const refused = [];
    for (const file of files) {
      if (await this.saving.inTurn(() => sendFile(`${this.study.address}files/`, file))) this.seen = null;
      else refused.push({ message: this.saving.complaint, hint: this.saving.hint });
    }
    if (refused.length) this.saving.complain(refused.map(({ message }) => message).join("; "), refused[0].hint);
  },

  detach(file) {
    return this.saving.inTurn(() => postForJson(`${this.fileAddress(file)}/remove`, {}));
  },

  see(file) {
    seeing.drop();
    if (this.isSeen(file)) this.seen = null;
    else this.fileWork(async () => {
      const found = await seeing.of(() => getJson(`${this.fileAddress(file)}?see`));
      if (found) this.seen = { name: file.name, ...found };
    });
  },
});
