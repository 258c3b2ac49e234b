// Rows of the sheet from a scene, as ovolo/outcome/scene.py sends it.
import assert from "node:assert/strict";
import { test } from "node:test";

import { drafted, freeName, lineFollower, rowsOf } from "../../frontend/sheet/rows.js";
import { following, tiesOf } from "../../frontend/sheet/threads.js";

const line = (at, text, more = {}) => ({ line: at, text, type: "formula", lead: "", name: null, body: text, comment: "", title: "", ...more });
const outcome = (more = {}) => ({ kind: "length", number: "", unit: "", said: "", label: "", needs: [], problems: [], notes: [], study: null, ...more });
const scene = {
  lines: [
    line(1, "== Levels ==", { type: "section", title: "Levels" }),
    line(2, "input height = 3 m", { type: "input", name: "height", body: "= 3 m" }),
    line(3, "rise(n) = height / n", { name: "rise", body: "(n) = height / n" }),
    line(4, "check rise(18) < 200 mm", { type: "check", lead: "check", body: "rise(18) < 200 mm" }),
    line(5, 'note "{height} high"', { type: "note", lead: "note", body: '"{height} high"' }),
    line(6, "broken = ", { type: "unreadable", name: "broken", body: "broken =" }),
    line(7, "", { type: "blank" }),
  ],
  outcomes: {
    2: outcome({ number: "3", unit: "m" }),
    3: outcome({ kind: "function", needs: ["height"] }),
    4: outcome({ kind: "yes/no", needs: ["rise"] }),
    5: outcome({ kind: "text", said: "3 m high", needs: ["height"] }),
  },
  checks: [{ line: 4, passed: true, measured: "166.7 mm < 200 mm", message: "" }],
  problems: [{ line: 6, message: "the line ends too early", hint: "", waiting: false }],
  parts: [],
};

test("every line has a row but an empty one at the end", () => {
  assert.deepEqual(rowsOf(scene).map((row) => row.line), [1, 2, 3, 4, 5, 6]);
  assert.deepEqual(new Set(rowsOf(scene).map((row) => row.section)), new Set(["Levels"]));
});

test("names, leading words, parameters and sentences stand where they are read", () => {
  const said = rowsOf(scene).map((row) => [row.name, row.body]);
  assert.deepEqual(said[1], ["height", "= 3 m"]);
  assert.deepEqual(said[2], ["rise(n)", " = height / n"]);
  assert.deepEqual(said[3], ["check", "rise(18) < 200 mm"]);
  assert.deepEqual(said[4], ["note", "3 m high"]);
});

test("checks and problems are at their rows", () => {
  const rows = rowsOf(scene);
  assert.deepEqual([rows[3].check, rows[3].measured], ["holds", "166.7 mm < 200 mm"]);
  assert.deepEqual([rows[5].failing, rows[5].mark, rows[5].problem], [true, "✕", "the line ends too early"]);
});

test("a problem is at the row of its line, in whichever row of the text it is", () => {
  const { lines } = scene;
  const high = { ...scene, lines: [lines[0], line(2, "wide = 3 m\n  + 1 kg"), { ...lines[1], line: 4 }], outcomes: {}, checks: [] };
  const told = (at, message) => ({ line: at, message, hint: "", waiting: false });
  const rows = rowsOf({ ...high, problems: [told(3, "no sum"), told(3, "and more"), told(5, "beyond")] });
  assert.deepEqual(rows.map((row) => [row.problem, row.more]), [["", -1], ["no sum", 1], ["", -1]]);
});

test("a line that is being typed leaves all others where they stand", () => {
  const draft = { line: 3, height: 2, old: 1, saved: "rise(n) = height / n", own: "rise" };
  const typing = structuredClone(scene);
  typing.lines.splice(3, 0, line(4, "  + 1 mm"));
  for (const one of typing.lines.slice(4)) one.line += 1;
  const { rows, typed } = drafted(typing, draft);
  assert.deepEqual(rows.map((row) => row.line), [1, 2, 3, 4, 5, 6]);
  assert.equal(rows[2].text, draft.saved);
  assert.equal(typed.line, 4);
});

test("the last line stays while it is typed empty", () => {
  const typing = structuredClone(scene);
  const last = typing.lines.length + 1;
  typing.lines.push({ ...line(last, ""), type: "blank" });
  const draft = { line: last, height: 1, old: 1, saved: "w = 3 mm", own: "w" };
  assert.equal(drafted(typing, draft).rows.at(-1).text, "w = 3 mm");
  assert.ok(rowsOf(typing).every((row) => row.line !== last));
});

test("threads go to what a line needs and to what needs it", () => {
  const rows = rowsOf(scene);
  assert.deepEqual(tiesOf(rows[2], rows), { uses: [2], usedBy: [4] });
  assert.deepEqual(following(rows[1], rows).map((row) => row.line), [2, 3, 5, 4]);
});

test("a free name is a name that no line has", () => {
  assert.equal(freeName("bolt plate", rowsOf(scene)), "bolt_plate");
  assert.equal(freeName("height", rowsOf(scene)), "height_2");
  assert.equal(freeName("3 holes", rowsOf(scene)), "_3_holes");
});

test("a line is found among those of a sheet that was changed", () => {
  const sheet = (text) => text.split("|").map((one, at) => ({ line: at + 1, text: one, own: one.match(/^(\w+) =/)?.[1] ?? "" }));
  const before = sheet("a = 1|b = 2|c = 3|# x|# x");
  const cases = [
    ["a = 1|b = 2|c = 3|# x|# x", [1, 2, 3, 4, 5]],
    ["n = 0|m = 0|a = 1|b = 2|c = 3|# x|# x", [3, 4, 5, 6, 7]], // lines came above
    ["b = 2|c = 3|# x|# x", [null, 1, 2, 3, 4]], // one went
    ["c = 3|a = 1|b = 2|# x|# x", [2, 3, 1, 4, 5]], // one was moved
    ["a = 1|n = 0|b = 7|c = 3|# x|# x", [1, 3, 4, 5, 6]], // one came and the next was changed: known by its name
    ["a = 1|d = 2|c = 3|# x|# x", [1, 2, 3, 4, 5]], // one was renamed where it stands
    ["", [null, null, null, null, null]],
  ];
  for (const [after, wanted] of cases) {
    const lineAfter = lineFollower(before, sheet(after));
    assert.deepEqual([1, 2, 3, 4, 5].map(lineAfter), wanted, after);
  }
});
