// What is new between two pictures, in words: failing checks, problems, values.

export function newsOf(before, now) {
  const said = now.failing.filter((one) => !before.failing.includes(one)).map((one) => `Fails: ${one}`);
  const mended = before.failing.filter((one) => !now.failing.includes(one)).length;
  if (mended) said.push(`${mended} ${mended === 1 ? "check holds" : "checks hold"} again`);
  if (now.problems !== before.problems) said.push(now.problems ? `${now.problems} problem${now.problems === 1 ? "" : "s"}` : "no problems any more");
  const changed = [...now.values].filter(([name, value]) => before.values.get(name) !== value);
  said.push(...changed.slice(0, 3).map(([name, value]) => `${name} ${value}`));
  if (changed.length > 3) said.push(`and ${changed.length - 3} more values`);
  return said.join(". ");
}
