// An edit as the server takes it; one that it would refuse is found when the scripts are checked.

/** @param {import("../messages").Edit} one */
export function edit(one) {
  return one;
}
