// Lengths that are round in the unit of a study: for the scale bar and the grid.
const [INCH, FOOT] = [25.4, 304.8]; // mm
const INCHES = [1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 3, 6]; // then feet
const FRACTIONS = { 0.0625: "1/16", 0.125: "1/8", 0.25: "1/4", 0.5: "1/2" };

// The smallest round length that is no less than `least` (mm), in a unit { symbol, size in mm }:
// { mm, said }.
export function roundLength(least, { symbol, size }) {
  if (symbol === "in" || symbol === "ft") return imperial(least);
  const count = oneTwoFive(least / size);
  if (symbol === "mm" && count >= 1000) return { mm: count, said: `${count / 1000} m` };
  return { mm: count * size, said: `${count} ${symbol}` };
}

function imperial(least) {
  const inches = INCHES.find((one) => one * INCH >= least);
  if (inches) return { mm: inches * INCH, said: `${FRACTIONS[inches] ?? inches} in` };
  const feet = Math.max(oneTwoFive(least / FOOT), 1);
  return { mm: feet * FOOT, said: `${feet} ft` };
}

// 1, 2 or 5 times a power of ten.
function oneTwoFive(least) {
  const decade = 10 ** Math.floor(Math.log10(least) + 1e-12);
  const factor = [1, 2, 5, 10].find((one) => one * decade >= least * (1 - 1e-12));
  return Number((factor * decade).toPrecision(12));
}
