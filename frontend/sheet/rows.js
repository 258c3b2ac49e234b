// The sheet as rows: what each line shows in its margin, name, formula and value.

export function rowsOf(scene, known) {
  return scene.lines
    .filter((line, index) => !(line.type === "blank" && !line.comment && index === scene.lines.length - 1))
    .map((line) => row(line, scene, known));
}

function row(line, scene, known) {
  const outcome = scene.outcomes?.[line.line] ?? known?.get(line.text);
  const problems = scene.problems?.filter((problem) => covers(line, problem.line)) ?? [];
  const problem = problems[0];
  const check = scene.checks?.find((one) => one.line === line.line);
  const part = scene.parts?.find((one) => one.line === line.line);
  const waiting = Boolean(problem?.waiting);
  return {
    key: `${line.line}:${line.type}`,
    line: line.line,
    text: line.text,
    type: line.type,
    ...nameAndBody(line),
    own: line.name,
    title: line.title,
    number: outcome?.number ?? "",
    unit: outcome?.unit ?? "",
    problem: problem ? sayProblem(problem) : "",
    hint: problem?.hint ?? "",
    more: problems.length - 1,
    failing: Boolean(problem) && !waiting,
    waiting,
    number_shown: line.type === "blank" && !line.comment ? "" : line.line,
    mark: problem ? (waiting ? "…" : "✕") : outcome?.notes.length ? "◦" : "",
    note: (outcome?.notes ?? []).map((note) => note.message).join(" · "),
    check: check && check.passed !== null ? (check.passed ? "holds" : "fails") : "",
    measured: check?.measured ?? "",
    message: check?.message ?? "",
    colour: part?.colour ?? "",
    classes: ["row", line.type, problem ? (waiting ? "waiting" : "failing") : "", quiet(outcome) ? "quiet" : "", line.text.trim() ? "" : "bare"].join(" "),
    aria: line.text.trim() ? null : `Line ${line.line}, empty`,
    height: line.text.split("\n").length,
  };
}

function covers(line, at) {
  return at >= line.line && at < line.line + line.text.split("\n").length;
}

function sayProblem(problem) {
  return problem.item === null ? problem.message : `item ${problem.item}: ${problem.message}`;
}

function quiet(outcome) {
  return ["solid", "region", "curve", "surface", "list", "function"].includes(outcome?.kind);
}

// The parameters of a function stand with its name.
function nameAndBody(line) {
  const name = line.type === "check" || line.type === "dim" ? line.type : line.name ?? "";
  const body = bodyOf(line);
  const parameters = name && body.match(/^\s*\([^)]*\)/)?.[0];
  return parameters && line.type === "formula"
    ? { name: name + parameters.trim(), body: body.slice(parameters.length) }
    : { name, body };
}

function bodyOf(line) {
  if (line.type === "blank") return line.text.trim();
  if (line.type === "unreadable") return line.text.split("\n")[0].replace(/^(\s*(?:input|part)\s+)?[^\W\d]\w*/, (found) => (line.name ? "" : found));
  if (line.type === "dim") return line.body.replace(/^dim\s+/, "");
  return line.body;
}
