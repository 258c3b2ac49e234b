// Looking: views, parts shown, ghosted or hidden, the cutting plane, dims and ground, items.
import Alpine from "../alpine.js";
import { SlideRule } from "../faceplate/slide-rule.js";
import { written } from "../faceplate/turning.js";
import { CutHandle } from "../stage/handle-sources.js";
import { NO_PICTURE } from "../stage/painter.js";
import { roundLength } from "../stage/round-lengths.js";
import { snapshot, turntable } from "../stage/snapshot.js";
import { turning } from "./faceplate.js";
import { Newest } from "../newest.js";
import { figureTyped } from "../typed.js";
import { saveAs } from "./handover.js";
import { edit } from "./edit.js";
import { keep, kept } from "./kept.js";
import { watched } from "./settled.js";

const DRAWN_VIEWS = ["plan", "front", "side"];
const FILM = 6; // seconds of a turn around
const MANY = 18; // lines of the list of parts
const PRESS = 4; // pixels the pointer may move in a click
const OPPOSITE = { front: "back", side: "left", plan: "below" };
const LOOKS = { notes: true, numbers: false, shade: null, wire: false, ground: true, datums: false, dimSize: 12, dimStrength: 100 };

const NUMBER_PAUSE = 300; // milliseconds

let cutRule = null;
let numbering = 0;
const numbered = new Newest();
const cards = new Newest();

