// A drag, from the press of the pointer until it is let go. Escape gives it up, and so does whatever takes the
// pointer away (a gesture of the system, another window): then all is as it was before.

const nothing = () => {};

// Follows the pointer that pressed on an element, with its first button: `move` at each move (with the pixels since
// the one before), and at the end `drop` where it is let go, or `back` where it is given up. False where it is no
// drag: another button, or a second finger.
/** @param {any} event  @param {{ move: (event: PointerEvent, by: [number, number]) => void, drop?: (event: PointerEvent) => void, back?: () => void }} doing */
export function drag(event, { move, drop = nothing, back = nothing }) {
  if (event.button !== 0 || event.isPrimary === false) return false;
  if (event.pointerId !== undefined) event.currentTarget.setPointerCapture?.(event.pointerId);
  const own = (said) => event.pointerId === undefined || said.pointerId === event.pointerId;
  let from = event;
  const heard = {
    pointermove: (said) => {
      if (!own(said)) return;
      const before = from;
      from = said;
      move(said, [said.clientX - before.clientX, said.clientY - before.clientY]);
    },
    pointerup: (said) => own(said) && over(() => drop(said)),
    pointercancel: (said) => own(said) && over(back),
    blur: (said) => said.target === window && over(back),
    keydown: (said) => {
      if (said.key !== "Escape") return;
      said.preventDefault(); // it gives up the drag, and closes nothing
      said.stopImmediatePropagation();
      over(back);
    },
  };
  const over = (last) => {
    for (const [name, listener] of Object.entries(heard)) removeEventListener(name, listener, true);
    last();
  };
  for (const [name, listener] of Object.entries(heard)) addEventListener(name, listener, true);
  return true;
}
