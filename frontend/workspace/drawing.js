// The flat drawing: plan, front or side as lines, with its dims; and sheets of paper.
import { FlatDrawing } from "../stage/drawing.js";
import { saveFrom } from "./handover.js";
import { dialog, folded } from "../elements.js";

let flat = null;
let found = false; // whether the view of the drawing was chosen by where the parts lie

export const drawing = () => ({
  needs: ["study", "saving", "showing", "looking", "drawer"],

  drawn: false,
  drawnNames: false,
  drawingSaid: "",
  sheet: { format: "pdf", paper: "", upright: "", scale: "", view: "", names: "", key: "", author: "", preset: "", figures: "", dashed: "", schedule: "", checks: "", moments: "" },

  begin(state) {
    this.sheet.author = state.author ?? "";
    flat = new FlatDrawing(document.getElementById("drawing"), document.getElementById("stage"));
    window.ovolo.drawing = flat;
    flat.onScale = () => this.showing.refresh();
    flat.onPick = (name) => {
      const part = this.showing.parts.find((one) => one.name === name);
      if (part) this.drawer.jump(part.line);
    };
    flat.onPlace = (millimetres) => this.drawn && this.looking.showScale(millimetres);
  },

  toggleDrawing() {
    this.drawn = !this.drawn;
    if (!this.drawn) return this.looking.setView(this.looking.view);
    // The first time, it is seen in the plane in which the parts lie.
    found ||= this.looking.view !== "axonometric";
    this.drawAnew();
  },

  // What goes with the next request.
  drawingWanted() {
    if (!this.drawn) return null;
    const { hidden } = window.ovolo.stage;
    const view = found && this.looking.view !== "axonometric" ? this.looking.view : null;
    return { view, room: flat.room(), scale: flat.scale, names: this.drawnNames, hidden: [...hidden] };
  },

  takeDrawing(scene) {
    if (!this.drawn || !scene.drawing) return;
    this.drawingSaid = [scene.drawing.message, scene.drawing.hint].filter(Boolean).join(": ");
    if (this.drawingSaid) return;
    this.looking.view = scene.drawing.view;
    found = true;
    flat.show(scene.drawing, scene.underlays ?? [], this.study.address);
  },

  drawAnew() {
    flat.fit();
    this.showing.refresh();
  },

  toggleDrawnNames() {
    this.drawnNames = !this.drawnNames;
    this.drawAnew(); // what is written takes other room
  },

  // --- sheets of paper ---

  openSheet() {
    folded("hand-over").open = false;
    dialog("paper").showModal();
  },

  closeSheet() {
    dialog("paper").close();
  },

  setSheet(event) {
    const { name, type, checked, value } = event.target;
    this.sheet = { ...this.sheet, [name]: type === "checkbox" ? (checked ? "yes" : "") : value };
  },

  figuresOffered: ["plan", "front", "side", "axonometric", "section x"],

  addFigure(one) {
    const known = this.sheet.figures.split(";").map((each) => each.trim()).filter(Boolean);
    if (!known.includes(one)) this.sheet = { ...this.sheet, figures: [...known, one].join("; ") };
  },

  get sheetAddress() {
    const { format, ...layout } = this.sheet;
    const said = Object.entries(layout).filter(([, value]) => value);
    return this.saving.asSeen(`${this.study.address}hand-over/sheet/${this.fileTitle}.${format}?${new URLSearchParams(said)}`);
  },

  get fileTitle() {
    return this.saving.title.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, "-") || "sheet";
  },

  async takeSheet() {
    this.sheetSaid = "";
    await this.saving.rested();
    try {
      await saveFrom(this.sheetAddress, `${this.fileTitle}.${this.sheet.format}`);
      this.closeSheet();
    } catch (error) {
      this.sheetSaid = error.message;
    }
  },

  sheetSaid: "",
});
