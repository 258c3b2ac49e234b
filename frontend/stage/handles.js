// Handles on the stage: the points that are inputs, the ends of dims that measure an input, and
// the cutting plane. They are elements of the page, so the keyboard reaches them too.
import { drag } from "../dragging.js";
import { AXES, CornerHandle, DimHandle, ListedPointHandle, PointHandle, valueIn } from "./handle-sources.js";

const KEPT = ["cut", "piece", "piece turn"]; // handles that no scene brings
const SIZE = 14; // pixels that one takes on the screen
const SNAP = 9; // pixels within which a point is drawn to a datum
const STEPS = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1], PageUp: [0, 10], PageDown: [0, -10] };

export class Handles {
  constructor(stage, host) {
    this.stage = stage;
    this.host = host;
    this.handles = new Map();
    // Called with the name of an input and its new value.
    /** @type {(name: string, value: number | number[]) => void} */
    this.onTurn = () => {};
    this.onSettle = this.onTurn;
    this.onUnturn = this.onTurn;
    /** @type {(name: string, typed: string, point: number | undefined) => void} */
    this.onType = () => {};
    /** @type {(name: string, index: number, at: number[]) => void} */
    this.onCorner = () => {};
    this.cornerStep = () => 1; // mm
  }

  // Takes the inputs and dims of a scene.
  /** @param {Partial<import("../scene").SceneSaid>} scene */
  take(scene) {
    const wanted = new Map();
    // A list has no unit of its own, and feet and inches have two: figures at a handle are in one.
    const { symbol, size } = scene.length_unit ?? { symbol: "mm", size: 1 };
    const unitOf = (input) => (input.size === size ? symbol : input.unit);
    for (const input of scene.inputs ?? []) {
      if (input.kind === "point" && Array.isArray(input.value)) wanted.set(`point ${input.name}`, new PointHandle(input, unitOf(input)));
      const listed = input.width && Array.isArray(input.value) ? input.value.length / input.width : 0;
      for (let at = 0; at < listed; at += 1) wanted.set(`point ${input.name} ${at}`, new ListedPointHandle(input, unitOf(input), at));
    }
    const inputs = new Map((scene.inputs ?? []).map((input) => [input.name, input]));
    for (const dim of scene.dims ?? []) {
      const input = inputs.get(dim.name);
      if (input && dim.form === "length" && typeof input.value === "number") wanted.set(`dim ${dim.line}`, new DimHandle(dim, input, unitOf(input)));
    }
    for (const corner of scene.corners ?? []) {
      wanted.set(`corner ${corner.name} ${corner.index}`, new CornerHandle(corner, { unit: symbol, size, step: this.cornerStep() }, {
        turn: (beside, at) => this.stage.marks.measure(beside.map((other) => [other, at]), null),
        settle: (name, index, at) => {
          this.stage.marks.measure([], null);
          this.onCorner(name, index, at);
        },
      }));
    }
    for (const [key, handle] of this.handles) {
      if (wanted.has(key) || KEPT.includes(key)) continue;
      handle.element.remove();
      this.handles.delete(key);
    }
    for (const [key, source] of wanted) this.#take(key, source);
  }

  // A handle is kept while it is dragged: only what it stands for is taken over.
  #take(key, source) {
    const known = this.handles.get(key);
    if (!known) this.handles.set(key, this.#make(source));
    else if (!known.dragging) known.source = source;
    const handle = this.handles.get(key);
    if (handle.element.ariaLabel !== source.said) handle.element.ariaLabel = source.said;
    this.#say(handle);
  }

  showCut(source) {
    this.#showOwn("cut", source, "cut");
  }

  // Of the piece that was picked: to move it, and to turn it.
  showPiece(source, turning = null) {
    this.#showOwn("piece", source, "turns");
    this.#showOwn("piece turn", turning, "turns");
  }

  #showOwn(key, source, kind) {
    this.handles.get(key)?.element.remove();
    this.handles.delete(key);
    if (source) this.handles.set(key, this.#make(source, kind));
  }

  #make(source, kind = "turns") {
    const element = Object.assign(document.createElement("button"), { type: "button", className: `handle ${kind}` });
    element.setAttribute("aria-label", source.said);
    const said = Object.assign(document.createElement("span"), { className: "handle-said" });
    element.append(said);
    this.host.append(element);
    const handle = { element, said, source, dragging: false, before: source.value, axis: "", pause: 0 };
    element.addEventListener("pointerdown", (event) => this.#begin(event, handle));
    element.addEventListener("keydown", (event) => this.#key(event, handle));
    element.addEventListener("dblclick", () => this.#type(handle));
    element.addEventListener("blur", () => this.#lock(handle, ""));
    this.#say(handle);
    return handle;
  }

  // Its name and its value, seen while it is pointed at, chosen or dragged.
  #say({ said, source, axis }) {
    const text = source.label ? `${source.label} ${source.shown}${axis ? `, along ${axis} only` : ""}` : source.said;
    if (said.textContent !== text) said.textContent = text;
  }

  #lock(handle, axis) {
    handle.axis = axis;
    this.#say(handle);
  }

  #begin(event, handle) {
    if (handle.dragging) this.#rest(handle);
    const before = handle.source.value;
    const to = (value) => {
      if (value === null || String(value) === String(handle.source.value)) return;
      handle.source.value = value;
      this.#turn(handle);
    };
    const end = () => {
      handle.dragging = false;
      this.#end(handle, before);
    };
    handle.dragging = drag(event, {
      move: (moved) => to(this.#under(moved, handle, before)),
      drop: end,
      back: () => {
        to(before);
        end();
      },
    });
    if (!handle.dragging) return;
    event.preventDefault();
    handle.element.focus();
    this.stage.hold();
  }

  // A run of presses is over.
  #rest(handle) {
    clearTimeout(handle.pause);
    handle.dragging = false;
    this.#end(handle, handle.before);
  }

