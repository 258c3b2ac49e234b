// Lists that are shown again and again: what has not changed stays the same object, so that only
// what did change is drawn anew.

export class Steady {
  #lists = new Map();

  // The new list with the old objects where they are equal; null where nothing changed at all.
  take(name, items, keyOf) {
    const before = this.#lists.get(name);
    const after = new Map();
    let same = before?.size === items.length;
    const kept = items.map((item) => {
      const key = keyOf(item);
      const said = JSON.stringify(item);
      const old = before?.get(key);
      const entry = old?.said === said ? old : { item, said };
      if (entry !== old) same = false;
      after.set(key, entry);
      return entry.item;
    });
    const order = before?.keys();
    if (same) same = items.every((item) => keyOf(item) === order.next().value);
    this.#lists.set(name, after);
    return same ? null : kept;
  }
}
