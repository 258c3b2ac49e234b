// The contact sheet: which trials are seen, in which order; pinned, chosen, taken.
import Alpine from "../alpine.js";
import { InTurn } from "../newest.js";
import { postForFile, postForJson } from "../server.js";
import { saveAs } from "../workspace/handover.js";
import { edit } from "../workspace/edit.js";
import { watched } from "../workspace/settled.js";
import { Cards } from "./cards.js";
import { Darkroom } from "./darkroom.js";
import { figureOf } from "./figures.js";
import { results } from "./trying.js";

const MOST_PINNED = 4;

let cards = null;
let darkroom = null;
const changes = new InTurn();

export const looking = () => ({
  needs: ["study", "newer", "planning", "trying", "plotting"],

  sortedBy: "number",
  falling: false,
  onlyWell: false,
  failingCheck: "",
  fitted: false, // each picture as large as its card
  chosen: null, // the number of a trial
  pinned: [],
  seen: 0, // how many are seen
  met: { all: 0, failing: 0 }, // the trials that are there
  checksMet: [], // the words of the checks that some trial fails
  presetTitle: null,
  status: "",

  begin() {
    darkroom = new Darkroom(document.getElementById("darkroom"), this.study.address, () => results.revision);
    cards = new Cards(document.getElementById("cards"), {
      picture: (trial, canvas) => darkroom.draw(trial, canvas),
      choose: (number) => (this.chosen = number),
      pin: (number) => this.togglePin(number),
      take: (number) => this.take(number),
    });
    darkroom.begin({}, false);
    const wanted = new URLSearchParams(location.hash.slice(1));
    if (wanted.get("along")) this.beginSeries(wanted.get("along"), wanted.get("value"));
  },

  // Comes from a bar of *Reach*: a series along one input.
  beginSeries(name, value) {
    this.planning.kind = "series";
    this.planning.along = [name, this.planning.along[1]];
    if (value && !this.planning.valuesShown.includes(value)) this.planning.valuesShown = [value, ...this.planning.valuesShown];
    Alpine.nextTick(() => this.trying.run());
  },

  forgetLooks() {
    Object.assign(this, { chosen: null, pinned: [], seen: 0, failingCheck: "", met: { all: 0, failing: 0 } });
    darkroom.begin({ ...this.planning.around }, this.fitted);
    this.plotting.forgetBrush();
    this.showTrials();
  },

  showTrials() {
    const made = results.trials.filter(Boolean);
    const failing = made.filter((trial) => trial.why);
    this.met = { all: made.length, failing: failing.length };
    this.checksMet = [...new Set(failing.flatMap((trial) => trial.checks.filter((one) => one.passed === false).map((one) => one.message || one.text)))];
    this.plotting.drawPlot(made);
    this.showCards();
  },

  showCards() {
    if (!cards) return;
    const found = this.inOrder(results.trials.filter(Boolean).filter((trial) => this.isWanted(trial)));
    this.seen = found.length;
    cards.show(found, {
      shown: this.planning.valuesShown,
      labels: new Map(this.planning.values.map((one) => [one.name, one.label])),
      varied: this.variedIn(found),
      chosen: this.chosen,
      pinned: this.pinned,
    });
  },

  // The inputs in which the trials differ: only these are said on the cards.
  variedIn(trials) {
    return this.planning.axes.filter((axis) => new Set(trials.map((trial) => trial.settings[axis.name])).size > 1).map((axis) => axis.name);
  },

  isWanted(trial) {
    if (this.onlyWell && trial.why) return false;
    if (this.failingCheck && !trial.checks.some((one) => one.passed === false && (one.message || one.text) === this.failingCheck)) return false;
    return this.plotting.isInBrush(trial);
  },

  inOrder(trials) {
    const way = this.falling ? -1 : 1;
    const of = (trial) => (this.sortedBy === "number" ? trial.number : figureOf(trial, this.sortedBy));
    return trials.sort((a, b) => way * compareFigures(of(a), of(b)) || a.number - b.number);
  },

  sortBy(event) {
    this.sortedBy = event.target.value;
    this.showCards();
  },

  turnOrder() {
    this.falling = !this.falling;
    this.showCards();
  },

  get orderSaid() {
    return this.falling ? "falling" : "rising";
  },

  toggleOnlyWell() {
    this.onlyWell = !this.onlyWell;
    this.showCards();
  },

  toggleFitted() {
    this.fitted = !this.fitted;
    darkroom.begin({ ...this.planning.around }, this.fitted);
    this.showCards();
  },

  chooseCheck(event) {
    this.failingCheck = event.target.value;
    this.showCards();
  },

  get summary() {
    if (!this.met.all) return "";
    return this.seen === this.met.all ? `${this.met.all} trials` : `${this.met.all} trials, ${this.seen} seen`;
  },

  get failingSaid() {
    return this.met.failing ? `${this.met.failing} fail` : "";
  },

  // --- one trial ---

  trial(number) {
    return results.trials[number];
  },

  get chosenSaid() {
    return this.chosen === null ? "Take it" : `Take number ${this.chosen + 1}`;
  },

  togglePin(number) {
    if (this.pinned.includes(number)) this.pinned = this.pinned.filter((one) => one !== number);
    else this.pinned = [...this.pinned, number].slice(-MOST_PINNED);
    this.showCards();
  },

  takeChosen() {
    return this.take(this.chosen);
  },

  // The setting of a trial becomes that of the study: one revision.
  async take(number) {
    const { settings } = this.trial(number);
    const said = `number ${number + 1} of ${this.planning.kind === "roll" ? `roll ${this.planning.rollNumber}` : this.planning.kind}`;
    if (await this.change({ edit: "take", values: settings, said })) location.assign(this.study.address);
  },

  change(one) {
    return watched(async () => {
      try {
        /** @type {import("../answers").StateSaid} */
        const state = await changes.run(() => postForJson(`${this.study.address}edit`, { revision: this.study.revision, ...edit(one) }));
        this.study.revision = state.revision;
        if (!this.newer.isNewer) this.newer.shows(await this.newer.now()); // it was changed here
        return true;
      } catch (error) {
        this.trying.complain(error);
        return false;
      }
    });
  },

  beginPreset() {
    this.presetTitle = `Number ${this.chosen + 1}`;
    Alpine.nextTick(() => /** @type {HTMLInputElement} */ (document.getElementById("preset-title"))?.select());
  },

  typePreset(event) {
    this.presetTitle = event.target.value;
  },

  async keepPreset() {
    const title = this.presetTitle;
    if (!(await this.change({ edit: "keep_preset", title, values: this.trial(this.chosen).settings }))) return;
    this.presetTitle = null;
    this.status = `preset ${title} saved`;
  },

  leavePreset() {
    this.presetTitle = null;
  },

  get isNaming() {
    return this.presetTitle !== null;
  },

  // --- all of them as files ---

  get seenTrials() {
    return this.inOrder(results.trials.filter(Boolean).filter((trial) => this.isWanted(trial)));
  },

  async saveTable() {
    await this.saved("variations/table", { trials: this.seenTrials, values: [] }, "csv");
  },

  async saveFiles(file) {
    const numbers = this.pinned.length ? this.pinned : this.seenTrials.slice(0, 60).map((trial) => trial.number);
    const { plan, set, revision } = results;
    await this.saved("variations/files", { plan, set, revision, numbers, file }, "zip");
  },

  async saved(action, body, ending) {
    try {
      saveAs(await watched(() => postForFile(this.study.address + action, body)), `${document.title.split(" · ")[0].toLowerCase().replaceAll(/\s+/g, "-")}.${ending}`);
      this.trying.complain();
    } catch (error) {
      this.trying.complain(error);
    }
  },
});

function compareFigures(a, b) {
  if (typeof a === "number" && typeof b === "number") return a - b;
  if (a === undefined || b === undefined) return (a === undefined ? 1 : 0) - (b === undefined ? 1 : 0);
  return String(a).localeCompare(String(b));
}
