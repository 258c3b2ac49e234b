// The words of the language, looked up: by name at once, and by need as the server finds them.
import { getJson } from "../server.js";
import { box } from "../elements.js";
import { wordIn } from "../known-words.js";
import { lineOf } from "./inserting.js";
import { watched } from "./settled.js";

const MOST = 60; // entries shown at once
const PAUSE = 200; // milliseconds without a key
let asking;

export const words = () => ({
  lookingUp: false,
  wordQuery: "",
  wordChosen: "", // the key of the entry that is explained
  wordsByNeed: [], // keys of what serves what was asked for, the best first

  // A word that is said of a line, in a problem or its hint, is looked up by a click.
  begin() {
    document.addEventListener("click", ({ target }) => {
      const name = target instanceof Element && target.matches(".open-said code.known, #drawer code.known") ? wordIn(target.textContent) : "";
      if (name) this.lookUp(name);
    });
  },

  toggleWords() {
    if (this.lookingUp) this.closeWords();
    else this.lookUp("");
  },

  closeWords() {
    this.lookingUp = false;
  },

  // Opens at a word where there is one of that name.
  lookUp(name) {
    this.lookingUp = true;
    this.showingHistory = false;
    this.wordQuery = name;
    this.wordChosen = this.entries.find((one) => one.name === name)?.key ?? "";
    this.$nextTick(() => box("#words input")?.select());
  },

  typeQuery(event) {
    this.wordQuery = event.target.value;
    this.wordsByNeed = [];
    this.chooseFirst();
    clearTimeout(asking);
    if (this.wordQuery.trim().length > 2) asking = setTimeout(() => this.findByNeed(this.wordQuery), PAUSE);
  },

  chooseFirst() {
    const [first] = this.wordsFound;
    this.wordChosen = this.wordQuery && first ? first.key : "";
  },

  // Without a server what is found by name stays.
  async findByNeed(asked) {
    const { found } = await watched(() => getJson(`/reference/find?${new URLSearchParams({ find: asked })}`)).catch(() => ({ found: [] }));
    if (asked !== this.wordQuery || !found.length) return;
    this.wordsByNeed = found;
    this.chooseFirst();
  },

  referenceOf(entry) {
    return `/reference/${entry.sort}/${encodeURIComponent(entry.name)}`;
  },

  chooseWord(entry) {
    this.wordChosen = this.wordChosen === entry.key ? "" : entry.key;
  },

  isWordChosen(entry) {
    return this.wordChosen === entry.key;
  },

  get entries() {
    return this.vocabulary ? entriesOf(this.vocabulary) : [];
  },

  // The best first: names that begin so, then names and other names, then what is said of them.
  get wordsFound() {
    const asked = this.wordQuery.trim().toLowerCase();
    if (!asked) return this.entries.slice(0, MOST);
    if (this.wordsByNeed.length) return this.wordsByNeed.map((key) => this.entries.find((one) => one.key === key)).filter(Boolean);
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

  insertWord(entry) {
    this.closeWords();
    this.beginInsert(this.openRow ?? undefined);
    this.chooseOffer({ title: entry.name, meaning: entry.meaning, construct: lineOf(entry.word, this.namesNow()) });
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
