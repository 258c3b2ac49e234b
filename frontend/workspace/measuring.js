// Measuring on the stage: one or two picked points or edges; the result becomes a dim or a check.
import { Newest } from "../newest.js";
import { postForJson } from "../server.js";
import { turning } from "./faceplate.js";
import { watched } from "./settled.js";
import { edit } from "./edit.js";

const measures = new Newest();

export const measuring = () => ({
  needs: ["study", "saving", "showing", "writing", "looking", "drawing"],

  on: false,
  picks: [],
  /** @type {import("../answers").MeasuredSaid | null} */
  measured: null,

  toggle() {
    this.on = !this.on;
    this.drawing.drawn = false;
    window.ovolo.stage.host.classList.toggle("measuring", this.on);
    this.clear();
    this.looking.closeCard();
  },

  clear() {
    measures.drop();
    this.picks = [];
    this.measured = null;
    window.ovolo.stage.marks.measure([], null);
  },

  hover(event) {
    const thing = window.ovolo.stage.picking.thingAt(event.clientX, event.clientY);
    window.ovolo.stage.host.dataset.under = thing ? (thing.edge === undefined ? "point" : "edge") : "";
  },

  async pickToMeasure(event) {
    const thing = window.ovolo.stage.picking.thingAt(event.clientX, event.clientY);
    if (!thing) return;
    this.picks = this.picks.length === 1 ? [...this.picks, thing] : [thing];
    await this.measurePicks();
  },

  async measurePicks() {
    const asked = { revision: this.study.revision, set: { ...turning }, picks: this.picks };
    try {
      const found = await watched(() => measures.of(() => postForJson(`${this.study.address}measure`, asked)));
      if (!found) return;
      this.measured = found;
      window.ovolo.stage.marks.measure(this.measured.outline, this.measured.ends);
    } catch (error) {
      this.clear();
      this.saving.fail(error);
    }
  },

  get measureSaid() {
    if (!this.measured) return "Pick a corner, an edge or a place on a part; then a second one.";
    return this.picks.length === 1 ? "Pick a second one for a distance." : "";
  },

  async keepMeasured(kind) {
    const text = this.measured[kind];
    const last = this.showing.rows.at(-1);
    if (!(await this.writing.keepDraft())) return;
    await this.saving.change("edit", edit({ edit: "insert", after: last ? last.line + last.height - 1 : 0, text }));
  },

  keepAsDim() {
    return this.keepMeasured("dim");
  },

  keepAsCheck() {
    return this.keepMeasured("check");
  },
});
