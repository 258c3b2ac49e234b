// A page's component, put together from a piece for each concern.

// Each piece makes its own state and methods; its `begin` is run, in their order, when the page is there.
// Getters must stay getters, so the pieces are joined by their property descriptors.
function joined(pieces) {
  const whole = {};
  const beginnings = [];
  for (const piece of pieces.map((make) => make())) {
    const { begin, ...properties } = Object.getOwnPropertyDescriptors(piece);
    if (begin) beginnings.push(begin.value);
    const taken = Object.keys(properties).filter((name) => name in whole);
    if (taken.length) throw new Error(`two pieces of the page have a ${taken}`);
    Object.defineProperties(whole, properties);
  }
  return { whole, beginnings };
}

// What Alpine makes the page of: the pieces, begun with the page's state; then it is `ready`.
export function component(pieces, ready) {
  return () => {
    const { whole, beginnings } = joined(pieces);
    whole.init = function () {
      const state = pageState();
      for (const begin of beginnings) begin.call(this, state);
      ready.call(this);
    };
    return whole;
  };
}

function pageState() {
  return JSON.parse(document.getElementById("state").textContent);
}
