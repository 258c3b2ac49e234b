// The band that works: beside each slide rule, where along it the study fails. Worked out one input after
// another while nobody does anything; thrown away at the next change.
import { quietly } from "../server.js";
import { keep, kept } from "./kept.js";
import { rules, turning } from "./faceplate.js";
import { queue } from "./settled.js";

const REST = 2500; // milliseconds without a hand

let resting = null;
let under = null; // the work that is under way

export const bands = () => ({
  showBands: true,

  begin(state) {
    this.showBands = kept(state.study, "bands", true);
    for (const sign of ["pointerdown", "keydown", "wheel"]) addEventListener(sign, () => this.restBands(), { capture: true, passive: true });
    this.restBands();
  },

  // Somebody does something: what is under way is given up, and begun again after a rest.
  restBands() {
    clearTimeout(resting);
    under?.stop();
    under = null;
    if (this.showBands) resting = setTimeout(() => this.workOutBands(), REST);
  },

  // Something has changed: what is drawn is not true any more.
  dropBands() {
    for (const one of rules.values()) for (const rule of one) rule.showBands(null);
    this.restBands();
  },

  toggleBands() {
    this.showBands = !this.showBands;
    keep("bands", this.showBands);
    this.dropBands();
  },

  async workOutBands() {
    if (document.hidden || this.draft || queue.busy || !this.shownInputs.length) return;
    const revision = this.revision;
    for (const input of this.shownInputs) {
      const [rule, ...more] = rules.get(input.name) ?? [];
      if (!rule || more.length || rule.banded) continue; // of a point or a list there is none
      const work = quietly(`${this.address}bands`, { name: input.name, set: { ...turning } });
      under = work;
      const found = await work.answer.catch(() => null);
      if (under !== work || this.revision !== revision) return;
      under = null;
      if (found) rule.showBands(found);
    }
  },
});
