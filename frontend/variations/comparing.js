// Comparing: stages side by side with one camera, or laid over each other as ghosts, and a table.
import Alpine from "../alpine.js";
import { Newest } from "../newest.js";
import { getJson, postForScene, postLong } from "../server.js";
import { Stage } from "../stage/stage.js";
import { watched } from "../workspace/settled.js";
import { results } from "./trying.js";

const MOST = 4;

let stages = [];
const drawings = new Newest();

export const comparing = () => ({
  needs: ["study", "planning", "trying", "looking"],

  sides: [], // each with a title, and a `set`, a `moment` or a `study`
  /** @type {import("../answers").Comparison | null} */
  comparison: null,
  overlaid: false,
  onlyDiffering: true,
  moments: [],
  studies: [],

  begin() {
    const moment = new URLSearchParams(location.hash.slice(1)).get("moment");
    if (moment) this.compareSides([{ title: "then", moment: Number(moment) }, { title: "now" }]);
  },

  get isComparing() {
    return this.sides.length > 0;
  },

  get compareSaid() {
    return this.looking.pinned.length ? `Compare ${this.looking.pinned.length} pinned` : "Compare";
  },

  comparePinned() {
    const moment = results.revision ?? this.study.revision;
    const sides = this.looking.pinned.map((number) => ({ title: `number ${number + 1}`, set: this.looking.trial(number).settings, moment }));
    return this.compareSides(sides.length > 1 ? sides : [{ title: "as it stands", set: this.planning.around, moment }, ...sides]);
  },

  // Each side of one moment, in the table and in its picture, whoever changes the study meanwhile.
  compareSides(sides) {
    this.sides = sides.slice(0, MOST).map((side) => (side.study ? side : { moment: this.study.revision, ...side }));
    this.comparison = null;
    return watched(() => this.compareNow());
  },

  async compareNow() {
    this.loadOthers();
    const { sides } = this;
    if (sides.length < 2) return;
    try {
      const found = await postLong(`${this.study.address}variations/compare`, { sides });
      if (this.sides !== sides) return; // others were chosen meanwhile
      this.comparison = found;
      await Alpine.nextTick();
      await this.drawSides();
    } catch (error) {
      if (this.sides !== sides) return;
      this.trying.complain(error);
      this.endCompare();
    }
  },

  async loadOthers() {
    if (this.moments.length) return;
    /** @type {import("../answers").MomentsSaid} */
    const { moments } = await getJson(`${this.study.address}history`).catch(() => ({ moments: [] }));
    this.moments = moments.slice(0, 60).map((one) => ({ value: String(one.revision), said: one.name || one.said || `revision ${one.revision}` }));
    /** @type {import("../answers").StudiesSaid} */
    const { studies } = await getJson(`${this.study.address}variations/beside`).catch(() => ({ studies: [] }));
    this.studies = studies.map((one) => ({ value: String(one.study), said: one.title }));
  },

  addMoment(event) {
    const one = this.moments.find((moment) => moment.value === event.target.value);
    if (one) this.compareSides([...this.sides, { title: one.said, moment: Number(one.value) }]);
  },

  addStudy(event) {
    const one = this.studies.find((study) => study.value === event.target.value);
    if (one) this.compareSides([...this.sides, { title: one.said, study: Number(one.value) }]);
  },

  get canAdd() {
    return this.sides.length < MOST;
  },

  dropSide(at) {
    const left = this.sides.filter((_, place) => place !== at);
    return left.length > 1 ? this.compareSides(left) : this.endCompare();
  },

  endCompare() {
    for (const stage of stages) stage.renderer.dispose();
    stages = [];
    this.sides = [];
    this.comparison = null;
  },

  toggleOverlay() {
    this.overlaid = !this.overlaid;
    return watched(() => Alpine.nextTick().then(() => this.drawSides()));
  },

  toggleDiffering() {
    this.onlyDiffering = !this.onlyDiffering;
  },

  get rowsCompared() {
    return (this.comparison?.rows ?? []).filter((row) => row.differs || !this.onlyDiffering).map((row) => ({ ...row, key: `${row.what} ${row.name}` }));
  },

  get nothingDiffers() {
    return Boolean(this.comparison) && !this.comparison.rows.some((row) => row.differs);
  },

  // A stage for each side, or one for all; they are turned together.
  async drawSides() {
    const { sides } = this;
    for (const stage of stages) stage.renderer.dispose();
    const hosts = [...document.querySelectorAll("[data-compared]")].map((one) => /** @type {HTMLElement} */ (one));
    for (const host of hosts) host.replaceChildren();
    stages = hosts.map((host) => new Stage(host));
    const scenes = await drawings.of(() => this.scenesOf(sides));
    if (!scenes || this.sides !== sides) return;
    if (this.overlaid) {
      const [first, ...more] = scenes;
      const ghosts = more.flatMap((scene, at) => scene.parts.map((part) => ({ ...part, name: `${part.name} ${at + 2}` })));
      for (const { name } of ghosts) stages[0]?.ghosts.add(name);
      stages[0]?.apply({ ...first, parts: [...first.parts, ...ghosts], shapes: Object.assign({}, ...scenes.map((scene) => scene.shapes)), dims: [], inputs: [], construction: [] });
    } else {
      scenes.forEach((scene, at) => stages[at]?.apply({ ...scene, dims: [], inputs: [], construction: [] }));
    }
    this.seeAlike();
  },

  // All with the frame of the largest, and turned with the one that is turned.
  seeAlike() {
    for (const stage of stages) stage.setView("axonometric");
    const widest = stages.reduce((best, stage) => (stage.millimetresPerPixel() > best.millimetresPerPixel() ? stage : best), stages[0]);
    if (!widest) return;
    for (const stage of stages) stage.lookFrom(widest.viewpoint());
    let leading = false;
    for (const stage of stages) {
      stage.controls.addEventListener("change", () => {
        if (leading) return;
        leading = true;
        for (const other of stages) if (other !== stage) other.lookFrom(stage.viewpoint());
        leading = false;
      });
    }
  },

  // One after another: a newer request of a window replaces an older one.
  async scenesOf(sides) {
    const scenes = [];
    for (const side of sides) scenes.push(await this.sceneOf(side));
    return scenes;
  },

  sceneOf(side) {
    if (side.study) return postForScene(`/studies/${side.study}/evaluate`, {});
    return postForScene(`${this.study.address}evaluate`, { revision: side.moment ?? this.study.revision, set: { ...(side.set ?? {}) } });
  },

  get stagesShown() {
    return this.overlaid ? [{ title: this.sides.map((side) => side.title).join(" over "), at: 0 }] : this.sides.map((side, at) => ({ title: side.title, at }));
  },
});
