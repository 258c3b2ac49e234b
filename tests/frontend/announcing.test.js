// What is announced of a picture after the one before it.
import assert from "node:assert/strict";
import { test } from "node:test";

import { newsOf } from "../../frontend/workspace/news.js";

const at = (failing = [], problems = 0, values = {}) => ({ failing, problems, values: new Map(Object.entries(values)) });

test("nothing is said where nothing changed", () => {
  assert.equal(newsOf(at(["too steep"], 1, { rise: "3 m" }), at(["too steep"], 1, { rise: "3 m" })), "");
});

test("a check that begins to fail is said, and one that holds again", () => {
  assert.equal(newsOf(at(), at(["too steep"])), "Fails: too steep");
  assert.equal(newsOf(at(["too steep"]), at()), "1 check holds again");
});

test("problems and new values are said, of many values a few", () => {
  assert.equal(newsOf(at([], 0), at([], 2)), "2 problems");
  assert.equal(newsOf(at([], 1), at([], 0)), "no problems any more");
  assert.equal(newsOf(at([], 0, { a: "1" }), at([], 0, { a: "2", b: "3 mm" })), "a 2. b 3 mm");
  assert.equal(newsOf(at(), at([], 0, { a: "1", b: "1", c: "1", d: "1", e: "1" })), "a 1. b 1. c 1. and 2 more values");
});
