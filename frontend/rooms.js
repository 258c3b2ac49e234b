// A page's component, put together from rooms: objects of its own for each concern, that name which
// of the others they need.

/** @typedef {Record<string, any>} Room */

// Each room is made with its state and methods, and finds those that it needs under their names.
// They are not enumerable: rooms need each other in circles, and whoever looks through one stays in it.
/** @param {Record<string, () => Room>} makers  @returns {Record<string, Room>} */
export function furnished(makers) {
  const rooms = Object.fromEntries(Object.entries(makers).map(([name, make]) => [name, make()]));
  for (const [name, room] of Object.entries(rooms)) {
    for (const need of room.needs ?? []) {
      if (!(need in rooms)) throw new Error(`${name} needs ${need}, which the page does not have`);
      if (need in room) throw new Error(`${name} has a ${need} of its own`);
      Object.defineProperty(room, need, { value: rooms[need], configurable: true });
    }
  }
  return rooms;
}

// What Alpine makes the page of: the rooms by their names, begun in their order with the page's
// state; then it is `ready`.
/** @param {Record<string, () => Room>} makers  @param {(page: Record<string, Room>) => void} ready */
export function component(makers, ready) {
  return () => ({
    ...furnished(makers),
    init() {
      const state = pageState();
      for (const name of Object.keys(makers)) this[name].begin?.(state);
      ready(this);
    },
  });
}

function pageState() {
  return JSON.parse(document.getElementById("state").textContent);
}
