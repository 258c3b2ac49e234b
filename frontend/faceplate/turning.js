// The rule by which a figure is turned: by its step, within its limits.

// A turnable figure from an input as the server gives it. One without limits reaches to twice its
// value; one without a step goes by a round hundredth of its reach.
export function scaleOf({ value, size, low, high, step }) {
  const reach = Math.max(Math.abs(value) * 2, size * 10);
  const from = Math.min(low ?? (value < 0 ? -reach : 0), value);
  const to = Math.max(high ?? reach, value);
  return { from, to, base: low ?? 0, step: step > 0 ? step : 10 ** Math.floor(Math.log10((to - from) / 100)) };
}

const SLACK = 1e-9; // of a step: limits that are steps but for rounding are steps

// The nearest step from the lower limit; beyond a limit the last step within it.
export function steppedTo(value, { from, to, base, step }) {
  const first = Math.ceil((from - base) / step - SLACK);
  const last = Math.floor((to - base) / step + SLACK);
  const steps = Math.min(Math.max(Math.round((value - base) / step), first), last);
  return Number((base + steps * step).toPrecision(12));
}

// As many places as the step needs.
export function written(value, step, size) {
  const decimals = Math.max(0, Math.min(6, Math.ceil(-Math.log10(step / size) - 1e-9)));
  return (value / size).toFixed(decimals);
}
