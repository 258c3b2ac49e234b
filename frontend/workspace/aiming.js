// Aim and reach: how far each input moves a value, and what makes it what is wanted.
import Alpine from "../alpine.js";
import { Newest } from "../newest.js";
import { postLong } from "../server.js";
import { edit } from "./edit.js";
import { box } from "../elements.js";
import { turning } from "./faceplate.js";
import { watched } from "./settled.js";

const AIMED_AT = ["number", "length", "angle", "area", "volume", "mass", "time", "other"];

const questions = new Newest();

export const aiming = () => ({
  needs: ["study", "saving", "writing"],

  /** @type {{ name: string, label: string, reach: import("../answers").Reach | null, by: string[], goal: string, found: import("../answers").Aim | null, complaint: string, at: number | null } | null} */
  aim: null, // what is aimed at: its name, its reach, what is typed, what was found, and at which revision

  canAim(row) {
    return row.type === "formula" && row.own === row.name && AIMED_AT.includes(row.kind) && !row.failing;
  },

  async beginAim(row) {
    const name = row.own;
    if (!(await this.writing.keepDraft())) return;
    this.aim = { name, label: row.label || name, reach: null, by: [], goal: "", found: null, complaint: "", at: null };
    if (!(await this.reachNow())) return;
    this.aim.by = this.aim.reach.bars.slice(0, 1).map((bar) => bar.name);
    Alpine.nextTick(() => box("#aim-goal")?.focus());
  },

  // How far the inputs move it, as the study is now; true where it is told.
  async reachNow() {
    const at = this.saving.moment;
    const reach = await this.askToAim("reach", { name: this.aim.name, set: { ...turning } });
    if (reach) Object.assign(this.aim, { reach, at, found: null });
    return Boolean(reach);
  },

  // Whether the study has changed since: what was found then may give something else now.
  get isOld() {
    return Boolean(this.aim?.reach) && this.aim.at !== this.saving.moment;
  },

  endAim() {
    questions.drop();
    this.aim = null;
  },

  async askToAim(action, body) {
    try {
      return await watched(() => questions.of(() => postLong(this.study.address + action, { revision: this.study.revision, ...body })));
    } catch (error) {
      this.aim.complaint = [error.message, error.hint].filter(Boolean).join(": ");
      return undefined;
    }
  },

  typeGoal(event) {
    this.aim.goal = event.target.value;
  },

  isMover(bar) {
    return this.aim.by.includes(bar.name);
  },

  toggleMover(bar) {
    this.aim.by = this.isMover(bar) ? this.aim.by.filter((name) => name !== bar.name) : [...this.aim.by, bar.name];
  },

  async findGoal(goal) {
    Object.assign(this.aim, { found: null, complaint: "" });
    if (this.isOld && !(await this.reachNow())) return;
    const { name, by } = this.aim;
    const found = await this.askToAim("aim", { name, by, goal, set: { ...turning } });
    if (found) this.aim.found = found;
  },

  aimAtTyped() {
    return this.findGoal(this.aim.goal);
  },

  aimAtLeast() {
    return this.findGoal("least");
  },

  aimAtMost() {
    return this.findGoal("most");
  },

  /** @param {import("../answers").Found} one */
  keyOf(one) {
    return JSON.stringify(one.settings);
  },

  /** @param {import("../answers").Found} one */
  settingSaid(one) {
    return Object.entries(one.said).map(([name, said]) => `${name} ${said}`).join(", ");
  },

  async takeFound(one) {
    const said = `${this.aim.name} ${one.reached_said}`;
    if (await this.saving.change("edit", edit({ edit: "take", values: one.settings, said }))) this.endAim();
  },

  // From the least of all bars to the greatest; the present value is a hairline across all.
  /** @param {import("../answers").Bar} bar */
  barStyle(bar) {
    const { low, span } = this.barScale;
    return { left: `${(100 * (bar.least - low)) / span}%`, width: `${Math.max((100 * (bar.most - bar.least)) / span, 0.5)}%` };
  },

  get hairStyle() {
    const { low, span } = this.barScale;
    return { left: `${(100 * ((this.aim.reach?.present ?? low) - low)) / span}%` };
  },

  get barScale() {
    const bars = this.aim?.reach?.bars ?? [];
    const low = Math.min(...bars.map((bar) => bar.least));
    return { low, span: Math.max(...bars.map((bar) => bar.most)) - low || 1 };
  },

  seriesAddress(bar) {
    return `${this.study.address}variations#${new URLSearchParams({ along: bar.name, value: this.aim.name })}`;
  },
});