export const looking = () => ({
  needs: ["saving", "asking", "showing", "writing", "faceplate", "measuring", "drawing", "drawer", "placing", "sketching"],

  view: "axonometric",
  views: ["Axonometric", "Plan", "Front", "Side"].map((label) => ({ label, name: label.toLowerCase() })),
  otherViews: ["Back", "Left", "Below"].map((label) => ({ label, name: label.toLowerCase() })),
  savedViews: [], // by name, with the place from where one looks
  viewName: "",
  pictureWidth: 1600,
  filming: false, // while a turn around is recorded
  scaleText: "",
  scaleStyle: { width: "0px" },
  groundText: "",
  looks: { ...LOOKS },
  showingLooks: false,
  cutting: false,
  cutAxis: "x",
  cutFlipped: false,
  card: null, // the item that was picked, with the values that made it
  cardStyle: {},
  hovered: null, // the line of the part under the pointer

  begin(state) {
    const { stage } = window.ovolo;
    this.looks = { ...LOOKS, ...kept(state.study, "looks", {}) };
    this.applyLooks();
    stage.onDraw = (scale) => !this.drawing.drawn && this.showScale(scale);
    stage.handles.onTurn = (name, value) => this.faceplate.turn(name, value);
    stage.handles.onSettle = (name, value) => this.faceplate.settle(name, value);
    stage.handles.onUnturn = (name, value) => this.faceplate.unturn(name, value);
    stage.handles.cornerStep = () => this.placing.placeStep();
    stage.handles.onCorner = (name, index, at) => this.sketching.moveCorner(name, index, at);
    stage.handles.onType = (name, typed, point = null) => this.saving.change("edit", edit({ edit: "set", name, typed, point }));
    this.listenToStage(stage.renderer.domElement);
    this.savedViews = kept(state.study, "views", []);
    new ResizeObserver(([{ contentRect }]) => {
      const beside = contentRect.width ? contentRect.width + 24 : 0;
      document.getElementById("stage-panels").style.setProperty("--beside", `${beside}px`);
      stage.keepFree({ beside });
    }).observe(document.getElementById("parts-shown"));
  },

  listenToStage(canvas) {
    let pressed = null;
    canvas.addEventListener("pointerdown", (event) => (pressed = event));
    canvas.addEventListener("pointerup", (event) => {
      const still = pressed && Math.hypot(event.clientX - pressed.clientX, event.clientY - pressed.clientY) < PRESS;
      if (still && event.button === 0) this.pick(event);
      pressed = null;
    });
    let asked = false;
    canvas.addEventListener("pointermove", (event) => {
      if (asked || event.buttons || window.ovolo.stage.picking.slow) return;
      asked = true;
      requestAnimationFrame(() => {
        asked = false;
        this.hoverStage(event);
      });
    });
    canvas.addEventListener("pointerleave", () => (this.hovered = null));
  },

  isView(view) {
    return this.view === view;
  },

  setView(view) {
    this.view = view;
    if (!DRAWN_VIEWS.includes(view)) this.drawing.drawn = false; // a drawing is flat, and of these only
    window.ovolo.stage.setView(view);
    if (this.drawing.drawn) this.drawing.drawAnew();
  },

  // The other way along the same axis.
  turnRound() {
    const [there] = Object.entries(OPPOSITE).find((pair) => pair.includes(this.view)) ?? [];
    if (there) this.setView(this.view === there ? OPPOSITE[there] : there);
  },

  typeViewName(event) {
    this.viewName = event.target.value;
  },

  saveView() {
    const name = this.viewName.trim();
    if (!name) return;
    this.keepViews([...this.savedViews.filter((one) => one.name !== name), { name, from: window.ovolo.stage.viewpoint() }]);
    this.viewName = "";
  },

  takeView(one) {
    this.drawing.drawn = false;
    window.ovolo.stage.lookFrom(JSON.parse(JSON.stringify(one.from)));
  },

  forgetView(one) {
    this.keepViews(this.savedViews.filter((other) => other.name !== one.name));
  },

  keepViews(views) {
    this.savedViews = views;
    keep("views", views);
  },

  setPictureWidth(event) {
    this.pictureWidth = Math.round(Math.min(Math.max(Number(event.target.value) || 0, 100), 8000));
    event.target.value = this.pictureWidth;
  },

  get turntableSaid() {
    return this.filming ? "Stop" : "Save a turn around (WebM)";
  },

  // Once around the parts, as a film; pressed again, it is given up.
  async saveTurntable() {
    if (this.filming) return (this.filming = false);
    if (!window.ovolo.stage.paints) return this.saving.complain(NO_PICTURE.message, NO_PICTURE.hint);
    this.filming = true;
    const film = await watched(() => turntable(window.ovolo.stage, FILM, () => {}, () => !this.filming));
    this.filming = false;
    if (film) saveAs(film, `${this.drawing.fileTitle}.webm`);
    return undefined;
  },

  async savePicture() {
    if (!window.ovolo.stage.paints) return this.saving.complain(NO_PICTURE.message, NO_PICTURE.hint);
    return saveAs(await snapshot(window.ovolo.stage, this.pictureWidth), `${this.drawing.fileTitle}.png`);
  },

  // --- numbers of items ---

  toggleNumbers() {
    this.setLook("numbers", !this.looks.numbers);
    this.numberItems();
  },

  // They follow the items at once; which they are is asked when the values rest.
  numberSoon() {
    clearTimeout(numbering);
    if (this.looks.numbers) numbering = setTimeout(() => this.numberItems(), NUMBER_PAUSE);
  },

  async numberItems() {
    const { numbers } = window.ovolo.stage;
    numbered.drop();
    if (!this.looks.numbers) return numbers.show(null);
    /** @type {import("../answers").NumbersSaid | null | undefined} */
    const found = await numbered.of(() => this.asking.answerTo("numbers", { set: { ...turning } }));
    if (found) numbers.show(found);
    return undefined;
  },

  fit() {
    this.setView(this.view);
  },

  // --- parts ---

  get manyParts() {
    return this.showing.parts.reduce((lines, part) => lines + 1 + part.legend.length, 0) > MANY;
  },

  togglePart(part) {
    part.shown = !part.shown; // the list is taken afresh with the next scene
    window.ovolo.stage.showPart(part.name, part.shown);
    if (this.drawing.drawn) this.showing.refresh();
  },

  toggleGhost(part) {
    part.ghost = !part.ghost;
    window.ovolo.stage.ghostPart(part.name, part.ghost);
  },

  swatch(colour) {
    return { background: colour };
  },

  // --- how it is drawn ---

  toggleLooks() {
    this.showingLooks = !this.showingLooks;
  },

  setLook(name, value) {
    this.looks = { ...this.looks, [name]: value };
    this.applyLooks();
    keep("looks", this.looks);
  },

  // Hollows are shaded where that costs nothing, as long as nobody has said otherwise.
  get isShaded() {
    return this.looks.shade ?? window.ovolo.stage.fineness.quick;
  },

  setDimSize(event) {
    this.setLook("dimSize", Number(event.target.value));
  },

  setDimStrength(event) {
    this.setLook("dimStrength", Number(event.target.value));
  },

  applyLooks() {
    const { stage } = window.ovolo;
    const { wire, ground, dimSize, dimStrength } = this.looks;
    stage.setWire(wire);
    stage.setShaded(this.isShaded);
    stage.showGround(ground);
    stage.dims.setStrength(dimStrength / 100);
    stage.host.style.setProperty("--dim-size", `${dimSize}px`);
    stage.host.style.setProperty("--dim-strength", `${dimStrength / 100}`);
    stage.dims.measureAnew();
    stage.draw();
  },

  toggleDatums() {
    this.setLook("datums", !this.looks.datums);
    this.showing.refresh();
  },

  // A scale bar of a length that is round in the unit of the study, from 50 pixels on.
  showScale(millimetres) {
    const { mm, said: scale } = roundLength(millimetres * 50, this.showing.lengthUnit);
    const { said } = window.ovolo.stage.ground;
    const grid = this.looks.ground && !this.drawing.drawn && said ? `grid ${said}` : "";
    const style = `${mm / millimetres}px`;
    if (scale !== this.scaleText) this.scaleText = scale;
    if (grid !== this.groundText) this.groundText = grid;
    if (style !== this.scaleStyle.width) this.scaleStyle = { width: style };
  },

  // --- the cutting plane ---

  toggleCut() {
    this.cutting = !this.cutting;
    this.drawing.drawn = false; // what is cut is seen on the stage
    if (this.cutting) Alpine.nextTick(() => this.cutAlong(this.cutAxis));
    else {
      window.ovolo.stage.cut.off();
      window.ovolo.stage.handles.showCut(null);
    }
  },

  cutAlong(axis) {
    this.cutAxis = axis;
    const { cut } = window.ovolo.stage;
    const [low, high] = cut.range(axis);
    this.cutFlipped = window.ovolo.stage.looksAlong(axis);
    cut.set(axis, (low + high) / 2, this.cutFlipped);
    this.mountCutRule(low, high);
    this.showCutHandle();
  },

  isCutAxis(axis) {
    return this.cutAxis === axis;
  },

  flipCut() {
    this.cutFlipped = !this.cutFlipped;
    const { cut } = window.ovolo.stage;
    cut.set(this.cutAxis, cut.at, this.cutFlipped);
  },

  cutAsInput(low, high, at) {
    const { symbol, size } = this.showing.lengthUnit;
    const step = 10 ** Math.floor(Math.log10(Math.max(high - low, size) / 200));
    const shown = (value) => written(Math.round(value / step) * step + 0, step, size);
    return { name: "cut", label: `Cut along ${this.cutAxis} at`, value: at, number: shown(at), unit: symbol, size, low, high, step, low_shown: shown(low), high_shown: shown(high) };
  },

  mountCutRule(low, high) {
    cutRule?.dispose();
    const { cut } = window.ovolo.stage;
    const input = this.cutAsInput(low, high, cut.at);
    const set = (at) => {
      cut.set(this.cutAxis, at);
      this.followCut();
    };
    cutRule = new SlideRule(document.getElementById("cut-rule"), input, {
      turned: set,
      settled: set,
      unturned: set,
      typed: (text) => {
        const value = figureTyped(text.replace(",", "."), input.unit) * input.size;
        if (Number.isFinite(value)) set(Math.min(Math.max(value, low), high));
        cutRule.show(this.cutAsInput(low, high, cut.at));
      },
      restore: () => set((low + high) / 2),
    });
  },

  showCutHandle() {
    const { stage } = window.ovolo;
    const [low, high] = stage.cut.range(this.cutAxis);
    const { step } = this.cutAsInput(low, high, stage.cut.at);
    stage.handles.showCut(new CutHandle(stage.cut, "The cutting plane", step, (at) => {
      stage.cut.set(this.cutAxis, at);
      this.followCut();
    }));
    stage.draw();
  },

  followCut() {
    const { cut, handles } = window.ovolo.stage;
    const [low, high] = cut.range(this.cutAxis);
    cutRule?.show(this.cutAsInput(low, high, cut.at));
    const handle = handles.handles.get("cut");
    if (handle) handle.source.value = cut.at;
  },

  // --- items ---

  // Marks the line of the part under the pointer.
  hoverStage(event) {
    if (this.measuring.on) return this.measuring.hover(event);
    const hit = window.ovolo.stage.picking.itemAt(event.clientX, event.clientY);
    const line = this.drawnPart(hit?.part)?.line ?? null;
    if (line !== this.hovered) this.hovered = line;
  },

  drawnPart(name) {
    return [...this.showing.parts, ...this.showing.loose].find((part) => part.name === name);
  },

  async pick(event) {
    if (this.measuring.on) return this.measuring.pickToMeasure(event);
    if (this.placing.isPlacing) return this.placing.placeHere(event);
    if (this.sketching.isSketching) return this.sketching.clickSketch(event);
    const { stage } = window.ovolo;
    const hit = stage.picking.itemAt(event.clientX, event.clientY);
    if (await this.placing.pickWith(event, hit)) return;
    stage.markItem(hit?.part ?? null, hit?.item);
    this.closeCardAt(hit);
    cards.drop();
    if (!hit) return;
    const box = stage.host.getBoundingClientRect();
    this.cardStyle = { left: `${Math.min(event.clientX - box.left + 14, box.width - 272)}px`, top: `${Math.min(event.clientY - box.top + 14, Math.max(box.height - 160, 0))}px` };
    await this.showCard(hit.part, hit.item, hit.point.toArray());
  },

  // Another item, or none, was picked.
  closeCardAt(hit) {
    this.card = null;
    if (!hit) this.placing.showPieceHandle();
  },

  // What is known of an item: its place in an array, the hole it was picked in, the values that made it;
  // of a placed piece the inputs of its study.
  async showCard(part, item, point = null) {
    const { stage } = window.ovolo;
    const drawn = this.drawnPart(part);
    if (!drawn) return this.closeCard();
    const { label, line } = drawn;
    /** @type {import("../answers").ItemSaid | null | undefined} */
    const found = await cards.of(() => this.asking.answerTo("item", { name: part, index: item, ...(point ? { point } : {}) }));
    if (found === undefined) return undefined;
    const hole = found?.hole ?? null;
    const piece = hole ? null : found?.piece ?? null;
    const place = hole?.place ?? found?.place ?? null;
    const title = hole ? `Hole in ${label}: ${hole.of}, item ${place.number}` : piece ? label : `${label}, item ${place?.number ?? item}`;
    if (hole) stage.markItem(null);
    const values = hole || piece ? [] : found?.values ?? [];
    this.card = { title, part, item, point, also: [], piece, values, line: hole ? this.showing.rows.find((row) => row.own === hole.of)?.line ?? line : line, place, gone: false };
    this.placing.showPieceHandle();
    return undefined;
  },

  // What is known of it once the study is another; a placed piece, and an item that was left out, say so themselves.
  followParts() {
    if (this.card && !this.card.piece && !this.card.gone) this.showCard(this.card.part, this.card.item, this.card.point);
  },

  // --- items left out of an array ---

  get cardPlace() {
    const place = this.card?.place;
    return place && place.column !== null ? `column ${place.column}, row ${place.row}` : "";
  },

  get leaveOutSaid() {
    return this.card?.gone ? "Bring it back (Delete)" : "Leave it out (Delete)";
  },

  // The item of the card is left out of its array, or comes back.
  async turnLeftOut() {
    const { card } = this;
    const turned = { ...card, gone: !card.gone }; // at once: another press turns it again
    this.card = turned;
    window.ovolo.stage.markItem(null);
    const kept = await this.skipItem(turned.gone ? "leave_out" : "bring_back", card.place.number);
    if (!kept && this.card?.title === card.title) this.card = card;
  },

  async bringBack(number) {
    if (await this.skipItem("bring_back", number)) this.closeCard();
  },

  async skipItem(kind, number) {
    const { line, word, count, columns } = this.card.place;
    return (await this.writing.keepDraft()) && this.saving.change("edit", edit({ edit: kind, name: line, word, number, count, columns }));
  },

  // What is repeated asks for this place from now on; its line is opened to say what differs.
  async letDiffer() {
    const { place } = this.card;
    const { line, word, number, count, columns } = place;
    if (!(await this.writing.keepDraft())) return;
    if (!(await this.saving.change("edit", edit({ edit: "let_differ", name: line, word, number, count, columns })))) return;
    this.closeCard();
    const row = this.showing.rows.find((one) => one.own === line);
    if (row) this.drawer.jump(row.line);
  },

  closeCard() {
    cards.drop();
    if (this.card?.also.length) window.ovolo.stage.mark([]);
    this.card = null;
    this.placing.showPieceHandle();
    window.ovolo.stage.markItem(null);
  },

  openCardLine() {
    this.drawer.jump(this.card.line);
  },
});
