// Insert: lines by what a person needs, with their arguments ready to fill.
import Alpine from "../alpine.js";
import { pictureOf } from "../sheet/picture.js";
import { edit } from "./edit.js";
import { box } from "../elements.js";

const WHOLE = "A starting point";

export const inserting = () => ({
  needs: ["saving", "showing", "writing", "text"],

  insertAt: null, // the line below which to insert, while the panel is open
  need: null,
  form: null, // the line that is being filled

  get isInserting() {
    return this.insertAt !== null;
  },

  // Below a row; else below the line that is open, or the last.
  beginInsert(row = null) {
    const at = row ?? this.writing.openRow ?? this.showing.rows.at(-1) ?? { line: 0, height: 1 };
    this.insertAt = at.line + at.height - 1;
    this.form = null;
    this.need ??= "An input";
    this.writing.closeLine();
    Alpine.nextTick(() => box("#insert [aria-pressed=true]")?.focus());
  },

  endInsert() {
    this.insertAt = null;
    this.form = null;
  },

  get allNeeds() {
    return [...(this.text.vocabulary?.needs ?? []), { title: WHOLE, trades: [] }];
  },

  isNeed(need) {
    return this.need === need.title;
  },

  chooseNeed(need) {
    this.need = need.title;
    this.form = null;
  },

  // What is offered for the need: whole lines, and words.
  get offers() {
    if (this.need === WHOLE) return (this.text.vocabulary?.starting ?? []).map((one) => ({ key: one.key, title: one.title, meaning: one.said, photo: `/static/starting/${one.key}.png`, starting: true }));
    const trades = this.allNeeds.find((need) => need.title === this.need)?.trades ?? [];
    const lines = this.text.vocabulary?.constructs.filter((one) => one.need === this.need) ?? [];
    const words = this.text.vocabulary?.words.filter((word) => trades.includes(word.trade) && !word.constant) ?? [];
    return [
      ...lines.map((one) => ({ key: one.title, title: one.title, meaning: "", picture: null, construct: one })),
      ...words.map((word) => ({ key: word.name, title: word.name, meaning: word.meaning, picture: word.picture, construct: lineOf(word, this.writing.namesNow()) })),
    ];
  },

  mountPicture(host, picture) {
    const drawn = pictureOf(picture);
    if (drawn) host.append(drawn);
  },

  // A starting point is dropped in whole; anything else has blanks to fill.
  chooseOffer(offer) {
    if (offer.starting) return this.insertStarting(offer.key);
    this.form = { title: offer.title, meaning: offer.meaning, construct: offer.construct, values: Object.fromEntries(offer.construct.blanks.map((blank) => [blank.name, blank.written])) };
    Alpine.nextTick(() => box("#insert form input")?.select());
  },

  async insertStarting(key) {
    const after = this.insertAt;
    if (!(await this.saving.change("edit", edit({ edit: "insert_starting", after, key })))) return;
    this.endInsert();
    Alpine.nextTick(() => this.writing.focusLine(after + 1));
  },

  leaveOffer() {
    this.form = null;
  },

  fill(blank, event) {
    this.form.values = { ...this.form.values, [blank.name]: event.target.value };
  },

  get filled() {
    return this.form ? filledLine(this.form.construct, this.form.values) : "";
  },

  async insert() {
    const text = this.filled;
    const after = this.insertAt;
    if (!(await this.saving.change("edit", edit({ edit: "insert", after, text })))) return;
    this.endInsert();
    Alpine.nextTick(() => this.writing.focusLine(after + 1));
  },
});

// A word as a line of its own, under a name that is free. What may be left out is given by name.
export function lineOf(word, names) {
  let name = `new_${word.name}`;
  for (let number = 2; names.has(name); number++) name = `new_${word.name}_${number}`;
  const blanks = word.parameters.map((one) => ({ name: one.name, kind: one.kind, meaning: one.meaning, written: one.written, optional: one.optional, default: one.default }));
  let pattern = "";
  for (const one of word.parameters) {
    if (!one.optional) pattern += `${pattern && ", "}{${one.name}}`;
    else if (one.many) pattern += `‹, {${one.name}}›`;
    else pattern += `‹, ${one.name} = {${one.name}}›`;
  }
  const own = { name: "name", kind: "a name", meaning: "a letter, then letters, figures and _", written: name };
  return { pattern: `{name} = ${word.name}(${pattern.replace(/^‹, /, "‹")})`, blanks: [own, ...blanks.map((one) => (one.name === "name" ? { ...one, name: "name_" } : one))] };
}

// The line with its blanks filled; pieces in ‹ › whose blank is empty fall away.
export function filledLine({ pattern, blanks }, values) {
  let line = pattern;
  for (const { name } of blanks) {
    const value = values[name].trim();
    if (!value) line = line.replace(new RegExp(`‹[^‹]*\\{${name}\\}[^›]*›`), "");
    line = line.replaceAll(`{${name}}`, () => value);
  }
  return line.replaceAll("‹", "").replaceAll("›", "").replaceAll("(, ", "(");
}
