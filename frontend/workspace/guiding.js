// The guide of an exercise: its steps beside the sheet, looked at again whenever the study has changed.
import Alpine from "../alpine.js";
import { may } from "../may.js";
import { Newest } from "../newest.js";
import { postForJson } from "../server.js";
import { watched } from "./settled.js";

const looks = new Newest();

export const guiding = () => ({
  needs: ["study"],

  guided: false,
  /** @type {import("../answers").GuideSaid | null} */
  guide: null, // the exercise with its steps, as the server sees them
  hinted: -1, // the step whose hint is read

  begin(state) {
    this.guided = Boolean(state.guided) && may("edit");
    if (!this.guided) return;
    let seen;
    Alpine.effect(() => {
      const { revision } = this.study;
      if (revision === seen) return;
      seen = revision;
      queueMicrotask(() => this.lookAtSteps());
    });
  },

  // What the server does not answer is asked again with the next change.
  async lookAtSteps() {
    /** @type {import("../answers").GuideSaid | null | undefined} */
    const guide = await watched(() => looks.of(() => postForJson(`${this.study.address}exercise`, {}))).catch(() => null);
    if (!guide) return;
    const before = this.currentStep;
    this.guide = guide;
    if (this.currentStep !== before) this.hinted = -1;
  },

  // The first step that is not done; behind the last where all are.
  get currentStep() {
    const at = this.guide?.steps.findIndex((step) => step.missing) ?? 0;
    return at < 0 ? this.guide.steps.length : at;
  },

  get title() {
    return this.guide ? `${this.guide.number}. ${this.guide.title}` : "Exercise";
  },

  get goal() {
    return this.guide?.goal ?? "";
  },

  get problem() {
    return this.guide?.problems[0] ?? "";
  },

  get done() {
    return Boolean(this.guide?.done);
  },

  get nextExercise() {
    const next = this.guide?.next;
    return next ? { ...next, address: `/first-hour/${next.key}` } : null;
  },

  get steps() {
    return (this.guide?.steps ?? []).map((step, at) => ({ ...step, at, mark: step.missing ? "○" : "✓", isNow: at === this.currentStep, isHinted: at === this.hinted }));
  },

  showHint(step) {
    this.hinted = step.isHinted ? -1 : step.at;
  },

  async leave() {
    await postForJson(`${this.study.address}exercise/leave`, {}).catch(() => null);
    this.guided = false;
  },
});
