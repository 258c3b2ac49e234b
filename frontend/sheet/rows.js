// The sheet as rows: what each line shows in its margin, name, formula and value.
import { grouped } from "../grouped.js";

// An empty line at the end is none, unless it is being typed.
/** @param {import("../page").Shown} scene  @param {(line: import("../scene").LineSaid) => boolean} isTyped */
export function rowsOf(scene, isTyped = () => false) {
  const { lines } = scene;
  const told = toldOf(scene);
  let section = "";
  return lines
    .filter((line, index) => !(line.type === "blank" && !line.comment && index === lines.length - 1 && !isTyped(line)))
    .map((line) => {
      if (line.type === "section") section = line.title;
      return { ...row(line, told), section };
    });
}

// The rows while one line is being typed: the saved lines where they stand, with the values that
// the typed text gives them; and the row of the typed line itself.
// `draft` is { whole, line, height, old, saved }: the typed lines begin at `line` and are `height`
// high, instead of `old` (0: a line that is added) whose saved text is `saved`.
/** @param {import("../page").Shown} scene  @param {any} draft */
export function drafted(scene, draft) {
  const isTyped = ({ line }) => line >= draft.line && line < draft.line + draft.height;
  const rows = rowsOf(scene, isTyped);
  if (draft.line === undefined) return { rows, typed: null };
  const shift = draft.old - draft.height;
  const before = rows.filter((one) => one.line < draft.line);
  const typed = rows.filter(isTyped);
  const after = rows
    .filter((one) => one.line >= draft.line + draft.height)
    .map((one) => ({ ...one, line: one.line + shift, key: one.line + shift, number_shown: one.number_shown && one.line + shift }));
  const shown = typed.at(-1) ?? null;
  const kept = draft.old && shown ? [{ ...shown, line: draft.line, key: draft.line, number_shown: draft.line, text: draft.saved, own: draft.own, height: draft.old }] : [];
  return { rows: [...before, ...kept, ...after], typed: shown };
}

// The rows with a line that was just kept after another, until the server has told what it is.
export function withKept(rows, after, text) {
  const height = text.split("\n").length;
  const kept = row({ line: after + 1, text, type: "formula", name: "", lead: "", body: text, comment: "", title: "" }, toldOf({}));
  const before = rows.filter((one) => one.line <= after);
  const moved = rows.slice(before.length).map((one) => ({ ...one, line: one.line + height, key: one.line + height, number_shown: one.number_shown && one.line + height }));
  return [...before, { ...kept, section: before.at(-1)?.section ?? "" }, ...moved];
}

// Tells where a line of some rows is among others: where its text is once among those that came or were changed,
// else where its name is, else where as many lines stand there as before; null where it is gone.
/** @typedef {{ line: number, text: string, own: string }} Placed */
/** @param {Placed[]} before  @param {Placed[]} after  @returns {(line: number) => number | null} */
export function lineFollower(before, after) {
  let first = 0;
  while (first < Math.min(before.length, after.length) && before[first].text === after[first].text) first += 1;
  let last = 0;
  while (last < Math.min(before.length, after.length) - first && before.at(-1 - last).text === after.at(-1 - last).text) last += 1;
  const changed = before.slice(first, before.length - last);
  const now = after.slice(first, after.length - last);
  const only = (found) => (found.length === 1 ? found[0] : null);
  return (line) => {
    const at = before.findIndex((row) => row.line === line);
    if (at < 0) return null;
    if (at < first) return after[at].line;
    if (at >= before.length - last) return after[at - before.length + after.length].line;
    const { text, own } = before[at];
    const same = only(now.filter((row) => row.text === text)) ?? only(now.filter((row) => own && row.own === own));
    return (same ?? (changed.length === now.length ? now[at - first] : null))?.line ?? null;
  };
}

/** @template {{ line: number }} T  @param {T[]} some */
const byLine = (some) => grouped(some, ({ line }) => line);

// What a scene tells of lines, by their numbers.
/** @param {Partial<import("../scene").SceneSaid>} scene */
function toldOf({ outcomes = {}, problems = [], checks = [], parts = [] }) {
  return { outcomes, problemsAt: byLine(problems), checksAt: byLine(checks), partsAt: byLine(parts) };
}

