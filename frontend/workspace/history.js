// The history of a study: what changed, in words; any moment restored or named.
import { getJson, postForJson } from "../server.js";
import { watched } from "./settled.js";

export const history = () => ({
  moments: [],
  momentCount: 0,
  naming: null,
  momentName: "",
  showingHistory: false,

  begin() {
    this.$watch("revision", () => this.showingHistory && this.loadHistory());
  },

  async toggleHistory() {
    this.showingHistory = !this.showingHistory;
    if (this.showingHistory) await this.loadHistory();
  },

  async loadHistory() {
    try {
      const { moments, count } = await watched(() => getJson(`${this.address}history`));
      this.moments = moments;
      this.momentCount = count;
    } catch (error) {
      this.fail(error);
    }
  },

  momentSaid(moment) {
    return moment.said || "changed";
  },

  momentTime(moment) {
    return new Date(moment.at).toLocaleString(undefined, { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
  },

  async restoreMoment(moment) {
    if (!(await this.keepDraft())) return;
    this.closeLine();
    await this.change("restore", { moment: moment.revision });
  },

  isNaming(moment) {
    return this.naming === moment.revision;
  },

  beginNaming(moment) {
    this.naming = moment.revision;
    this.momentName = moment.name;
    this.$nextTick(() => document.getElementById("moment-name")?.focus());
  },

  typeMomentName(event) {
    this.momentName = event.target.value;
  },

  async nameMoment(moment) {
    try {
      await postForJson(`${this.address}name-moment`, { moment: moment.revision, name: this.momentName });
      this.naming = null;
      if (moment.here) this.rememberOpened();
      await this.loadHistory();
    } catch (error) {
      this.fail(error);
    }
  },

  stopNaming() {
    this.naming = null;
  },

  compareAddress(moment) {
    return `${this.address}variations#moment=${moment.revision}`;
  },
});
