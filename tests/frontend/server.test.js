// The newest of what waits is sent next; messages are taken apart as they are put together.
import assert from "node:assert/strict";
import { test } from "node:test";

import { decodeScene, NewestWins, quietly } from "../../frontend/server.js";
import { Steady } from "../../frontend/steady.js";

test("one job at a time, and of those that wait only the newest", async () => {
  const done = [];
  let idle = 0;
  const queue = new NewestWins(() => (idle += 1));
  let free;
  queue.ask(() => new Promise((resolve) => (free = resolve)).then(() => done.push("first")));
  for (const name of ["second", "third", "last"]) queue.ask(async () => done.push(name));
  assert.ok(queue.busy);
  free();
  await new Promise((resolve) => setTimeout(resolve, 5));
  assert.deepEqual(done, ["first", "last"]);
  assert.ok(!queue.busy && idle >= 1);
});

test("a scene's arrays are where its header says", () => {
  const header = { shapes: { box: { positions: [0, 3], normals: [12, 3], triangles: [24, 3], edges: [0, 3] } }, parts: [{ hatch: [0, 0], groups: [{ matrices: [0, 1], items: [24, 1], tints: null }] }] };
  const text = new TextEncoder().encode(JSON.stringify(header).padEnd(Math.ceil(JSON.stringify(header).length / 8) * 8));
  const bytes = new Uint8Array(8 + text.length + 36);
  const view = new DataView(bytes.buffer);
  bytes.set(new TextEncoder().encode("OVO1"));
  view.setUint32(4, text.length, true);
  bytes.set(text, 8);
  [1, 2, 3, 4, 5, 6].forEach((value, at) => view.setFloat32(8 + text.length + 4 * at, value, true));
  [0, 1, 2].forEach((value, at) => view.setUint32(8 + text.length + 24 + 4 * at, value, true));
  const scene = decodeScene(bytes.buffer);
  assert.deepEqual([...scene.shapes.box.normals], [4, 5, 6]);
  assert.deepEqual([...scene.shapes.box.triangles], [0, 1, 2]);
  assert.deepEqual([...scene.parts[0].groups[0].items], [0]);
});

test("lists keep the objects that have not changed", () => {
  const steady = new Steady();
  const key = (one) => one.line;
  const first = steady.take("rows", [{ line: 1, n: 1 }, { line: 2, n: 1 }], key);
  const second = steady.take("rows", [{ line: 1, n: 1 }, { line: 2, n: 2 }], key);
  assert.equal(second[0], first[0]);
  assert.notEqual(second[1], first[1]);
  assert.equal(steady.take("rows", [{ line: 1, n: 1 }, { line: 2, n: 2 }], key), null);
  assert.notEqual(steady.take("rows", [{ line: 2, n: 2 }, { line: 1, n: 1 }], key), null, "another order is a change");
});

test("what nobody waits for is given up here and there, and its answer is no error of the page", async (context) => {
  const asked = [];
  globalThis.document = { cookie: "" };
  context.after(() => delete globalThis.document);
  context.mock.method(globalThis, "fetch", (address, { headers, signal }) => {
    asked.push([address, headers["X-Job"]]);
    if (!signal) return Promise.resolve({ ok: true, json: () => ({}) });
    return new Promise((_, fail) => signal.addEventListener("abort", () => fail(signal.reason)));
  });
  const work = quietly("/bands", {});
  const answer = work.answer.catch(() => "none");
  await work.stop();
  assert.equal(await answer, "none");
  assert.deepEqual(asked.map(([address]) => address), ["/bands", "/stop-job"]);
  assert.equal(asked[0][1], asked[1][1], "the same work");
});
