// Showing a scene: rows, inputs, parts, checks, problems, and the stage.
import Alpine from "../alpine.js";
import { postForScene } from "../server.js";
import { drafted, lineFollower, rowsOf } from "../sheet/rows.js";
import { Stage } from "../stage/stage.js";
import { Steady } from "../steady.js";
import { turning } from "./faceplate.js";
import { InMotion } from "./in-motion.js";
import { queue, tellSettled, underWay } from "./settled.js";

const steady = new Steady();

// The lines of the text that was seen last: they are not sent with every turn.
/** @type {{ of: string, lines: import("../scene").LineSaid[] }} */
let heldLines = { of: "", lines: [] };

/** @param {import("../page").Shown} scene  @returns {import("../page").Shown} */
function withLines(scene) {
  if (scene.lines_of && scene.lines) heldLines = { of: scene.lines_of, lines: scene.lines };
  return scene.lines ? scene : { ...scene, lines: heldLines.lines };
}

const PAUSE = 450; // milliseconds without a key
let pausing = null;
/** @type {InMotion} */
let hand;

export const showing = () => ({
  needs: ["study", "saving", "writing", "several", "faceplate", "looking", "drawing", "drawer", "bands", "announcing", "measuring", "scheduling", "handover"],

  typedAt: 0, // when a key was pressed last in the open line
  rows: [],
  draftRow: null, // what the line that is being typed gives
  inputs: [],
  parts: [],
  loose: [], // solids and the like that are no part yet
  checks: [],
  problems: [],
  presets: [],
  working: [],
  lengthUnit: { symbol: "mm", size: 1 },
  coming: false, // whether what is measured comes once the hand rests

  begin(state) {
    this.rows = rowsOf(state);
    hand = new InMotion(() => this.coming && !queue.busy && this.refresh());
    const antialias = new URLSearchParams(location.search).get("antialias") !== "off";
    // Objects with a life of their own are kept outside the reactive state.
    window.ovolo = { stage: new Stage(document.getElementById("stage"), { antialias }) };
  },

  // Asks for the scene of what is seen now: of the text that is being typed, or of the present
  // revision; with the values that are being turned.
  refresh() {
    queue.ask(async () => {
      const draft = this.writing.draft;
      const [working, drawing] = [this.drawer.workingWanted(draft), this.drawing.drawingWanted()];
      // What is said of an item, or of a hand-over, is of the whole as well.
      const whole = draft || working !== null || drawing !== null || this.looking.card || this.handover.isOpen;
      const moving = hand.wanted && !whole;
      const from = performance.now();
      try {
        const scene = await postForScene(`${this.study.address}evaluate`, {
          ...(draft ? { text: draft.whole } : { revision: this.study.revision }),
          set: { ...turning },
          held: window.ovolo.stage.heldShapes(),
          lines_held: heldLines.of,
          construction: this.writing.constructionWanted(),
          working,
          drawing,
          moving,
        });
        hand.took(performance.now() - from, moving, Boolean(scene.coming));
        this.take(withLines(scene), draft);
        if (this.saving.status === "No server") this.saving.status = "";
      } catch (error) {
        this.comes(false);
        this.saving.fail(error);
      }
      if (this.coming && !hand.moving) this.refresh();
    });
    tellSettled();
  },

  // An input is being turned.
  follow() {
    hand.turned();
    this.refresh();
  },

  letGo() {
    hand.ended();
  },

  // What is measured comes later; it is not settled before.
  comes(coming) {
    if (coming === this.coming) return;
    this.coming = coming;
    underWay(coming ? 1 : -1);
  },

  /** @param {import("../page").Shown} scene  @param {any} draft */
  take(scene, draft) {
    const { rows, typed } = draft ? drafted(scene, draft) : { rows: rowsOf(scene), typed: null };
    this.endPause();
    this.comes(Boolean(scene.coming));
    const pause = draft && typed?.failing ? this.typedAt + PAUSE - performance.now() : 0;
    if (pause > 0) {
      this.draftRow = { ...typed, problem: "", hint: "", unknown: "" };
      this.writing.showProblems({ problems: [] }, draft);
      return this.pauseBefore(() => this.take(scene, draft), pause);
    }
    this.draftRow = typed;
    if (scene.stopped) this.saving.complain(scene.stopped);
    else this.writing.showProblems(scene, draft);
    const unfinished = draft && isUnfinished(typed, draft);
    const before = Alpine.raw(this.rows); // compared line by line, at every turn
    if (!unfinished || !draft.old) this.show("rows", rows, (row) => row.key);
    if (unfinished) return;
    const lineAfter = lineFollower(before, rows);
    this.drawer.follow(lineAfter);
    this.several.follow(lineAfter);
    if (scene.stopped) return;
    this.show("inputs", scene.inputs, (input) => input.name);
    this.show("parts", scene.parts.map(partOf), (part) => part.name);
    this.show("loose", scene.loose.map(partOf), (part) => part.name);
    this.show("checks", scene.checks, (check) => check.line);
    this.show("problems", scene.problems, (one) => `${one.line}:${one.column}:${one.item}:${one.message}`);
    this.show("presets", scene.presets, (preset) => preset.title);
    this.show("working", scene.working, (step) => `${step.line}`);
    this.lengthUnit = scene.length_unit;
    this.faceplate.showInputs(scene.inputs);
    this.bands.drop();
    window.ovolo.stage.apply(scene, this.study.address);
    for (const room of [this.measuring, this.looking, this.scheduling, this.handover]) room.followParts();
    window.ovolo.stage.describe(pictureSaid(this.saving.title, scene));
    this.drawing.takeDrawing(scene);
    if (!scene.coming) {
      this.looking.numberSoon();
      this.announcing.announceSoon();
    }
    performance.mark("ovolo:scene");
  },

  // What is wrong with a line is said when its writer pauses, and not at every key.
  pauseBefore(work, milliseconds) {
    underWay(1);
    pausing = setTimeout(() => {
      pausing = null;
      work();
      underWay(-1);
    }, milliseconds);
  },

  endPause() {
    if (pausing === null) return;
    clearTimeout(pausing);
    pausing = null;
    underWay(-1);
  },

  show(list, items, keyOf) {
    const changed = steady.take(list, items, keyOf);
    if (changed) this[list] = changed;
  },
});

// While a line cannot be worked out as far as it is typed, or has lost its name, everything else
// stays as it was.
function isUnfinished(typed, draft) {
  if (!typed) return false;
  return (typed.failing && !typed.number) || Boolean(draft.own && typed.own !== draft.own);
}

// What the picture shows, for who does not see it.
/** @param {string} title  @param {import("../page").Shown} scene */
function pictureSaid(title, { parts, loose }) {
  const said = [...parts, ...loose].map(({ label, count }) => (count === 1 ? label : `${count} ${label}`));
  return `Picture of ${title}: ${said.join(", ") || "nothing yet"}`;
}

function partOf({ name, label, colour, count, line, mass, legend }) {
  const { hidden, ghosts } = window.ovolo.stage;
  return { name, label, colour, count, line, mass, legend, shown: !hidden.has(name), ghost: ghosts.has(name) };
}
