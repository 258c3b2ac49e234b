// The rooms of a page name what they need of each other, and all that is asked of a room is there.
import assert from "node:assert/strict";
import { readdirSync, readFileSync } from "node:fs";
import { test } from "node:test";

import { parse } from "espree";

import { furnished } from "../../frontend/rooms.js";

const HOME = new URL("../../frontend/", import.meta.url);
const TEMPLATES = new URL("../../studio/templates/", import.meta.url);
const PAGES = {
  "workspace.js": "workspace/",
  "variations.js": "variations/page.html",
  "print-bench.js": "benches/print.html",
  "cut-bench.js": "benches/cut.html",
  "hand-over.js": "handover/page.html",
};
const SHARED = { "print-bench.js": ["benches/_rail.html"], "cut-bench.js": ["benches/_rail.html"] };

const read = (name) => readFileSync(new URL(name, HOME), "utf8");
const tree = (text) => parse(text, { ecmaVersion: 2024, sourceType: "module" });

// What each node stands in.
function standing(node, within = new Map()) {
  for (const value of Object.values(node)) {
    for (const one of Array.isArray(value) ? value : [value]) if (typeof one?.type === "string") standing(one, within.set(one, node));
  }
  return within;
}

const memberOf = (node, above) => (above?.type === "MemberExpression" && above.object === node && !above.computed ? above.property.name : null);

// By the name of each room of a page: its members, its needs, and what it takes of itself and of others.
function roomsOf(page) {
  const body = tree(read(page)).body;
  const files = new Map(body.filter((one) => one.type === "ImportDeclaration").flatMap((one) => one.specifiers.map(({ local }) => [local.name, one.source.value])));
  const made = body.flatMap((one) => one.declarations ?? []).find(({ id }) => id.name === "ROOMS").init.properties;
  return new Map(made.map(({ key, value }) => [key.name, roomIn(files.get(value.name), value.name)]));
}

function roomIn(file, name) {
  const maker = tree(read(file)).body.map((one) => one.declaration?.declarations?.[0]).find((one) => one?.id.name === name);
  const room = maker.init.body;
  const needs = room.properties.find((one) => one.key.name === "needs")?.value.elements.map((one) => one.value) ?? [];
  const within = standing(room);
  const taken = [...within].filter(([node]) => node.type === "ThisExpression").map(([node, above]) => [memberOf(node, above), memberOf(above, within.get(above))]);
  return { members: new Set(room.properties.map((one) => one.key.name)), needs, taken: taken.filter(([own]) => own) };
}

// The names at the heads of the expressions in a template, with the member that each is asked for.
function* asked(text) {
  const local = new Set([...text.matchAll(/x-for="\(?([\w, ]+)\)? in /g)].flatMap(([, names]) => names.split(", ")));
  for (const [, directive, said] of text.matchAll(/\s(x-[\w:.-]+|[:@][\w.:-]+)="([^"]*)"/g)) {
    if (/^x-(data|ref|cloak)/.test(directive)) continue;
    const bare = said.replace(/^.*? in (?=\w)/, (found) => (directive === "x-for" ? "" : found)).replace(/'[^']*'/g, "''");
    for (const [, name, member] of bare.matchAll(/(?<![\w.$])([a-zA-Z]\w*)(?:\.(\w+))?(?!\w*:(?!:))/g)) {
      if (!local.has(name) && !["true", "false", "null"].includes(name)) yield [name, member, said];
    }
  }
}

const templatesOf = (page) => {
  const place = PAGES[page];
  const names = place.endsWith("/") ? readdirSync(new URL(place, TEMPLATES)).map((name) => place + name) : [place];
  return [...names, ...(SHARED[page] ?? [])];
};

for (const page of Object.keys(PAGES)) {
  const rooms = roomsOf(page);

  test(`${page}: a room needs what it names, and names what it needs`, () => {
    for (const [name, { members, needs, taken }] of rooms) {
      for (const [own, member] of taken) {
        assert.ok(members.has(own) || needs.includes(own), `${name} takes ${own}, which it neither has nor names`);
        if (needs.includes(own) && member) assert.ok(rooms.get(own).members.has(member), `${name} takes ${own}.${member}, which is not there`);
      }
      for (const need of needs) assert.ok(taken.some(([own]) => own === need), `${name} names ${need} and does not need it`);
    }
  });

  test(`${page}: its templates ask for what its rooms have`, () => {
    let count = 0;
    for (const template of templatesOf(page)) {
      for (const [name, member, said] of asked(readFileSync(new URL(template, TEMPLATES), "utf8"))) {
        count += 1;
        assert.ok(rooms.has(name) && (!member || rooms.get(name).members.has(member)), `${template} asks for ${name}.${member} in "${said}"`);
      }
    }
    assert.ok(count > 20);
  });
}

test("rooms find each other by name, in circles too", () => {
  const { one, other } = furnished({
    one: () => ({ needs: ["other"], count: 1, get both() { return this.count + this.other.count; } }),
    other: () => ({ needs: ["one"], count: 2, get both() { return this.one.both; } }),
  });
  assert.equal(other.both, 3);
  assert.deepEqual(Object.keys(one), ["needs", "count", "both"]);
  assert.throws(() => furnished({ one: () => ({ needs: ["other"] }) }), /one needs other/);
  assert.throws(() => furnished({ one: () => ({ needs: ["other"], other: 1 }), other: () => ({}) }), /one has a other of its own/);
});

// Questions that are answered past `Newest`, and why an older answer does no harm there.
const ASKED_OTHERWISE = {
  "workspace/text.js": "the vocabulary, once",
  "workspace/placing.js": "what is picked is added to what is picked by then",
  "workspace/saving.js": "the state is dropped where something was saved meanwhile; to take over, the newest is wanted",
  "workspace/together.js": "news are dropped where something was saved meanwhile",
  "workspace/words.js": "it is compared with what was asked last",
  "workspace/remarks.js": "one after another",
  "newer.js": "it is compared with what is shown by then",
  "variations/comparing.js": "what may be compared, once",
  "workspace/asking.js": "asks for others",
};

test("what is asked and shown goes through Newest", () => {
  const files = readdirSync(HOME, { recursive: true }).filter((name) => name.endsWith(".js") && name !== "server.js");
  const past = files.filter((name) => read(name).split("\n").some((line) => /(?<!import.*)\b(getJson|answerTo)\(/.test(line) && !/\.of\(\(\) =>/.test(line)));
  assert.deepEqual(past.sort(), Object.keys(ASKED_OTHERWISE).sort());
});
