// Laying out a picture under the drawing: two points of it, their true distance, its place.
import { freeName } from "../sheet/rows.js";
import { written } from "../faceplate/turning.js";
import { dialog } from "../elements.js";

/** @type {Record<string, any>} */
const EMPTY = { file: "", name: "", line: null, width: 0, height: 0, points: [], distance: "1 m", x: "0 mm", y: "0 mm", turn: "0°", strength: 50 };

export const calibrating = () => ({
  needs: ["saving", "showing", "writing", "drawer"],

  layout: { ...EMPTY },
  layoutSaid: "",

  isPicture(file) {
    return /\.(png|jpe?g)$/i.test(file.name);
  },

  async openLayout(file) {
    if (!(await this.writing.keepDraft())) return;
    const row = this.showing.rows.find((one) => one.type === "file" && one.text.includes(`"${file.name}"`));
    const image = new Image();
    image.src = `${this.drawer.fileAddress(file)}?look`;
    await image.decode().catch(() => null);
    const { naturalWidth: width, naturalHeight: height } = image;
    this.layout = { ...EMPTY, file: file.name, address: image.src, name: row?.own ?? freeName(file.name.replace(/\.[^.]*$/, "") || "picture", this.showing.rows), line: row?.line ?? null, width, height, ...readLayout(row?.text ?? "") };
    this.layoutSaid = "";
    // HTML knows the attribute in lower case only, so it is set here.
    document.querySelector(".layout-picture").setAttribute("viewBox", `0 0 ${width || 1} ${height || 1}`);
    dialog("calibrate").showModal();
  },

  closeLayout() {
    dialog("calibrate").close();
  },

  // A third click begins anew.
  clickLayout(event) {
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect();
    const point = [((event.clientX - left) / width) * this.layout.width, ((event.clientY - top) / height) * this.layout.height];
    const kept = this.layout.points.length === 1 ? this.layout.points : [];
    this.layout = { ...this.layout, points: [...kept, point.map((one) => Math.round(one * 10) / 10)] };
  },

  setLayout(event) {
    const { name, value } = event.target;
    if (/^[xy]\d$/.test(name)) {
      const points = [0, 1].map((at) => [...(this.layout.points[at] ?? [0, 0])]);
      points[Number(name[1])][name[0] === "x" ? 0 : 1] = Number(value) || 0;
      this.layout = { ...this.layout, points };
    } else this.layout = { ...this.layout, [name]: value };
  },

  layoutFigure(at, axis) {
    return this.layout.points[at]?.[axis] ?? "";
  },

  get layoutMark() {
    const size = Math.max(this.layout.width, this.layout.height) / 60;
    const crosses = this.layout.points.map(([x, y]) => `M${x - size} ${y} H${x + size} M${x} ${y - size} V${y + size}`);
    const [a, b] = this.layout.points;
    return [...crosses, a && b ? `M${a.join(" ")} L${b.join(" ")}` : ""].join(" ");
  },

  get layoutText() {
    const { name, file, points, distance, x, y, turn, strength } = this.layout;
    if (points.length < 2) return "";
    const said = points.map(([px, py]) => `(${written(px, 0.1, 1)}, ${written(py, 0.1, 1)})`);
    return `file ${name} = "${file}" from ${said[0]} to ${said[1]} is ${distance} at (${x}, ${y}) turn ${turn} strength ${strength} %`;
  },

  async keepLayout() {
    if (!this.layoutText) return (this.layoutSaid = "Click two points whose distance is known.");
    const { line } = this.layout;
    const last = this.showing.rows.at(-1);
    const edit = line === null
      ? { edit: "insert", after: last ? last.line + last.height - 1 : 0, text: this.layoutText }
      : { edit: "replace", line, text: this.layoutText };
    if (await this.saving.change("edit", edit)) this.closeLayout();
    else this.layoutSaid = this.saving.complaint;
  },
});

// What a line says already, as far as it is written the plain way.
function readLayout(text) {
  const found = /from \(([^,]+),([^)]+)\) to \(([^,]+),([^)]+)\) is (.+?)(?= at | turn | strength |$)/.exec(text);
  if (!found) return {};
  const points = [[found[1], found[2]], [found[3], found[4]]].map((one) => one.map(Number));
  if (points.flat().some(Number.isNaN)) return {};
  const place = / at \(([^,]+),([^)]+)\)/.exec(text);
  const turn = / turn (.+?)(?= at | strength |$)/.exec(text);
  const strength = / strength ([\d.]+) ?%/.exec(text);
  return {
    points,
    distance: found[5].trim(),
    ...(place && { x: place[1].trim(), y: place[2].trim() }),
    ...(turn && { turn: turn[1].trim() }),
    ...(strength && { strength: Number(strength[1]) }),
  };
}

