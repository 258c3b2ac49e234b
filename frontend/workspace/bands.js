// The band that works: beside each slide rule, where along it what follows from it fails. Worked out one input after
// another while nobody does anything; thrown away at the next change.
import { quietly } from "../server.js";
import { keep, kept } from "./kept.js";
import { rules, turning } from "./faceplate.js";
import { queue } from "./settled.js";

const REST = 2500; // milliseconds without a hand

let resting = null;
let under = null; // the work that is under way

export const bands = () => ({
  needs: ["study", "writing", "faceplate"],

  shown: true,

  begin(state) {
    this.shown = kept(state.study, "bands", true);
    for (const sign of ["pointerdown", "keydown", "wheel"]) addEventListener(sign, () => this.rest(), { capture: true, passive: true });
    this.rest();
  },

  // Somebody does something: what is under way is given up, and begun again after a rest.
  rest() {
    clearTimeout(resting);
    under?.stop();
    under = null;
    if (this.shown) resting = setTimeout(() => this.workOut(), REST);
  },

  // Something has changed: what is drawn is not true any more.
  drop() {
    for (const one of rules.values()) for (const rule of one) rule.showBands(null);
    this.rest();
  },

  toggle() {
    this.shown = !this.shown;
    keep("bands", this.shown);
    this.drop();
  },

  async workOut() {
    if (document.hidden || this.writing.draft || queue.busy || !this.faceplate.shownInputs.length) return;
    const revision = this.study.revision;
    for (const input of this.faceplate.shownInputs) {
      const [rule, ...more] = rules.get(input.name) ?? [];
      if (!rule || more.length || rule.banded) continue; // of a point or a list there is none
      const work = quietly(`${this.study.address}bands`, { name: input.name, revision: this.study.revision, set: { ...turning } });
      under = work;
      const found = await work.answer.catch(() => null);
      if (under !== work || this.study.revision !== revision) return;
      under = null;
      if (found) rule.showBands(found);
    }
  },
});
