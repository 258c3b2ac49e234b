// The flat drawing over the stage: SVG as the server lays it out, moved and enlarged by hand.
import { drag } from "../dragging.js";

const PIXELS_PER_MM = 96 / 25.4;
const SVG = "http://www.w3.org/2000/svg";
const EDGE = [6, 16]; // mm kept free at either side, and above and below
const ZOOM_PAUSE = 160; // milliseconds without turning the wheel, then it is drawn anew at that size

export class FlatDrawing {
  // `ground` is the element it covers; it has its size even while the drawing is not shown.
  constructor(host, ground) {
    this.host = host;
    this.ground = ground;
    this.on = false;
    this.drawing = null;
    this.middle = [0, 0]; // the middle of the host, in mm of the study
    this.scale = null; // mm of paper for a mm as it is seen now; null: as fits
    this.onScale = () => {}; // called when it wants to be drawn at another scale
    /** @type {(name: string) => void} */
    this.onPick = () => {}; // called with the name of the part that was clicked
    /** @type {((millimetres: number) => void) | undefined} */
    this.onPlace = undefined; // called with the mm of the study in a pixel, where it is laid anew
    host.addEventListener("wheel", (event) => this.#wheel(event), { passive: false });
    host.addEventListener("pointerdown", (event) => this.#drag(event));
    host.addEventListener("keydown", (event) => this.#key(event));
    new ResizeObserver(() => this.#place()).observe(host);
  }

  #size() {
    return [this.ground.clientWidth / PIXELS_PER_MM, this.ground.clientHeight / PIXELS_PER_MM];
  }

  // The size in mm of paper that a drawing has beside the words at the edges.
  room() {
    const [width, height] = this.#size();
    return [width - 2 * EDGE[0], height - 2 * EDGE[1]];
  }

  fit() {
    this.scale = null;
  }

  show(drawing, underlays, address) {
    this.drawing = drawing;
    const parsed = new DOMParser().parseFromString(drawing.svg, "image/svg+xml").documentElement;
    const svg = document.importNode(parsed, true);
    svg.setAttribute("role", "img");
    this.svg = svg;
    if (drawing.view === "plan") svg.prepend(...underlays.map((one) => this.#underlay(one, address)));
    this.host.replaceChildren(svg);
    if (this.scale === null) {
      this.scale = drawing.scale;
      this.middle = drawing.low.map((low, axis) => (low + drawing.size[axis] / 2) / drawing.scale);
    }
    this.#place();
  }

  // A picture under the drawing; its corners are those of the study, turned to the page.
  #underlay({ file, digest, size, corners, strength }, address) {
    const image = document.createElementNS(SVG, "image");
    const [lowerLeft, , upperRight, upperLeft] = corners.map(([x, y]) => [x * this.drawing.scale, -y * this.drawing.scale]);
    const [width, height] = size;
    const across = [(upperRight[0] - upperLeft[0]) / width, (upperRight[1] - upperLeft[1]) / width];
    const down = [(lowerLeft[0] - upperLeft[0]) / height, (lowerLeft[1] - upperLeft[1]) / height];
    image.setAttribute("transform", `matrix(${[...across, ...down, ...upperLeft].join(" ")})`);
    image.setAttribute("width", width);
    image.setAttribute("height", height);
    image.setAttribute("opacity", strength);
    image.setAttribute("href", `${address}files/${encodeURIComponent(file)}?look&${digest}`);
    return image;
  }

  // Lays the drawing so that its middle is where it should be; between two drawings it is only
  // enlarged.
  #place() {
    if (!this.svg || this.scale === null) return;
    const grown = this.scale / this.drawing.scale;
    const [width, height] = this.#size().map((side) => side / grown);
    const [x, y] = this.middle.map((one) => one * this.drawing.scale);
    this.svg.setAttribute("viewBox", `${x - width / 2} ${-y - height / 2} ${width} ${height}`);
    this.svg.setAttribute("width", this.ground.clientWidth);
    this.svg.setAttribute("height", this.ground.clientHeight);
    this.onPlace?.(1 / (this.scale * PIXELS_PER_MM));
  }

  // mm of the study to the right of and above the middle, of a place of the window.
  #fromMiddle({ clientX, clientY }) {
    const { left, top, width, height } = this.host.getBoundingClientRect();
    const size = this.scale * PIXELS_PER_MM;
    return [(clientX - left - width / 2) / size, -(clientY - top - height / 2) / size];
  }

  #wheel(event) {
    event.preventDefault();
    this.zoom(1.2 ** (-event.deltaY / 100), event);
  }

  // What lies under the pointer stays there.
  zoom(factor, event) {
    if (this.scale === null) return;
    const before = event ? this.#fromMiddle(event) : [0, 0];
    this.scale *= factor;
    const after = event ? this.#fromMiddle(event) : [0, 0];
    this.middle = this.middle.map((one, axis) => one + before[axis] - after[axis]);
    this.#place();
    clearTimeout(this.pausing);
    this.pausing = setTimeout(() => this.onScale(), ZOOM_PAUSE);
  }

  #drag(event) {
    if (this.scale === null) return;
    const begun = this.middle;
    const size = this.scale * PIXELS_PER_MM;
    let moved = 0;
    const move = (now) => {
      const by = [now.clientX - event.clientX, now.clientY - event.clientY];
      moved = Math.max(moved, Math.hypot(...by));
      this.middle = [begun[0] - by[0] / size, begun[1] + by[1] / size];
      this.#place();
    };
    const back = () => {
      this.middle = begun;
      this.#place();
    };
    drag(event, { move, drop: () => moved < 4 && this.#pick(event), back });
  }

  #pick(event) {
    const name = event.target.closest?.("g[id]")?.id;
    if (name && name !== "dims") this.onPick(name);
  }

  #key(event) {
    const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
    if (event.key in ways && this.scale !== null) {
      const step = this.host.clientWidth / 20 / (this.scale * PIXELS_PER_MM);
      this.middle = this.middle.map((one, axis) => one + step * ways[event.key][axis]);
      this.#place();
    } else if (event.key === "+") this.zoom(1.2);
    else if (event.key === "-") this.zoom(1 / 1.2);
    else return;
    event.preventDefault();
  }
}
