// The picture on the study's card is drawn by the window that changed it, when the hand rests.
import { keepPicture } from "../pictures.js";
import { portrait } from "../stage/snapshot.js";
import { turning } from "./faceplate.js";
import { queue } from "./settled.js";

const REST = 4000; // milliseconds
const SIZE = [720, 540];

let resting = null;

export const picturing = () => ({
  needs: ["study", "showing", "writing", "looking", "drawing"],

  pictureOf(state) {
    clearTimeout(resting);
    if (!state.pictured) resting = setTimeout(() => this.drawPicture(state), REST);
  },

  // Only of what was saved, and whole; otherwise the page of projects draws it.
  async drawPicture(state) {
    const { stage } = window.ovolo;
    const saved = this.study.revision === state.revision && !this.writing.draft && !Object.keys(turning).length && !queue.busy;
    const whole = !stage.hidden.size && !stage.ghosts.size && !this.looking.cutting && !this.drawing.drawn && !stage.held;
    if (!saved || !whole || !stage.paints || document.hidden) return;
    const png = await portrait(stage, ...SIZE);
    await keepPicture(state.study, state.shown, { problems: this.showing.problems, checks: this.showing.checks }, png).catch(() => null);
  },
});
