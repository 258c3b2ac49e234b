// What is said to who does not see the page: checks that begin to fail or hold again, problems that come
// and go, and the value of the line that was just kept. Not at every turn: when the hand rests.
import { newsOf } from "./news.js";

const REST = 700; // milliseconds without a new picture

let resting = null;
let told = null; // what was so when something was said last

export const announcing = () => ({
  needs: ["showing"],

  announced: "",

  announceSoon() {
    told ??= this.toTell();
    clearTimeout(resting);
    resting = setTimeout(() => {
      const now = this.toTell();
      const said = newsOf(told, now);
      told = now;
      if (said) this.announced = said;
    }, REST);
  },

  toTell() {
    const failing = this.showing.checks.filter((check) => check.passed === false).map((check) => check.message || check.text);
    const problems = this.showing.problems.filter((one) => !one.waiting).length;
    const values = new Map(this.showing.rows.filter((row) => row.own && row.number && row.type !== "part").map((row) => [row.own, `${row.number} ${row.unit}`.trim()]));
    return { failing, problems, values };
  },
});
