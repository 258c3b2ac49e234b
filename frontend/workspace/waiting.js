// Work that takes longer than a moment: how long it has taken, of how much it may, and a way to stop it.
import { jobs, stopJob } from "../server.js";

const MOMENT = 1000; // milliseconds
const LOOK = 250;

export const waiting = () => ({
  needs: ["saving"],

  longWork: null,

  begin() {
    setInterval(() => this.lookAtJobs(), LOOK);
  },

  lookAtJobs() {
    const [oldest] = jobs;
    const taken = oldest ? performance.now() - oldest[1].began : 0;
    if (taken < MOMENT) {
      if (this.longWork) this.longWork = null;
      return;
    }
    const { seconds } = oldest[1];
    this.longWork = { job: oldest[0], said: `Working: ${Math.floor(taken / 1000)} s of at most ${seconds} s`, share: Math.min(taken / 1000 / seconds, 1) };
  },

  get longWorkStyle() {
    return { width: `${(this.longWork?.share ?? 0) * 100}%` };
  },

  stopLongWork() {
    return stopJob(this.longWork.job).catch((error) => this.saving.fail(error));
  },
});
