// The dividers between sheet, stage and faceplate: dragged, turned by keys, back to the usual by a
// double click; remembered.
import { drag } from "../dragging.js";
import { all } from "../elements.js";
import { keep, kept } from "./kept.js";

const LEAST = { sheet: 300, faceplate: 96 };
const SPARE = { sheet: 420, faceplate: 180 }; // what the other side keeps
const PIXELS = 24; // for one press of a key

export const dividing = () => ({
  sizes: {},

  begin(state) {
    this.sizes = kept(state.study, "sizes", {});
    for (const name of ["sheet", "faceplate"]) this.showSize(name);
  },

  // How large a side is, and how large it may be.
  sizeOf(name) {
    const side = document.getElementById(`${name}-side`);
    const room = side.parentElement;
    const [size, all] = name === "sheet" ? [side.offsetWidth, room.offsetWidth] : [side.offsetHeight, room.offsetHeight];
    return { size, most: Math.max(all - SPARE[name], LEAST[name]) };
  },

  resize(name, size) {
    const { most } = this.sizeOf(name);
    this.sizes = { ...this.sizes, [name]: size === null ? undefined : Math.round(Math.min(Math.max(size, LEAST[name]), most)) };
    this.showSize(name);
    keep("sizes", this.sizes);
  },

  showSize(name) {
    const size = this.sizes[name];
    const now = this.sizeOf(name);
    const [divider] = all(`[data-divides=${name}]`);
    divider.setAttribute("aria-valuemin", `${LEAST[name]}`);
    divider.setAttribute("aria-valuemax", `${now.most}`);
    divider.setAttribute("aria-valuenow", `${size ?? now.size}`);
    const { style } = all(".workspace")[0];
    if (size) style.setProperty(`--${name}-size`, `${size}px`);
    else style.removeProperty(`--${name}-size`);
  },

  beginDivide(event, name) {
    const before = this.sizeOf(name).size;
    const own = this.sizes[name] ?? null;
    drag(event, {
      move: (moved) => this.resize(name, before + (name === "sheet" ? moved.clientX - event.clientX : event.clientY - moved.clientY)),
      back: () => this.resize(name, own),
    });
  },

  divideByKey(event, name) {
    const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key];
    if (!way || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    this.resize(name, this.sizeOf(name).size + way * PIXELS);
  },
});
