// Remarks on lines: beside the sheet's text, following their lines.
import { may } from "../may.js";
import { getJson, postForJson } from "../server.js";
import { watched } from "./settled.js";

export const remarks = () => ({
  remarks: [],
  remarksStamp: "0:0:0",
  showingRemarks: false,
  showingSettled: false,
  remarkAt: null, // the line a remark is being written on
  remarkAnswers: null, // the remark that is being answered
  remarkSaid: "",

  begin() {
    this.$watch("revision", () => this.remarks.length && this.loadRemarks());
  },

  // Others made or settled some since.
  takeStamp(stamp) {
    if (stamp && stamp !== this.remarksStamp) this.loadRemarks();
  },

  loadRemarks() {
    return this.askRemarks(() => getJson(`${this.address}remarks`));
  },

  async askRemarks(ask) {
    try {
      const { remarks: found, stamp } = await watched(ask);
      this.remarks = found;
      this.remarksStamp = stamp;
      return true;
    } catch (error) {
      this.fail(error);
      return false;
    }
  },

  async toggleRemarks() {
    this.showingRemarks = !this.showingRemarks;
    if (this.showingRemarks) await this.loadRemarks();
    else this.dropRemark();
  },

  get canRemark() {
    return may("read");
  },

  get openRemarks() {
    return this.remarks.filter((one) => !one.settled);
  },

  get shownRemarks() {
    return this.showingSettled ? this.remarks : this.openRemarks;
  },

  get remarksSaid() {
    return this.openRemarks.length ? `Remarks ${this.openRemarks.length}` : "Remarks";
  },

  get settledSaid() {
    const count = this.remarks.length - this.openRemarks.length;
    return this.showingSettled ? "Without those that are settled" : `Show ${count} settled`;
  },

  toggleSettled() {
    this.showingSettled = !this.showingSettled;
  },

  remarksAt(row) {
    const count = this.openRemarks.filter((one) => one.line >= row.line && one.line < row.line + row.height).length;
    return count ? `${count} remark${count === 1 ? "" : "s"}` : "";
  },

  remarkPlace(one) {
    return one.line === null ? "a line that is gone" : `line ${one.line}`;
  },

  remarkTime(one) {
    return new Date(one.at).toLocaleString(undefined, { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
  },

  async beginRemark(row) {
    if (!(await this.keepDraft())) return;
    this.remarkAt = row.line;
    this.remarkAnswers = null;
    this.showingRemarks = true;
    await this.loadRemarks();
    this.$nextTick(() => document.getElementById("remark")?.focus());
  },

  answerRemark(one) {
    this.remarkAnswers = one.remark;
    this.remarkAt = null;
    this.$nextTick(() => document.getElementById("remark")?.focus());
  },

  isAnswering(one) {
    return this.remarkAnswers === one.remark;
  },

  typeRemark(event) {
    this.remarkSaid = event.target.value;
  },

  dropRemark() {
    Object.assign(this, { remarkAt: null, remarkAnswers: null, remarkSaid: "" });
  },

  async keepRemark() {
    const place = this.remarkAnswers === null ? { line: this.remarkAt, revision: this.revision } : { answers: this.remarkAnswers };
    if (await this.askRemarks(() => postForJson(`${this.address}remarks/make`, { said: this.remarkSaid, ...place }))) this.dropRemark();
  },

  settleRemark(one) {
    return this.askRemarks(() => postForJson(`${this.address}remarks/settle`, { remark: one.remark, settled: !one.settled }));
  },

  takeBackRemark(one) {
    return this.askRemarks(() => postForJson(`${this.address}remarks/take-back`, { remark: one.remark }));
  },

  mayTakeBack(one) {
    return one.mine || may("own");
  },
});
