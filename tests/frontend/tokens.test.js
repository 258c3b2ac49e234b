// What a line is made of for its colours, and the call around a place.
import assert from "node:assert/strict";
import { test } from "node:test";

import { callAround, keysOf, tokensOf, unitTest } from "../../frontend/sheet/tokens.js";

const keys = keysOf({ reserved: ["if", "then", "else"], statements: { input: "", part: "" }, clauses: { input: ["from", "to", "step"] } });
const isUnit = unitTest({ mm: "", kg: "", m: "", "°": "" });
const kinds = (text) => [...tokensOf(text, isUnit, keys)].map(({ kind, from, to }) => `${kind} ${text.slice(from, to).trim()}`);

test("words of a statement are keys only where they are its words", () => {
  assert.deepEqual(kinds("input from = 3 mm from 1 mm to 5 mm"), [
    "key input", "name from", "number 3", "unit mm", "key from", "number 1", "unit mm", "key to", "number 5", "unit mm",
  ]);
  assert.deepEqual(kinds("part = to + step"), ["name part", "name to", "name step"]);
});

test("units, texts, comments and feet", () => {
  assert.deepEqual(kinds('d = 700 kg/m^3 # "oak"'), ["name d", "number 700", "unit kg/m^3", 'comment # "oak"']);
  assert.deepEqual(kinds('"a # b" 24\' 6"'), ['text "a # b"', "number 24' 6\""]);
  assert.deepEqual(kinds("3 zz"), ["number 3", "name zz"], "what is no unit is a name");
});

test("scanning takes as long as the text is", () => {
  const long = "a".repeat(100_000) + " " + "(".repeat(100_000);
  assert.equal(kinds(long).length, 1);
});

test("the innermost call and the argument at a place", () => {
  const at = (text) => callAround(text, text.length);
  assert.deepEqual(at("box(1 m, "), { name: "box", argument: 1, named: null, at: 3 });
  assert.equal(at("tread.move(").argument, 1, "what stands before the dot is the first");
  assert.equal(at("box(1 m, depth = 2").named, "depth");
  assert.equal(at("box(rect(1, 2), (3").name, "box");
  assert.equal(at("a + 3"), null);
});
