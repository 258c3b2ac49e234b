// Rolling: a seed alone, or all inputs that are not on hold; one change each.
import { InTurn } from "../newest.js";
import { postLong } from "../server.js";
import { edit } from "./edit.js";
import { keep, kept } from "./kept.js";
import { watched } from "./settled.js";

const MOST_ROLLS = 2 ** 31 - 1;
const SEEDS = 9999;

const turns = new InTurn();

export const rolling = () => ({
  needs: ["study", "saving", "showing", "writing", "faceplate"],

  heldOf: 0, // the study
  held: [], // the names of inputs that stay where they are when others are rolled or varied

  begin(state) {
    this.heldOf = state.study;
    this.takeHeld();
    // Another page of this study may hold others meanwhile.
    for (const event of ["storage", "pageshow"]) addEventListener(event, () => this.takeHeld());
  },

  takeHeld() {
    this.held = kept(this.heldOf, "held", []);
  },

  isHeld(input) {
    return this.held.includes(input.name);
  },

  heldSaid(input) {
    return this.isHeld(input) ? "held" : "hold";
  },

  toggleHeld({ name }) {
    this.takeHeld();
    this.held = this.held.includes(name) ? this.held.filter((one) => one !== name) : [...this.held, name];
    keep("held", this.held);
  },

  // Another seed within its limits, on its steps.
  seed(input) {
    const low = input.low ?? 0;
    const high = input.high ?? SEEDS;
    const step = input.step > 0 ? input.step : 1;
    const steps = Math.floor((high - low) / step + 1e-9);
    const value = low + step * Math.floor(Math.random() * (steps + 1));
    return this.faceplate.settle(input.name, value === input.value && steps > 0 ? low + ((value - low + step) % (high - low + step)) : value);
  },

  // All that is not held, here or on the page of variations.
  all() {
    return turns.run(() => this.rollNow());
  },

  async rollNow() {
    if (!(await this.writing.keepDraft())) return;
    const roll = Math.floor(Math.random() * MOST_ROLLS);
    const offered = this.showing.inputs.map((input) => input.name);
    const hold = this.held.filter((name) => offered.includes(name));
    try {
      const { trials } = await watched(() => postLong(`${this.study.address}variations/trials`, { plan: { kind: "roll", number: 1, roll, hold }, first: 0, last: 1 }, 9));
      await this.saving.change("edit", edit({ edit: "take", values: trials[0].settings, said: `roll ${roll}` }));
    } catch (error) {
      this.saving.fail(error);
    }
  },
});
