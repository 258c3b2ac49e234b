// Completion: names of the sheet with their present values, words with their meaning and a small
// picture, units after a figure, statements at the margin.
import { autocompletion, snippetCompletion } from "@codemirror/autocomplete";

import { pictureOf } from "./picture.js";

/** @type {Partial<import("../answers").VocabularySaid>} */
const NOTHING = { words: [], units: {}, colours: {}, statements: {} }; // until the vocabulary has come

export function completions(sheet) {
  return autocompletion({ override: [(context) => offered(context, sheet)], icons: false, maxRenderedOptions: 60, selectOnOpen: false, interactionDelay: 0, defaultKeymap: false });
}

function offered(context, sheet) {
  const vocabulary = sheet.vocabulary() ?? NOTHING;
  const unit = context.matchBefore(/\d ?[a-zA-Zµ°]+/);
  if (unit && !/[\p{L}_]\d*$/u.test(context.state.sliceDoc(Math.max(unit.from - 1, 0), unit.from + 1))) return units(unit, vocabulary);
  const word = context.matchBefore(/[\p{L}_][\p{L}\p{N}_]*/u);
  if (!word && !context.explicit) return null;
  const from = word ? word.from : context.pos;
  const line = context.state.doc.lineAt(context.pos);
  const before = line.text.slice(0, from - line.from);
  if (inComment(before)) return null;
  const valid = /^[\p{L}\p{N}_]*$/u;
  if (/\bcolour\s+$/.test(before)) return { from, validFor: valid, options: Object.keys(vocabulary.colours).map((label) => ({ label, detail: vocabulary.colours[label] })) };
  if (/\.$/.test(before)) return { from, validFor: valid, options: [...yields(before, sheet), ...methods(vocabulary)] };
  if (!before.trim() && line.from + before.length === from && !/^\s/.test(line.text)) return { from, validFor: valid, options: statements(vocabulary) };
  return { from, validFor: valid, options: [...local(context, line), ...names(sheet), ...vocabulary.words.map((one) => wordOption(one))] };
}

function inComment(before) {
  return /^(?:[^"#]|"(?:\\.|[^"\\])*")*#/.test(before.replace(/colour\s+#/, "colour "));
}

function units(found, vocabulary) {
  const from = found.from + found.text.search(/[a-zA-Zµ°]/);
  return {
    from,
    validFor: /^[a-zA-Zµ°]*$/,
    options: Object.entries(vocabulary.units).map(([label, detail]) => ({ label, detail, type: "unit" })),
  };
}

function statements(vocabulary) {
  return Object.entries(vocabulary.statements).map(([label, detail]) => ({ label, apply: `${label} `, detail }));
}

function names(sheet) {
  return [...sheet.names()].map(([label, { type, value, parameters, label: said }]) => ({
    label,
    type,
    detail: parameters === undefined ? value : `(${parameters})`,
    info: said || undefined,
    apply: parameters === undefined ? label : undefined,
    boost: 2,
  }));
}

// Names that the statement itself defines: parameters, loop variables, local lines.
function local(context, line) {
  const text = context.state.doc.toString();
  const near = context.state.doc.lines > 40 ? line.text : text;
  const found = new Set();
  for (const match of near.matchAll(/\bfor\s+([\p{L}_][\p{L}\p{N}_]*)|([\p{L}_][\p{L}\p{N}_]*)\s*->/gu)) found.add(match[1] ?? match[2]);
  for (const match of near.matchAll(/^\s*[\p{L}_][\p{L}\p{N}_]*\(([^()]*)\)\s*[:=]/gmu)) for (const one of match[1].split(",")) found.add(one.split("=")[0].trim());
  for (const match of near.matchAll(/^\s+([\p{L}_][\p{L}\p{N}_]*)\s*=(?!=)/gmu)) found.add(match[1]);
  found.delete("");
  return [...found].map((label) => ({ label, detail: "here", boost: 3 }));
}

// What a study yields, behind a use of it.
function yields(before, sheet) {
  const used = before.match(/([\p{L}_][\p{L}\p{N}_]*)\([^()]*\)\.$/u)?.[1];
  return (sheet.names().get(used)?.yields ?? []).map((label) => ({ label, detail: "of the study", boost: 2 }));
}

function methods(vocabulary) {
  const axes = ["x", "y", "z"].map((label) => ({ label, detail: "coordinate" }));
  return [...axes, ...vocabulary.words.filter((word) => word.parameters.length).map((word) => wordOption(word, 1))];
}

// A word with blanks for the arguments it needs; `given` of them stand before the dot.
/** @param {import("../answers").WordSaid} word */
function wordOption(word, given = 0) {
  const needed = word.parameters.slice(given).filter((one) => !one.optional);
  const option = { label: word.name, type: "word", detail: word.usage.slice(word.name.length), info: () => explained(word) };
  if (word.constant) return option;
  return snippetCompletion(`${word.name}(${needed.map((one) => `\${${one.name}}`).join(", ")})`, option);
}

// What a word means, as a small card: its usage with the argument that is being typed, what that is,
// and what the word does.
/** @param {Pick<import("../answers").WordSaid, "name" | "constant" | "parameters" | "meaning" | "picture">} word */
export function explained(word, current = -1) {
  const card = document.createElement("div");
  card.className = "word-card";
  const picture = pictureOf(word.picture);
  if (picture) card.append(picture);
  const usage = document.createElement("p");
  usage.className = "mono";
  usage.append(`${word.name}`);
  if (!word.constant) {
    usage.append("(");
    word.parameters.forEach((one, at) => {
      const said = document.createElement(at === current ? "b" : "span");
      said.textContent = `${one.name}${one.many ? "…" : ""}${one.default ? ` = ${one.default}` : one.optional && !one.many ? "?" : ""}`;
      usage.append(at ? ", " : "", said);
    });
    usage.append(")");
  }
  const meaning = document.createElement("p");
  const argument = word.parameters[current];
  meaning.textContent = argument ? `${argument.name}: ${argument.meaning}; ${argument.kind}` : word.meaning;
  card.append(usage, meaning);
  return card;
}
