// The rule by which a figure is turned: by its step, within its limits.

// A turnable figure from an input as the server gives it. One without limits reaches to twice its
// value; one without a step goes by a round hundredth of its reach, in the unit that it is shown in.
export function scaleOf({ value, size, low, high, step }) {
  const reach = Math.max(Math.abs(value) * 2, size * 10);
  const from = Math.min(low ?? (value < 0 ? -reach : 0), value);
  const to = Math.max(high ?? reach, value);
  return { from, to, base: low ?? 0, step: step > 0 ? step : size * 10 ** Math.floor(Math.log10((to - from) / size / 100)), size };
}

const SLACK = 1e-9; // of a step: limits that are steps but for rounding are steps

// The nearest step from the lower limit; beyond a limit the last step within it. It is a round figure in the unit that it
// is shown in: of an angle so many degrees, and not as many radians to twelve places.
export function steppedTo(value, { from, to, base, step, size }) {
  const first = Math.ceil((from - base) / step - SLACK);
  const last = Math.floor((to - base) / step + SLACK);
  const steps = Math.min(Math.max(Math.round((value - base) / step), first), last);
  return Number(((base + steps * step) / size).toPrecision(12)) * size;
}

// As many places as the step needs.
export function written(value, step, size) {
  const decimals = Math.max(0, Math.min(6, Math.ceil(-Math.log10(step / size) - 1e-9)));
  return (value / size).toFixed(decimals);
}
