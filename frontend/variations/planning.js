// The plan: its kind and number, which inputs are held, between what the others move, what is shown.
import { Newest } from "../newest.js";
import { getJson } from "../server.js";
import { keep, kept } from "../workspace/kept.js";
import { RangeRule } from "./range-rule.js";

const KINDS = ["roll", "series", "field", "presets", "rows", "limits"];
const SHOWN_FIRST = 3;
const outlines = new Newest();

export const planning = () => ({
  needs: ["study", "trying", "looking"],

  /** @type {(import("../answers").AxisSaid & { held: boolean, range: number[] })[]} */
  axes: [], // the inputs that can be varied, each with `held` and its `range`
  fixed: [], // those that cannot
  values: [], // what can be shown
  valuesShown: [],
  kinds: KINDS,
  kind: "roll",
  number: 60,
  rollNumber: 1,
  along: ["", ""],
  counts: [12, 6],
  rows: "",
  rowsName: "",
  parts: true,
  around: {}, // values around which a kept plan was made

  of: null, // the state of the study in which these can be varied

  begin(state) {
    this.of = state.shown;
    this.fixed = state.fixed;
    this.values = state.values;
    const held = kept(state.study, "held", []);
    this.axes = state.axes.map((axis) => ({ ...axis, held: held.includes(axis.name), range: [axis.low, axis.high] }));
    this.valuesShown = kept(state.study, "shown", null) ?? this.values.slice(0, SHOWN_FIRST).map((one) => one.name);
    this.along = [this.axes[0]?.name ?? "", this.axes[1]?.name ?? ""];
  },

  // The study is in another state by now: what can be varied is read anew. What was held and narrowed stays so.
  async follow(state) {
    if (state === null || state === this.of) return;
    /** @type {import("../answers").VariationsSaid | undefined} */
    const found = await outlines.of(() => getJson(`${this.study.address}variations/varied`));
    if (!found) return;
    const { axes, fixed, values } = found;
    const before = new Map(this.axes.map((axis) => [axis.name, axis]));
    Object.assign(this, { of: state, fixed, values });
    this.axes = axes.map((axis) => followed(axis, before.get(axis.name)));
    this.along = this.along.map((name, at) => (axes.some((axis) => axis.name === name) ? name : (axes[at]?.name ?? "")));
  },

  // What makes a rule for a range another one.
  keyOf(axis) {
    return [axis.name, axis.low, axis.high, axis.step, axis.said, axis.unit].join();
  },

  isKind(kind) {
    return this.kind === kind;
  },

  setKind(kind) {
    this.kind = kind;
  },

  setNumber(event) {
    this.number = Math.round(Number(event.target.value));
  },

  setRollNumber(event) {
    this.rollNumber = Math.round(Number(event.target.value));
  },

  setAlong(place, event) {
    this.along = this.along.map((one, at) => (at === place ? event.target.value : one));
  },

  setCount(place, event) {
    this.counts = this.counts.map((one, at) => (at === place ? Math.round(Number(event.target.value)) : one));
  },

  async takeRows(event) {
    const [file] = event.target.files;
    if (!file) return;
    this.rows = await file.text();
    this.rowsName = file.name;
  },

  setParts(event) {
    this.parts = event.target.checked;
  },

  rollAgain() {
    this.rollNumber = 1 + Math.floor(Math.random() * 9998);
    return this.trying.run();
  },

  isFigure(axis) {
    return !axis.choices.length;
  },

  choicesSaid(axis) {
    return axis.choices.map((one) => one.said).join(", ");
  },

  toggleHeld(axis) {
    axis.held = !axis.held;
    keep("held", this.axes.filter((one) => one.held).map((one) => one.name));
  },

  heldSaid(axis) {
    return axis.held ? "held" : "hold";
  },

  mountRange(host, axis) {
    if (axis.choices.length) return;
    const rule = new RangeRule(host, axis, (range) => (axis.range = range));
    host.rule = rule;
  },

  isShown(value) {
    return this.valuesShown.includes(value.name);
  },

  toggleShown(value) {
    this.valuesShown = this.isShown(value) ? this.valuesShown.filter((name) => name !== value.name) : [...this.valuesShown, value.name];
    keep("shown", this.valuesShown);
    this.looking.showCards();
  },

  // The plan as the server takes it.
  get plan() {
    const ranges = {};
    for (const axis of this.axes) {
      if (axis.choices.length || axis.held) continue;
      const [low, high] = axis.range;
      if (low > axis.low || high < axis.high) ranges[axis.name] = [low, high];
    }
    const named = { series: 1, field: 2 }[this.kind] ?? 0;
    return {
      kind: this.kind,
      number: this.number,
      roll: this.rollNumber,
      hold: this.axes.filter((axis) => axis.held).map((axis) => axis.name),
      ranges,
      inputs: this.along.slice(0, named),
      counts: this.counts.slice(0, named),
      rows: this.kind === "rows" ? this.rows : "",
    };
  },

  // Takes a plan that was kept. What it names and the study has no more is passed over.
  takePlan(plan, around) {
    this.around = around ?? {};
    this.kind = plan.kind;
    this.number = plan.number ?? this.number;
    this.rollNumber = plan.roll ?? 1;
    this.rows = plan.rows ?? "";
    this.rowsName = this.rows ? "kept rows" : "";
    for (const [at, name] of (plan.inputs ?? []).entries()) this.along[at] = name;
    for (const [at, count] of (plan.counts ?? []).entries()) this.counts[at] = count;
    for (const axis of this.axes) {
      axis.held = (plan.hold ?? []).includes(axis.name);
      axis.range = plan.ranges?.[axis.name] ?? [axis.low, axis.high];
    }
    for (const host of document.querySelectorAll("[data-range]")) /** @type {any} */ (host).rule?.show(this.axes.find((axis) => axis.name === /** @type {HTMLElement} */ (host).dataset.range));
  },
});

// An input as it is now, held and narrowed as it was before, as far as its limits let it.
function followed(axis, before) {
  const whole = [axis.low, axis.high];
  if (!before || axis.choices.length || before.choices.length) return { ...axis, held: before?.held ?? false, range: whole };
  const range = whole.map((limit, at) => (before.range[at] === [before.low, before.high][at] ? limit : Math.min(Math.max(before.range[at], axis.low), axis.high)));
  return { ...axis, held: before.held, range };
}
