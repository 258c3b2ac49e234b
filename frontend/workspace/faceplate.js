// The faceplate: the inputs as slide rules and choices, by the sections they stand in; presets.
import Alpine from "../alpine.js";
import { SlideRule } from "../faceplate/slide-rule.js";
import { may } from "../may.js";
import { Newest } from "../newest.js";
import { edit } from "./edit.js";

const HOVER_PAUSE = 250; // milliseconds over a slide rule before it shows what it moves

export const turning = {}; // values of inputs that are being turned, by name

export const rules = new Map(); // by the name of the input: a slide rule for each of its figures
const AXES = ["x", "y", "z"];

let hovering = null;
const moves = new Newest();

export const faceplate = () => ({
  needs: ["saving", "asking", "showing", "drawer"],

  presetTitle: null,
  moved: {}, // what the input under the pointer moves: by line, the value after a small step
  opened: {}, // the values of inputs as they were when the study was opened

  get shownInputs() {
    return this.showing.inputs.filter((input) => !input.internal);
  },

  // The inputs by the sections they stand in.
  get groups() {
    const groups = [];
    for (const input of this.shownInputs) {
      if (groups.at(-1)?.title !== input.section) groups.push({ key: `${groups.length}${input.section}`, title: input.section, inputs: [] });
      groups.at(-1).inputs.push(input);
    }
    return groups;
  },

  keyOf(input) {
    return [input.name, input.kind, this.formOf(input), figuresOf(input).length].join(":");
  },

  formOf(input) {
    if (input.value === null && input.problem) return "broken";
    if (input.choices.length || input.kind === "yes/no") return "choice";
    return input.size === undefined ? "plain" : "rule";
  },

  isForm(input, form) {
    return this.formOf(input) === form;
  },

  options(input) {
    if (input.kind === "yes/no") return [{ key: "yes", value: true }, { key: "no", value: false }];
    return input.choices.map((value, at) => ({ key: input.choices_shown?.[at] ?? String(value), value }));
  },

  isChosen(input, option) {
    return input.value === option.value;
  },

  choose(input, option) {
    this.saving.change("edit", edit({ edit: "set", name: input.name, value: option.value }));
  },

  // Arrow keys go from choice to choice, as in any group of which one is chosen.
  chooseByKey(event, input) {
    const way = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    const options = this.options(input);
    const at = options.findIndex((option) => this.isChosen(input, option));
    const next = (at + way + options.length) % options.length;
    this.choose(input, options[next]);
    event.currentTarget.children[next].focus();
  },

  mountRules(host, input) {
    const name = input.name;
    for (const rule of rules.get(name) ?? []) rule.dispose();
    const figures = figuresOf(input);
    if (figures.length > 1) host.classList.add("rules");
    rules.set(
      name,
      figures.map((figure, at) => {
        const cell = host.appendChild(document.createElement("div"));
        return new SlideRule(cell, figure, this.turnsOf(name, at, figures.length > 1));
      }),
    );
    this.opened[name] ??= input.value;
  },

  turnsOf(name, at, isOne) {
    const input = () => this.showing.inputs.find((one) => one.name === name);
    const whole = (value) => (isOne ? (turning[name] ?? input().value).map((old, index) => (index === at ? value : old)) : value);
    const figure = isOne ? { at } : {};
    return {
      turned: (value) => this.turn(name, whole(value)),
      settled: (value) => this.settle(name, whole(value)),
      unturned: (value) => this.unturn(name, whole(value)),
      typed: async (text) => {
        if (!(await this.saving.change("edit", edit({ edit: "set", name, typed: text, ...figure })))) this.showInputs([input()]);
      },
      restore: () => this.restore(name),
      limited: async (role, typed) => {
        const other = { low: "high", high: "low" }[role];
        const scale = rules.get(name)[at].scale;
        const missing = other && input()[other] === null ? { other: String((role === "low" ? scale.to : scale.from) / input().size) } : {};
        await this.saving.change("edit", edit({ edit: "limit", name, role, typed, ...missing }));
      },
    };
  },

  turn(name, value) {
    this.endMoves();
    window.ovolo.stage.moved();
    turning[name] = value;
    this.saving.sayTurned();
    this.showing.follow();
  },

  settle(name, value) {
    this.showing.letGo();
    return this.saving.change("edit", edit({ edit: "set", name, value }));
  },

  // A turn came back to where it began: what an earlier one is still being set to is shown, else what is saved.
  unturn(name, value) {
    if (String(turning[name]) !== String(value)) return undefined; // nothing was turned
    this.showing.letGo();
    if (!may("edit")) return this.settle(name, value);
    turning[name] = this.saving.valueOnItsWay(name);
    if (turning[name] === undefined) delete turning[name];
    return this.showing.refresh();
  },

  // Back to the value the study was opened with, or that of the moment that was named last.
  restore(name) {
    const value = this.opened[name];
    delete turning[name];
    if (value !== undefined) this.settle(name, value);
  },

  rememberOpened() {
    this.opened = Object.fromEntries(this.showing.inputs.map((input) => [input.name, input.value]));
  },

  // Once a value is in the text it is no longer being turned, unless it was turned on meanwhile.
  forgetTurning({ name, value }) {
    if (String(turning[name]) === String(value)) delete turning[name];
  },

  showInputs(inputs) {
    for (const input of inputs) {
      const figures = figuresOf(input);
      rules.get(input.name)?.forEach((rule, at) => figures[at] && rule.show(figures[at]));
    }
  },

  jumpToInput(input) {
    this.drawer.jump(input.line);
  },

  // --- what an input moves ---

  beginMoves(input) {
    clearTimeout(hovering);
    hovering = setTimeout(() => this.showMoves(input), HOVER_PAUSE);
  },

  // The keyboard's way to the same.
  focusMoves(event, input) {
    if (event.target.matches(":focus-visible")) this.beginMoves(input);
  },

  async showMoves(input) {
    /** @type {import("../answers").MovesSaid | null | undefined} */
    const found = await moves.of(() => this.asking.answerTo("moves", { name: input.name, set: { ...turning } }));
    if (!found) return;
    this.moved = Object.fromEntries(found.moves.map((move) => [move.line, move.after || "changes"]));
    window.ovolo.stage.mark(this.showing.parts.filter((part) => this.moved[part.line]).map((part) => part.name));
  },

  endMoves() {
    clearTimeout(hovering);
    moves.drop();
    if (!Object.keys(this.moved).length) return;
    this.moved = {};
    window.ovolo.stage.mark([]);
  },

  // --- presets ---

  applyPreset(preset) {
    this.saving.change("edit", edit({ edit: "apply_preset", title: preset.title }));
  },

  get isSaving() {
    return this.presetTitle !== null;
  },

  beginSaving() {
    this.presetTitle = this.showing.presets.find((preset) => preset.same)?.title ?? "";
    Alpine.nextTick(() => document.getElementById("preset-title")?.focus());
  },

  typeTitle(event) {
    this.presetTitle = event.target.value;
  },

  async savePreset() {
    if (await this.saving.change("edit", edit({ edit: "save_preset", title: this.presetTitle }))) this.presetTitle = null;
  },

  stopSaving() {
    this.presetTitle = null;
  },

  get presetSummary() {
    if (!this.showing.presets.length) return "";
    return this.showing.presets.some((preset) => preset.same) ? "" : "none matches";
  },
});

// What a figure of a list, of a point, or of a list of points is called; the first with the name of all.
function labelOf(input, at) {
  const axis = input.width ? `${Math.floor(at / input.width) + 1} ${AXES[at % input.width]}` : "";
  const own = input.kind === "point" ? AXES[at] : axis || String(at + 1);
  return at ? own : `${input.label} ${own}`;
}

// Each figure of an input as an input of its own: of a list its items, of a point its coordinates.
function figuresOf(input) {
  if (input.size === undefined) return [];
  if (!Array.isArray(input.value)) return [{ ...input, key: input.name }];
  return input.value.map((value, at) => ({
    ...input,
    value,
    number: input.numbers[at],
    key: `${input.name}-${at}`,
    label: labelOf(input, at),
  }));
}
