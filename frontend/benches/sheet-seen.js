// What is seen of a sheet: its pieces with their marks, the way of the tool, what was measured; larger by the
// wheel, moved by dragging.
import { drag } from "../dragging.js";
import { cut } from "./cutting.js";

const SVG = "http://www.w3.org/2000/svg";
const RIM = 0.03;

function svg(name, attributes = {}, text = "") {
  const node = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) node.setAttribute(key, String(value));
  if (text) node.textContent = text;
  return node;
}

export const sheetSeen = () => ({
  needs: ["making"],

  view: "Sheets",
  views: ["Sheets", "Bars"],
  box: null,

  begin() {
    const host = document.getElementById("cut-sheet");
    host.addEventListener("pointerdown", (event) => {
      const before = this.box;
      const show = (box) => {
        this.box = box;
        this.showBox();
      };
      const move = (_, by) => {
        const [x, y, width, height] = this.box;
        const scale = width / host.clientWidth;
        show([x - by[0] * scale, y - by[1] * scale, width, height]);
      };
      if (before) drag(event, { move, back: () => show(before) });
    });
    host.addEventListener(
      "wheel",
      (event) => {
        if (!this.box) return;
        event.preventDefault();
        const { left, top, width, height } = host.getBoundingClientRect();
        const [u, v] = [(event.clientX - left) / width, (event.clientY - top) / height];
        const grow = Math.min(Math.max(1.0015 ** event.deltaY, 0.2), 5);
        const [x, y, w, h] = this.box;
        this.box = [x + u * w * (1 - grow), y + v * h * (1 - grow), w * grow, h * grow];
        this.showBox();
      },
      { passive: false },
    );
    new ResizeObserver(() => this.fit()).observe(host);
  },

  isView(one) {
    return this.view === one;
  },

  setView(one) {
    this.view = one;
    if (one === "Sheets") requestAnimationFrame(() => this.fit());
  },

  get sheetNumbers() {
    return Array.from({ length: this.making.count }, (_, at) => at);
  },

  setSheet({ target }) {
    this.making.sheet = Number(target.value);
    this.fit();
  },

  // All of the sheet, in a box of the window's shape.
  fit() {
    const host = document.getElementById("cut-sheet");
    if (!cut.plan || !host.clientWidth) return this.drawSheet();
    const { width, height } = cut.plan;
    const shape = host.clientWidth / host.clientHeight;
    const rim = RIM * Math.max(width, height);
    const high = Math.max(height + 2 * rim, (width + 2 * rim) / shape);
    const wide = high * shape;
    this.box = [width / 2 - wide / 2, -height / 2 - high / 2, wide, high];
    this.drawSheet();
  },

  showBox() {
    document.querySelector("#cut-sheet svg")?.setAttribute("viewBox", this.box.join(" "));
  },

  drawSheet() {
    const host = document.getElementById("cut-sheet");
    host.replaceChildren();
    if (!cut.plan || !this.box) return;
    const { width, height, margin, sheets } = cut.plan;
    const sheet = sheets[this.making.sheet];
    const body = svg("svg", { viewBox: this.box.join(" "), role: "img", "aria-label": `Sheet ${this.making.sheet + 1}: ${sheet.pieces.length} pieces` });
    body.append(svg("rect", { class: "stock", x: 0, y: -height, width, height }));
    body.append(svg("rect", { class: "margin", x: margin, y: margin - height, width: width - 2 * margin, height: height - 2 * margin }));
    if (sheet.remnant > 0) body.append(svg("rect", { class: "remnant", x: width - sheet.remnant, y: -height, width: sheet.remnant, height }));
    const measured = new Map((cut.measured.get(this.making.sheet)?.pieces ?? []).map((one) => [one.laid, one]));
    for (const piece of sheet.pieces) {
      const found = measured.get(piece.laid);
      const kind = !found ? "" : (found.free || found.held) && found.off <= 0.01 ? " well" : " amiss";
      const node = svg("path", { class: `piece${kind}`, d: piece.path, "fill-rule": "evenodd" });
      node.append(svg("title", {}, `${piece.mark} ${piece.label}`));
      body.append(node);
    }
    this.drawTool(body, sheet);
    const letters = Math.max(width, height) / 75;
    for (const { mark, middle } of sheet.pieces) body.append(svg("text", { x: middle[0], y: letters * 0.36 - middle[1], "font-size": letters }, mark));
    host.append(body);
  },

  drawTool(body, sheet) {
    let ways = "";
    let travel = "M0 0";
    for (const { lead, start, end, paths } of sheet.cuts) {
      travel += `L${start[0]} ${-start[1]}M${end[0]} ${-end[1]}`;
      if (lead) ways += `M${lead[0]} ${-lead[1]}L${lead[2]} ${-lead[3]}`;
      ways += paths.join(" ");
    }
    body.append(svg("path", { class: "travel", d: travel }), svg("path", { class: "way", d: ways || "M0 0" }));
  },
});
