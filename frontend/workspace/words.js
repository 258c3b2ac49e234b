// The words of the language, looked up: by name at once, and by need as the server finds them.
import Alpine from "../alpine.js";
import { getJson } from "../server.js";
import { box } from "../elements.js";
import { wordIn } from "../known-words.js";
import { lineOf } from "./inserting.js";
import { watched } from "./settled.js";

const MOST = 60; // entries shown at once
const PAUSE = 200; // milliseconds without a key
let asking;

export const words = () => ({
  needs: ["writing", "text", "inserting", "history"],

  open: false,
  query: "",
  chosen: "", // the key of the entry that is explained
  byNeed: [], // keys of what serves what was asked for, the best first

  // A word that is said of a line, in a problem or its hint, is looked up by a click.
  begin() {
    document.addEventListener("click", ({ target }) => {
      const name = target instanceof Element && target.matches(".open-said code.known, #drawer code.known") ? wordIn(target.textContent) : "";
      if (name) this.lookUp(name);
    });
  },

  toggle() {
    if (this.open) this.close();
    else this.lookUp("");
  },

  close() {
    this.open = false;
  },

  // Opens at a word where there is one of that name.
  lookUp(name) {
    this.open = true;
    this.history.open = false;
    this.query = name;
    this.chosen = this.entries.find((one) => one.name === name)?.key ?? "";
    Alpine.nextTick(() => box("#words input")?.select());
  },

  typeQuery(event) {
    this.query = event.target.value;
    this.byNeed = [];
    this.chooseFirst();
    clearTimeout(asking);
    if (this.query.trim().length > 2) asking = setTimeout(() => this.findByNeed(this.query), PAUSE);
  },

  chooseFirst() {
    const [first] = this.found;
    this.chosen = this.query && first ? first.key : "";
  },

  // Without a server what is found by name stays.
  async findByNeed(asked) {
    /** @type {import("../answers").FoundSaid} */
    const { found } = await watched(() => getJson(`/reference/find?${new URLSearchParams({ find: asked })}`)).catch(() => ({ found: [] }));
    if (asked !== this.query || !found.length) return;
    this.byNeed = found;
    this.chooseFirst();
  },

  referenceOf(entry) {
    return `/reference/${entry.sort}/${encodeURIComponent(entry.name)}`;
  },

  choose(entry) {
    this.chosen = this.chosen === entry.key ? "" : entry.key;
  },

  isChosen(entry) {
    return this.chosen === entry.key;
  },

  get entries() {
    return this.text.vocabulary ? entriesOf(this.text.vocabulary) : [];
  },

  // The best first: names that begin so, then names and other names, then what is said of them.
  get found() {
    const asked = this.query.trim().toLowerCase();
    if (!asked) return this.entries.slice(0, MOST);
    if (this.byNeed.length) return this.byNeed.map((key) => this.entries.find((one) => one.key === key)).filter(Boolean);
    return this.entries
      .map((entry) => ({ entry, rank: rankOf(entry, asked) }))
      .filter(({ rank }) => rank < 9)
      .sort((a, b) => a.rank - b.rank)
      .slice(0, MOST)
      .map(({ entry }) => entry);
  },

  argumentSaid(one) {
    const otherwise = one.default ? `, ${one.default} where it is left out` : one.optional ? ", may be left out" : "";
    return `${one.meaning}; ${one.kind}${otherwise}`;
  },

  insert(entry) {
    this.close();
    this.inserting.beginInsert();
    this.inserting.chooseOffer({ title: entry.name, meaning: entry.meaning, construct: lineOf(entry.word, this.writing.namesNow()) });
  },
});

let made = { of: null, entries: [] };

function entriesOf(vocabulary) {
  if (made.of !== vocabulary) made = { of: vocabulary, entries: [...makeEntries(vocabulary)] };
  return made.entries;
}

function* makeEntries({ words: all, operators, statements, units, unit_names }) {
  const entry = (sort, name, rest) => ({ key: `${sort} ${name}`, sort, name, usage: name, meaning: "", example: "", gives: "", others: [], parameters: [], picture: null, word: null, ...rest });
  for (const word of all) yield entry(word.constant ? "value" : "word", word.name, { ...word, word: word.constant ? null : word });
  for (const [name, meaning] of Object.entries(statements)) yield entry("line", name, { meaning });
  for (const one of operators) yield entry("operator", one.written, one);
  for (const [symbol, dimension] of Object.entries(units)) yield entry("unit", symbol, { meaning: `${unit_names[symbol]}, a unit of ${dimension}`, others: [unit_names[symbol], dimension] });
}

function rankOf({ name, others, meaning, parameters }, asked) {
  const own = name.toLowerCase();
  if (own === asked) return 0;
  if (own.startsWith(asked)) return 1;
  if (others.some((one) => one.toLowerCase() === asked)) return 2;
  if (own.includes(asked)) return 3;
  if (others.some((one) => one.toLowerCase().includes(asked))) return 4;
  if (asked.split(/\s+/).every((piece) => meaning.toLowerCase().includes(piece))) return 5;
  if (parameters.some((one) => one.meaning.toLowerCase().includes(asked))) return 6;
  return 9;
}
