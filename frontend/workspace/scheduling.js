// The schedule of pieces, in the drawer of parts: worked out when it is asked for, and again a moment
// after the parts have changed.
import { Newest } from "../newest.js";
import { postForJson } from "../server.js";
import { turning } from "./faceplate.js";

const PAUSE = 400; // milliseconds after the last change

let pausing = null;
const schedules = new Newest();
const cuts = new Newest();

export const scheduling = () => ({
  needs: ["study", "drawer"],

  /** @type {import("../answers").WholeScheduleSaid | null} */
  schedule: null,
  bars: { bar: "", kerf: "", trim: "" }, // as they were typed
  /** @type {import("../answers").SectionSaid[]} */
  barSections: [], // of the cut list, each with its bars

  // Their sizes may be others though the list of them is what it was.
  followParts() {
    if (this.schedule) this.scheduleSoon();
  },

  toggle() {
    schedules.drop();
    cuts.drop();
    if (this.schedule) this.schedule = null;
    else this.load();
  },

  scheduleSoon() {
    clearTimeout(pausing);
    pausing = setTimeout(() => this.schedule && this.load(), PAUSE);
  },

  load() {
    return this.drawer.fileWork(async () => {
      const found = await schedules.of(() => postForJson(`${this.study.address}schedule`, { revision: this.study.revision, set: { ...turning } }));
      if (!found) return;
      this.schedule = found;
      if (this.barSections.length) await this.askForBars();
    });
  },

  // The cut list on bars of a length; worked out again with the schedule.
  cutFromBars(event) {
    const [bar, kerf, trim] = ["bar", "kerf", "trim"].map((name) => event.target.elements[name].value.trim());
    this.bars = { bar, kerf, trim };
    return this.drawer.fileWork(() => this.askForBars());
  },

  async askForBars() {
    const found = await cuts.of(() => postForJson(`${this.study.address}bars`, { revision: this.study.revision, set: { ...turning }, ...this.bars }));
    if (found) this.barSections = found.sections;
  },

  get hasSchedule() {
    return this.schedule !== null;
  },

  get scheduleSaid() {
    const { rows, count } = this.schedule ?? { rows: [], count: 0 };
    return `${rows.length} kind${rows.length === 1 ? "" : "s"} of piece, ${count} in all`;
  },

  get scheduleAddress() {
    return `${this.study.address}hand-over/schedule.csv`;
  },
});
