// The trials that hold and of which none is better in both of two aims (the Pareto frontier), in the order
// of the first.
export function frontier(dots, aimX, aimY) {
  const [wayX, wayY] = [aimX === "less" ? 1 : -1, aimY === "less" ? 1 : -1];
  const sorted = dots.filter((dot) => !dot.fails).sort((a, b) => wayX * (a.x - b.x) || wayY * (a.y - b.y));
  const found = [];
  for (const dot of sorted) if (!found.length || wayY * dot.y < wayY * found.at(-1).y) found.push(dot);
  return found.sort((a, b) => a.x - b.x);
}

