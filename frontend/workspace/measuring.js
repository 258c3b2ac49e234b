// Measuring on the stage: one or two picked points or edges; the result becomes a dim or a check.
import { Newest } from "../newest.js";
import { postForJson } from "../server.js";
import { turning } from "./faceplate.js";
import { watched } from "./settled.js";
import { edit } from "./edit.js";

const measures = new Newest();

// The shapes of an item, which are called by what they are, and their places.
function standing({ part, item }) {
  const groups = window.ovolo.stage.parts.get(part)?.part.groups ?? [];
  return groups.map(({ shape, items, matrices }) => {
    const places = Array.from(items, (one, at) => (one === item ? matrices.subarray(16 * at, 16 * at + 16).join(" ") : ""));
    return `${shape} ${places.filter(Boolean).join()}`;
  }).join();
}

export const measuring = () => ({
  needs: ["study", "saving", "showing", "writing", "looking", "drawing"],

  on: false,
  picks: [],
  pickedAs: "", // how what was picked is made and where it stands
  isGone: false, // whether it is not that any more
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
    this.isGone = false;
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
    this.isGone = false;
    this.picks = this.picks.length === 1 ? [...this.picks, thing] : [thing];
    this.pickedAs = this.asPicked();
    await this.measurePicks();
  },

  // Where what was picked is made otherwise now, or stands elsewhere, its figures are of what is gone.
  followParts() {
    if (!this.picks.length || this.asPicked() === this.pickedAs) return;
    this.clear();
    this.isGone = true;
  },

  asPicked() {
    return this.picks.map((pick) => (pick.part ? standing(pick) : `${this.study.revision} ${JSON.stringify(turning)}`)).join();
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
    if (this.isGone) return "What was picked has changed: pick it again.";
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
