// The words of the language that can be looked up where they are said: filled when the vocabulary is there.
export const known = new Set();

// The word with which a piece of code begins, if it is one of the language: `move(what, x = 5 mm)` is about move.
export function wordIn(code) {
  const [name] = code.match(/^[\p{L}_][\p{L}\p{N}_]*/u) ?? [""];
  return known.has(name) ? name : "";
}
