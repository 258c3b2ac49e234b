// Carrying out a plan: its trials are asked for in pieces and seen as they come; it can be stopped.
import { jobs, postForJson, postLong, stopJob } from "../server.js";
import { underWay, watched } from "../workspace/settled.js";

const PIECE = 40;
const PIECE_WITH_PARTS = 6;
const AT_ONCE = 2; // pieces under way together

// Kept outside the reactive state, for there may be thousands.
/** @type {{ plan: any, set: Record<string, any>, revision: number | null, trials: import("../answers").Trial[] }} */
export const results = { plan: null, set: {}, revision: null, trials: [] };

export const trying = () => ({
  needs: ["study", "newer", "planning", "looking"],

  total: 0,
  done: 0,
  running: 0, // which run is under way; 0 where none is
  runs: 0,
  began: 0,
  took: 0,
  complaint: "",
  hint: "",

  begin(state) {
    if (state.refused) this.complaint = state.refused;
  },

  get isRunning() {
    return this.running > 0;
  },

  get progressSaid() {
    if (!this.total) return "";
    const seconds = (this.isRunning ? performance.now() - this.began : this.took) / 1000;
    const took = `${seconds < 10 ? seconds.toFixed(1) : Math.round(seconds)} s`;
    if (!this.isRunning) return `worked out ${this.done} of ${this.total} in ${took}`;
    const left = this.done ? (seconds / this.done) * (this.total - this.done) : 0;
    return `${this.done} of ${this.total}${this.done ? `, about ${Math.ceil(left)} s left` : ""}`;
  },

  get progressStyle() {
    return { width: `${this.total ? (100 * this.done) / this.total : 0}%` };
  },

  complain(error) {
    this.complaint = error?.message ?? "";
    this.hint = error?.hint ?? "";
  },

  dismiss() {
    this.complain();
  },

  run() {
    return watched(() => this.carryOut());
  },

  // True where no newer run took its place.
  async carryOut() {
    this.stop();
    this.complain();
    const run = (this.runs += 1);
    this.running = run;
    Object.assign(this, { done: 0, total: 0, began: performance.now() });
    const state = await this.newer.now();
    if (!(await this.followed(state)) || this.running !== run) return this.runs === run;
    const { plan, around: set, parts } = this.planning;
    Object.assign(results, { plan: JSON.parse(JSON.stringify(plan)), set: JSON.parse(JSON.stringify(set)), trials: [] });
    this.looking.forgetLooks();
    try {
      /** @type {import("../answers").PlanMadeSaid} */
      const { count, revision } = await postForJson(`${this.study.address}variations/plan`, { plan, set });
      if (this.running !== run) return false;
      this.total = count;
      this.newer.shows(state);
      results.revision = revision; // also what comes later is of this one, whoever changes the study meanwhile
      await this.tryAll(run, { plan, set, parts, revision }, count);
    } catch (error) {
      if (this.running === run) this.complain(error);
    }
    if (this.running !== run) return this.runs === run;
    this.took = performance.now() - this.began;
    this.running = 0;
    this.looking.showTrials();
    return true;
  },

  // Whether what can be varied is that of a state of the study; else it is said why not.
  async followed(state) {
    try {
      await this.planning.follow(state);
      return true;
    } catch (error) {
      this.complain(error);
      this.running = 0;
      return false;
    }
  },

  // Pieces go out in their order, a few at once; results are put where they belong.
  async tryAll(run, asked, count) {
    const size = asked.parts ? PIECE_WITH_PARTS : PIECE;
    let next = 0;
    const work = async () => {
      while (next < count && this.running === run) {
        const first = next;
        next = Math.min(first + size, count);
        /** @type {{ trials: import("../answers").Trial[] }} */
        const { trials } = await postLong(`${this.study.address}variations/trials`, { ...asked, first, last: next });
        if (this.running !== run) return;
        for (const trial of trials) results.trials[trial.number] = trial;
        this.done += trials.length;
        this.looking.showTrials();
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
  },

  // What is there stays.
  stop() {
    if (!this.isRunning) return;
    this.running = 0;
    this.took = performance.now() - this.began;
    underWay(1);
    Promise.allSettled([...jobs.keys()].map(stopJob)).then(() => underWay(-1));
    this.looking.showTrials();
  },
});
