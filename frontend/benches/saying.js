// Figures as a bench says them.

// Four figures at most, thousands set apart.
export function amount(value) {
  if (!Number.isFinite(value)) return "–";
  const shown = Math.abs(value) >= 1000 ? Math.round(value) : Number(value.toPrecision(Math.abs(value) < 1 ? 2 : 3));
  return shown.toLocaleString("en-GB", { maximumFractionDigits: 4 }).replaceAll(",", "\u2009");
}

export function duration(seconds) {
  if (seconds < 90) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  if (minutes < 90) return `${minutes} min`;
  return `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}

// Numbers of layers in words: "layers 3, 5 to 9 and 12".
export function spread(numbers) {
  const sorted = [...new Set(numbers)].sort((a, b) => a - b);
  const runs = [];
  for (const one of sorted) {
    const last = runs.at(-1);
    if (last && one === last[1] + 1) last[1] = one;
    else runs.push([one, one]);
  }
  const said = runs.slice(0, 3).map(([first, last]) => (first === last ? `${first}` : `${first} to ${last}`));
  const more = runs.length - said.length;
  return `layer${sorted.length > 1 ? "s" : ""} ${said.join(", ")}${more > 0 ? ` and ${more} more runs` : ""}`;
}
