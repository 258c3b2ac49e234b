// The rule by which a figure is turned: by its step, within its limits.

// A turnable figure from an input as the server gives it. One without limits reaches to twice its
// value; one without a step goes by a round hundredth of its reach.
export function scaleOf({ value, size, low, high, step }) {
  const reach = Math.max(Math.abs(value) * 2, size * 10);
  const from = Math.min(low ?? (value < 0 ? -reach : 0), value);
  const to = Math.max(high ?? reach, value);
  return { from, to, base: low ?? 0, step: step > 0 ? step : 10 ** Math.floor(Math.log10((to - from) / 100)) };
}

// The nearest step from the lower limit, within the limits.
export function steppedTo(value, { from, to, base, step }) {
  const stepped = base + Math.round((value - base) / step) * step;
  return Number(Math.min(Math.max(stepped, from), to).toPrecision(12));
}

// As many places as the step needs.
export function written(value, step, size) {
  const decimals = Math.max(0, Math.min(6, Math.ceil(-Math.log10(step / size) - 1e-9)));
  return (value / size).toFixed(decimals);
}
