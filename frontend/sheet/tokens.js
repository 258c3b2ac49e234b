// What a line is made of, for its colours: a plain scan, for the meaning is settled on the server.

const TOKEN = /(\d+(?:\.\d+)?'(?:[ \t]?-?[ \t]?[\d ./]+")?)|("(?:\\.|[^"\\\n])*"?)|(colour\s+#[0-9A-Fa-f]{3,6})|(#.*)|((?:\d+(?:\.\d+)?|\.\d+)(?:[eE][-+]?\d+)?)([ \t]?(?:[°%‰]|[µa-zA-Z]+(?:\^-?\d|²|³)?(?:[*·/][a-zA-Z]+(?:\^-?\d|²|³)?)*))?|([\p{L}_][\p{L}\p{N}_]*)/gu;
// Each piece of a text with its place and what it is: text, comment, number, unit, key, or name.
export function* tokensOf(text, isUnit, keys) {
  for (const found of text.matchAll(TOKEN)) {
    const from = found.index;
    const to = from + found[0].length;
    const [whole, feet, quoted, colour, comment, number, unit, name] = found;
    if (feet) yield { kind: "number", from, to };
    else if (quoted) yield { kind: "text", from, to };
    else if (colour) yield { kind: "key", from, to };
    else if (comment) yield { kind: "comment", from, to };
    else if (number) {
      const known = unit && isUnit(unit.trim());
      yield { kind: "number", from, to: from + number.length };
      if (known) yield { kind: "unit", from: from + number.length, to };
      else if (unit) yield* shifted(tokensOf(unit, isUnit, keys), from + number.length);
    } else if (name) {
      const first = !text.slice(text.lastIndexOf("\n", from - 1) + 1, from).trim();
      const key = keys.reserved.has(name) || (first && keys.statements.has(name) && !/^\s*=/.test(text.slice(to))) || (keys.clauses[statementAt(text, from)]?.includes(name) && !/^\s*[=(]/.test(text.slice(to)) && !first);
      yield { kind: key ? "key" : "name", from, to, name: whole };
    }
  }
}

// What the line of a place begins with.
function statementAt(text, at) {
  return text.slice(text.lastIndexOf("\n", at - 1) + 1).match(/^[a-z]*/)[0];
}

function* shifted(tokens, by) {
  for (const token of tokens) yield { ...token, from: token.from + by, to: token.to + by };
}

// Whether all of a compound unit, such as kg/m^3, is made of known symbols.
export function unitTest(units) {
  return (written) => written.split(/[*·/]/).every((one) => one.replace(/\^-?\d|²|³/, "") in units);
}

// The words of the grammar, as the server has them.
/** @param {import("../answers").VocabularySaid | null} vocabulary */
export function keysOf(vocabulary) {
  return { reserved: new Set(vocabulary?.reserved), statements: new Set(Object.keys(vocabulary?.statements ?? {})), clauses: vocabulary?.clauses ?? {} };
}

// The innermost call around a place in a text: its name, and how many arguments stand before.
export function callAround(text, at) {
  let depth = 0;
  let commas = 0;
  let named = null;
  let quote = false;
  const before = text.slice(0, at);
  for (let i = before.length - 1; i >= 0; i -= 1) {
    const sign = before[i];
    if (sign === '"') quote = !quote;
    if (quote) continue;
    if (sign === ")" || sign === "]") depth += 1;
    else if (sign === "(" || sign === "[") {
      if (depth) {
        depth -= 1;
        continue;
      }
      if (sign === "[") {
        commas = 0;
        continue;
      }
      const name = before.slice(0, i).match(/(\.?)([\p{L}_][\p{L}\p{N}_]*)\s*$/u);
      if (!name) {
        commas = 0;
        continue;
      }
      named ??= before.slice(i + 1).match(/(?:^|,)\s*([\p{L}_][\p{L}\p{N}_]*)\s*=[^,=]*$/u)?.[1] ?? null;
      return { name: name[2], argument: commas + (name[1] ? 1 : 0), named, at: i };
    } else if (sign === "," && !depth) commas += 1;
  }
  return null;
}
