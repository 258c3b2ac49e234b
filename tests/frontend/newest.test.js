// Answers that overtake each other; work that is carried out in its order.
import assert from "node:assert/strict";
import { test } from "node:test";

import { InTurn, Newest } from "../../frontend/newest.js";

const later = () => {
  let end;
  const promise = new Promise((resolve, reject) => (end = { resolve, reject }));
  return { promise, ...end };
};

test("only what was asked last is answered, whichever answer comes first", async () => {
  const newest = new Newest();
  const [first, then] = [later(), later()];
  const shown = [newest.of(() => first.promise), newest.of(() => then.promise)];
  then.resolve("then");
  first.resolve("first");
  assert.deepEqual(await Promise.all(shown), [undefined, "then"]);
  assert.equal(await newest.of(async () => null), null, "nothing is an answer, too");
});

test("of what was overtaken or dropped no failure is told", async () => {
  const newest = new Newest();
  const [first, then] = [later(), later()];
  const shown = [newest.of(() => first.promise), newest.of(() => then.promise)];
  first.reject(new Error("first"));
  assert.equal(await shown[0], undefined);
  newest.drop();
  then.reject(new Error("then"));
  assert.equal(await shown[1], undefined);
  await assert.rejects(newest.of(() => Promise.reject(new Error("last"))), /last/);
});

test("one after another, also behind one that fails", async () => {
  const turns = new InTurn();
  const done = [];
  const first = later();
  const all = [turns.run(() => first.promise.then(() => done.push(1))), turns.run(async () => assert.fail("second")), turns.run(async () => done.push(3))];
  assert.deepEqual(done, []);
  first.resolve();
  await assert.rejects(all[1], /second/);
  await all[2];
  assert.deepEqual(done, [1, 3]);
});
