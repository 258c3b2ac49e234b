// Remarks on lines: beside the sheet's text, following their lines.
import Alpine from "../alpine.js";
import { may } from "../may.js";
import { InTurn } from "../newest.js";
import { getJson, postForJson } from "../server.js";
import { watched } from "./settled.js";

const turns = new InTurn(); // of what is asked, each gives the whole list

export const remarks = () => ({
  needs: ["study", "saving", "writing"],

  /** @type {import("../answers").BeginningSaid[]} */
  all: [],
  stamp: "0:0:0",
  open: false,
  showingSettled: false,
  at: null, // the line a remark is being written on
  answered: null, // the remark that is being answered
  typed: "",

  begin() {
    Alpine.watch(() => this.study.revision, () => this.all.length && this.load());
  },

  // Others made or settled some since.
  takeStamp(stamp) {
    if (stamp && stamp !== this.stamp) this.load();
  },

  load() {
    return this.ask(() => getJson(`${this.study.address}remarks`));
  },

  async ask(ask) {
    try {
      /** @type {import("../answers").RemarksSaid} */
      const { remarks: found, stamp } = await watched(() => turns.run(ask));
      this.all = found;
      this.stamp = stamp;
      return true;
    } catch (error) {
      this.saving.fail(error);
      return false;
    }
  },

  async toggle() {
    this.open = !this.open;
    if (this.open) await this.load();
    else this.drop();
  },

  get canMake() {
    return may("read");
  },

  get unsettled() {
    return this.all.filter((one) => !one.settled);
  },

  get listed() {
    return this.showingSettled ? this.all : this.unsettled;
  },

  get said() {
    return this.unsettled.length ? `Remarks ${this.unsettled.length}` : "Remarks";
  },

  get settledSaid() {
    const count = this.all.length - this.unsettled.length;
    return this.showingSettled ? "Without those that are settled" : `Show ${count} settled`;
  },

  toggleSettled() {
    this.showingSettled = !this.showingSettled;
  },

  saidAt(row) {
    const count = this.unsettled.filter((one) => one.line >= row.line && one.line < row.line + row.height).length;
    return count ? `${count} remark${count === 1 ? "" : "s"}` : "";
  },

  placeOf(one) {
    return one.line === null ? "a line that is gone" : `line ${one.line}`;
  },

  timeOf(one) {
    return new Date(one.at).toLocaleString(undefined, { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
  },

  async beginAt(row) {
    if (!(await this.writing.keepDraft())) return;
    this.at = row.line;
    this.answered = null;
    this.open = true;
    await this.load();
    Alpine.nextTick(() => document.getElementById("remark")?.focus());
  },

  answer(one) {
    this.answered = one.remark;
    this.at = null;
    Alpine.nextTick(() => document.getElementById("remark")?.focus());
  },

  isAnswering(one) {
    return this.answered === one.remark;
  },

  type(event) {
    this.typed = event.target.value;
  },

  drop() {
    Object.assign(this, { at: null, answered: null, typed: "" });
  },

  async keep() {
    const place = this.answered === null ? { line: this.at, revision: this.study.revision } : { answers: this.answered };
    if (await this.ask(() => postForJson(`${this.study.address}remarks/make`, { said: this.typed, ...place }))) this.drop();
  },

  settle(one) {
    return this.ask(() => postForJson(`${this.study.address}remarks/settle`, { remark: one.remark, settled: !one.settled }));
  },

  takeBack(one) {
    return this.ask(() => postForJson(`${this.study.address}remarks/take-back`, { remark: one.remark }));
  },

  mayTakeBack(one) {
    return one.mine || may("own");
  },
});
