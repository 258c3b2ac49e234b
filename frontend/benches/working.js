// Work of a bench that goes on: only the newest run counts, and it can be stopped.
import { jobs, stopJob } from "../server.js";
import { underWay } from "../workspace/settled.js";

export const working = () => ({
  run: 0, // which run is under way; 0 where none is
  runs: 0,

  get isWorking() {
    return this.run > 0;
  },

  beginRun() {
    this.runs += 1;
    this.run = this.runs;
    return this.run;
  },

  endRun(run) {
    if (this.run === run) this.run = 0;
  },

  stop() {
    if (!this.isWorking) return;
    this.run = 0;
    underWay(1);
    Promise.allSettled([...jobs.keys()].map(stopJob)).then(() => underWay(-1));
  },
});
