// The history of a study: what changed, in words; any moment restored or named.
import Alpine from "../alpine.js";
import { Newest } from "../newest.js";
import { getJson, postForJson } from "../server.js";
import { watched } from "./settled.js";

const lists = new Newest();

export const history = () => ({
  needs: ["study", "saving", "writing", "faceplate"],

  /** @type {import("../answers").MomentSaid[]} */
  moments: [],
  momentCount: 0,
  naming: null,
  momentName: "",
  open: false,

  begin() {
    Alpine.watch(() => this.study.revision, () => this.open && this.load());
  },

  async toggle() {
    this.open = !this.open;
    if (this.open) await this.load();
  },

  async load() {
    try {
      /** @type {import("../answers").MomentsSaid | undefined} */
      const found = await watched(() => lists.of(() => getJson(`${this.study.address}history`)));
      if (found) Object.assign(this, { moments: found.moments, momentCount: found.count });
    } catch (error) {
      this.saving.fail(error);
    }
  },

  momentSaid(moment) {
    return moment.said || "changed";
  },

  momentTime(moment) {
    return new Date(moment.at).toLocaleString(undefined, { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
  },

  async restore(moment) {
    if (!(await this.writing.keepDraft())) return;
    this.writing.closeLine();
    await this.saving.change("restore", { moment: moment.revision });
  },

  isNaming(moment) {
    return this.naming === moment.revision;
  },

  beginNaming(moment) {
    this.naming = moment.revision;
    this.momentName = moment.name;
    Alpine.nextTick(() => document.getElementById("moment-name")?.focus());
  },

  typeName(event) {
    this.momentName = event.target.value;
  },

  async name(moment) {
    try {
      await postForJson(`${this.study.address}name-moment`, { moment: moment.revision, name: this.momentName });
      this.naming = null;
      if (moment.here) this.faceplate.rememberOpened();
      await this.load();
    } catch (error) {
      this.saving.fail(error);
    }
  },

  stopNaming() {
    this.naming = null;
  },

  compareAddress(moment) {
    return `${this.study.address}variations#moment=${moment.revision}`;
  },
});
