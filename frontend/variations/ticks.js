// Round figures from below the least to above the greatest of some values, about so many.
export function ticksBetween(values, count) {
  let [low, high] = [Math.min(...values), Math.max(...values)];
  if (!(high > low)) {
    const away = Math.abs(low) / 10 || 1;
    [low, high] = [low - away, high + away];
  }
  const raw = (high - low) / count;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = power * [1, 2, 2.5, 5, 10].find((one) => one * power >= raw * (1 - 1e-9));
  const first = Math.floor(low / step + 1e-9);
  const last = Math.ceil(high / step - 1e-9);
  return Array.from({ length: last - first + 1 }, (_, at) => Number(((first + at) * step).toPrecision(12)));
}