  // A turn is over: it is settled, or where it came back to what it was, forgotten.
  #end(handle, before) {
    if (String(before) !== String(handle.source.value)) this.#settle(handle);
    else if (!handle.source.turn) this.onUnturn(handle.source.name, valueIn(handle.source));
    this.stage.release();
  }

  // The value under the pointer: along an axis that is locked by its key, or by Shift along the one
  // on which it has moved farthest; on a datum that is near; or wherever it is.
  #under(event, handle, before) {
    const { source } = handle;
    const { ray } = this.stage.rayAt(event.clientX, event.clientY);
    const free = source.valueAt(ray, this.stage.camera);
    const axis = handle.axis || (event.shiftKey && source.axes && free ? farthest(before, free) : "");
    if (axis && source.valueAlong) return source.valueAlong(axis, ray, before);
    const datum = this.stage.construction.near(event.clientX, event.clientY, SNAP, this.stage);
    return source.valueOn?.(datum) ?? free;
  }

  #key(event, handle) {
    if (event.altKey || event.ctrlKey || event.metaKey || event.target !== handle.element) return;
    const value = this.#pressed(event, handle);
    if (value === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    if (value === null || String(value) === String(handle.source.value)) return;
    if (!handle.dragging) handle.before = handle.source.value; // a run of presses is one turn
    handle.source.value = value;
    this.stage.hold();
    this.#turn(handle);
    clearTimeout(handle.pause);
    handle.dragging = true;
    handle.pause = setTimeout(() => this.#rest(handle), 500);
  }

  // The value after a press of a key; null where it stays, undefined where the key means nothing here.
  #pressed(event, handle) {
    const { source, axis } = handle;
    const { key } = event;
    if (STEPS[key]) return source.moved(STEPS[key], event.shiftKey ? 10 : 1, axis);
    if (key === "Home" || key === "End") return source.limit(key === "End", axis || undefined);
    if (key === "Enter" && source.label) return this.#type(handle);
    if (source.axes?.includes(key)) return this.#lock(handle, axis === key ? "" : key) ?? null;
    if (source.together && ["Insert", "+"].includes(key)) return this.#relist(handle, source.grown());
    if (source.together && ["Delete", "-"].includes(key)) return this.#relist(handle, source.thinned());
    return undefined;
  }

  // A list with a point more or less; a turn that was not kept yet goes with it.
  #relist(handle, value) {
    if (!value) return null;
    clearTimeout(handle.pause);
    handle.dragging = false;
    this.onSettle(handle.source.name, value);
    this.stage.release();
    return null;
  }

  // A box in which the value is typed, in the place of its name.
  #type(handle) {
    const { element, said, source } = handle;
    if (!source.label || element.nextElementSibling?.matches(".handle-typed")) return null;
    const typed = Object.assign(document.createElement("input"), { className: "handle-typed", value: source.figures.map((one) => `${one} ${source.unit}`).join(", "), autocomplete: "off" });
    typed.setAttribute("aria-label", `${source.label}, value`);
    typed.style.translate = element.style.translate;
    const before = typed.value; // as it is shown, which may be rounded: unchanged, it stays as it is
    let open = true;
    const end = (kept) => {
      if (!open) return; // taking it away takes the focus from it
      open = false;
      typed.remove();
      said.hidden = false;
      if (kept && typed.value !== before && source.typed) source.typed(typed.value);
      else if (kept && typed.value !== before) this.onType(source.name, typed.value, source.point);
      element.focus();
    };
    typed.addEventListener("keydown", (event) => {
      if (!["Enter", "Escape"].includes(event.key)) return;
      event.preventDefault();
      end(event.key === "Enter");
    });
    typed.addEventListener("blur", () => end(false));
    said.hidden = true;
    element.after(typed);
    typed.select();
    typed.focus();
    return null;
  }

  #turn(handle) {
    if (handle.source.turn) handle.source.turn(handle.source.value);
    else this.onTurn(handle.source.name, valueIn(handle.source));
    this.#say(handle);
    this.stage.draw();
  }

  #settle(handle) {
    if (handle.source.settle) handle.source.settle(handle.source.value);
    else if (!handle.source.turn) this.onSettle(handle.source.name, valueIn(handle.source));
  }

  place() {
    for (const { element, source } of this.handles.values()) {
      const { x, y } = this.stage.onScreen(source.place());
      element.style.translate = `${x}px ${y}px`;
    }
  }

  // What they take of the screen.
  boxes() {
    return [...this.handles.values()].map(({ source }) => ({ ...this.stage.onScreen(source.place()), width: SIZE, height: SIZE }));
  }

  report() {
    return [...this.handles].map(([key, { source }]) => ({ key, value: source.value, place: source.place().toArray() }));
  }
}

// The axis along which a point has moved farthest.
function farthest(before, now) {
  const apart = now.map((one, at) => Math.abs(one - before[at]));
  return AXES[apart.indexOf(Math.max(...apart))];
}
