// A figure as it is typed, with nothing behind it but the unit in which it is wanted; else it is none (NaN).
export function figureTyped(text, unit = "") {
  const said = text.trim();
  const bare = (unit && said.endsWith(unit) ? said.slice(0, -unit.length) : said).trim();
  return bare === "" ? Number.NaN : Number(bare.replace("\u2212", "-"));
}
