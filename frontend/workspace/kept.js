// How a person left the screen of a study, kept in this browser. Nothing of the design is kept so.

let study = 0;

export function kept(of, name, otherwise) {
  study = of;
  try {
    return JSON.parse(localStorage.getItem(`ovolo:${study}:${name}`)) ?? otherwise;
  } catch {
    return otherwise;
  }
}

export function keep(name, value) {
  try {
    localStorage.setItem(`ovolo:${study}:${name}`, JSON.stringify(value));
  } catch {
    // A browser that keeps nothing works all the same.
  }
}
