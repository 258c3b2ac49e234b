// What is plotted and sorted by: values of lines, inputs, pieces and masses of parts.

export function figureOf(trial, name) {
  const [kind, part] = name.split(":");
  if (part) return trial.parts[part]?.[kind] ?? undefined;
  return trial.values[name] ?? trial.settings[name];
}

// All names that any of some trials has a figure for, with their labels.
export function figuresIn(trials, values, axes) {
  const labels = new Map([...values, ...axes].map((one) => [one.name, one.label]));
  const found = new Map();
  for (const trial of trials) {
    for (const [name, value] of Object.entries({ ...trial.settings, ...trial.values })) {
      if (typeof value === "number" && labels.has(name)) found.set(name, labels.get(name));
    }
    for (const [name, { label, mass }] of Object.entries(trial.parts)) {
      found.set(`pieces:${name}`, `pieces of ${label}`);
      if (mass !== null) found.set(`mass:${name}`, `mass of ${label}, kg`);
    }
  }
  return [...found].map(([name, label]) => ({ name, label }));
}
