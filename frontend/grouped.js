// Items by what they have in common, each in their order.
/** @template T, K  @param {T[]} items  @param {(item: T) => K} keyOf  @returns {Map<K, T[]>} */
export function grouped(items, keyOf) {
  const groups = new Map();
  for (const item of items) {
    const key = keyOf(item);
    if (!groups.get(key)?.push(item)) groups.set(key, [item]);
  }
  return groups;
}