/** @param {import("../scene").LineSaid} line  @param {ReturnType<typeof toldOf>} told */
function row(line, { outcomes, problemsAt, checksAt, partsAt }) {
  const height = line.text.split("\n").length;
  const outcome = outcomes[line.line];
  const problems = Array.from({ length: height }, (_, at) => problemsAt.get(line.line + at) ?? []).flat();
  const problem = problems[0];
  // A line that uses a study has the checks of that study, and tells of those that fail.
  const check = checksAt.get(line.line)?.find((one) => line.type === "check" || one.passed === false);
  const part = partsAt.get(line.line)?.[0];
  const waiting = Boolean(problem?.waiting);
  return {
    key: line.line,
    line: line.line,
    text: line.text.replaceAll("\r", ""),
    type: line.type,
    ...nameAndBody(line),
    ...(outcome?.said ? { body: outcome.said } : {}),
    own: line.name,
    title: line.title,
    kind: outcome?.kind ?? "",
    needs: outcome?.needs ?? [],
    label: outcome?.label ?? "",
    number: outcome?.number ?? "",
    unit: outcome?.unit ?? "",
    problem: problem ? sayProblem(problem) : "",
    hint: problem?.hint ?? "",
    unknown: problem?.unknown ?? "",
    overruled: outcome?.notes.find((note) => note.overruled)?.overruled ?? "",
    more: problems.length - 1,
    failing: Boolean(problem) && !waiting,
    waiting,
    number_shown: line.type === "blank" && !line.comment ? "" : line.line,
    mark: problem ? (waiting ? "…" : "✕") : outcome?.notes.length ? "◦" : "",
    note: (outcome?.notes ?? []).map((note) => note.message).join(" · "),
    check: check && check.passed !== null ? (check.passed ? "holds" : "fails") : "",
    measured: check?.measured ?? "",
    message: check?.message ?? "",
    quiet: quietly(line, outcome, check),
    colour: part?.colour ?? "",
    study: outcome?.study ?? null,
    classes: ["row", line.type, problem ? (waiting ? "waiting" : "failing") : "", quiet(outcome) ? "quiet" : "", line.text.trim() ? "" : "bare"].filter(Boolean).join(" "),
    aria: line.text.trim() ? null : `Line ${line.line}, empty`,
    height,
  };
}

// What stands beside the formula, as a second line: the label, what a check says, the comment.
/** @param {import("../scene").LineSaid} line  @param {import("../scene").OutcomeSaid} outcome  @param {import("../scene").CheckSaid} check */
function quietly(line, outcome, check) {
  return [outcome?.label, line.type === "check" && check?.message, line.type !== "blank" && line.comment].filter(Boolean).join(" · ");
}

/** @param {import("../scene").ProblemSaid} problem */
export function sayProblem(problem) {
  return problem.struck ? `${problem.struck}: ${problem.message}` : problem.message;
}

function quiet(outcome) {
  return ["solid", "region", "curve", "surface", "list", "function"].includes(outcome?.kind);
}

// The parameters of a function stand with its name.
function nameAndBody(line) {
  const name = line.lead || (line.name ?? "");
  const body = bodyOf(line);
  const parameters = name && body.match(/^\s*\([^)]*\)/)?.[0];
  return parameters && line.type === "formula"
    ? { name: name + parameters.trim(), body: body.slice(parameters.length) }
    : { name, body };
}

function bodyOf(line) {
  if (line.type === "blank") return line.text.trim();
  if (line.type === "unreadable") return line.text.split("\n")[0].replace(/^(\s*(?:input|part)\s+)?[^\W\d]\w*/, (found) => (line.name ? "" : found));
  return line.body;
}

// A name of the sheet language made from a text, that no line has yet.
export function freeName(text, rows) {
  const plain = text.replace(/[^\p{L}\p{N}_]+/gu, "_").replace(/^(?=\d)/, "_");
  const taken = new Set(rows.map((row) => row.own));
  let name = plain;
  for (let at = 2; taken.has(name); at++) name = `${plain}_${at}`;
  return name;
}
