// Placing studies: one is chosen and put where one clicks; a piece that was picked has the inputs of its
// study on its card, and is moved, turned and copied where it stands. All of it is written into its line.
import * as THREE from "three";

import { InTurn } from "../newest.js";
import { PieceHandle, TurnHandle } from "../stage/handle-sources.js";
import { figureTyped } from "../typed.js";
import { edit } from "./edit.js";

const TARGET = 6; // pixels for one step of a place
const TURN_REACH = 0.6; // of the diagonal of a piece in plan, at which it is turned
const LEAST_FACING = 0.02; // of a ray, towards a plane that one points into
const COPY = 0.1; // of the picture, by which a copy stands beside

const turns = new InTurn();

export const placing = () => ({
  needs: ["saving", "asking", "showing", "writing", "looking", "sketching"],

  placingTitle: "", // the study that is being placed
  placingOn: "ground", // or the "face" of a part that is clicked

  get isPlacing() {
    return this.placingTitle !== "";
  },

  beginPlacing(other) {
    this.placingTitle = other.title;
    this.looking.closeCard();
    this.placingOn = "ground";
    this.looking.setView("plan");
    this.sketching.keepStripFree();
    window.ovolo.stage.host.classList.add("measuring");
  },

  end() {
    this.placingTitle = "";
    this.sketching.keepStripFree();
    window.ovolo.stage.host.classList.remove("measuring");
  },

  setPlacingOn(where) {
    this.placingOn = where;
    if (where === "face" && this.looking.view === "plan") this.looking.setView("axonometric");
  },

  // Where one clicks, { at }: at a corner or a datum that is near, else on the ground, on a round step; from
  // the front and from the side in the upright plane through the origin.
  placeUnder(event) {
    if (this.placingOn === "face") return this.faceUnder(event);
    const { stage } = window.ovolo;
    const away = { front: "y", back: "y", side: "x", left: "x" }[this.looking.view] ?? "z";
    const corner = stage.picking.cornerAt(event.clientX, event.clientY);
    const lies = (axis) => axis === away && this.looking.view !== "axonometric"; // in plan it stands on the ground
    if (corner) return { at: corner.map((one, at) => (lies("xyz"[at]) ? 0 : Number(one.toPrecision(9)))) };
    const at = this.inPlane(event, away);
    return at && { at };
  },

  // Where one points in the plane through the origin that faces an axis, on a round step; null, with a complaint,
  // where it is seen from its edge: what is hit there is far away, and a hair beside it further.
  inPlane(event, away) {
    const { ray } = window.ovolo.stage.rayAt(event.clientX, event.clientY);
    const normal = new THREE.Vector3();
    normal[away] = 1;
    const met = Math.abs(ray.direction[away]) > LEAST_FACING && ray.intersectPlane(new THREE.Plane(normal, 0), new THREE.Vector3());
    if (met) return met.toArray().map((one, at) => ("xyz"[at] === away ? 0 : this.onStep(one)));
    if (event.type !== "pointermove") this.saving.complain("the plane is seen from its edge", "turn the picture until it faces you");
    return null;
  },

  // The face of a part that one clicks, { at, facing, on }: at a corner or a middle that is near, else along
  // the axes in which it lies on a round step.
  faceUnder(event) {
    const { picking } = window.ovolo.stage;
    const hit = picking.itemAt(event.clientX, event.clientY);
    if (!hit) return this.saving.complain("there is no face of a part", "click a flat face, or a surface");
    const facing = picking.facingOf(hit);
    const near = picking.cornerAt(event.clientX, event.clientY) ?? picking.middleAt(event.clientX, event.clientY);
    const lies = (axis) => Math.abs(facing?.[axis] ?? 0) < 1e-6;
    const exact = (value) => Number(value.toPrecision(7));
    const at = near ? near.map(exact) : ["x", "y", "z"].map((axis) => (lies(axis) ? this.onStep(hit.point[axis]) : exact(hit.point[axis])));
    return { at, facing: facing?.toArray() ?? null, on: hit.part };
  },

  // A round figure in the unit that lengths are shown in.
  onStep(value) {
    const step = this.placeStep();
    const { size } = this.showing.lengthUnit;
    return Number(((Math.round(value / step) * step) / size).toPrecision(9)) * size;
  },

  placeStep() {
    const { size } = this.showing.lengthUnit;
    return size * 10 ** Math.floor(Math.log10(Math.max((TARGET * window.ovolo.stage.millimetresPerPixel()) / size, 0.001)));
  },

  placeHere(event) {
    const under = this.placeUnder(event);
    return under && this.place(under);
  },

  // Once: what is clicked while the first is on its way is meant for the same.
  place(under) {
    return turns.run(async () => {
      if (!this.isPlacing || !(await this.writing.keepDraft())) return;
      if (await this.saving.change("edit", edit({ edit: "place_study", title: this.placingTitle, ...under }))) this.end();
    });
  },

  placeTyped(event) {
    const { symbol, size } = this.showing.lengthUnit;
    const figures = event.target.value.split(/[;,]/).map((one) => figureTyped(one, symbol) * size);
    if (figures.length < 2 || figures.length > 3 || !figures.every(Number.isFinite)) return this.saving.complain("two or three figures are wanted", `for example 2, 3.5 (in ${symbol})`);
    return this.place({ at: [...figures, 0].slice(0, 3) });
  },

  get placingSaid() {
    if (this.placingOn === "face") return `Click the face of a part on which “${this.placingTitle}” is to lie, its z away from it; corners and middles draw it to them.`;
    return `Click where “${this.placingTitle}” is to stand; corners and datums draw it to them. Or type x, y in ${this.showing.lengthUnit.symbol}:`;
  },

  // --- a piece that was picked ---

  get piece() {
    return this.looking.card?.piece ?? null;
  },

  ownClass(input) {
    return input.own === null ? "piece-value pale" : "piece-value";
  },

  shownOf(input) {
    return input.own ?? input.value;
  },

  async setPieceInput(input, event) {
    const typed = event.target.value.trim();
    if (!typed || typed === this.shownOf(input)) return;
    await this.changePiece({ edit: "piece_input", name: this.looking.card.part, also: this.looking.card.also, argument: input.name, typed });
  },

  asInStudy(input) {
    return this.changePiece({ edit: "piece_input", name: this.looking.card.part, also: this.looking.card.also, argument: input.name, typed: null });
  },

  async changePiece(one) {
    const { card } = this.looking;
    if (!(await this.writing.keepDraft()) || !(await this.saving.change("edit", edit(one)))) return false;
    if (this.looking.card === card || this.looking.card?.part === card.part) {
      await this.looking.showCard(card.part, card.item);
      if (card.also.length) this.alsoPick(card.also);
    }
    return true;
  },

  // Pieces of the same study picked with Shift: what is typed is set for all.
  alsoPick(names) {
    const title = [this.looking.card.part, ...names].map((name) => this.looking.drawnPart(name)?.label ?? name).join(", ");
    this.looking.card = { ...this.looking.card, also: names, title };
    window.ovolo.stage.mark([this.looking.card.part, ...names]);
    window.ovolo.stage.handles.showPiece(null);
  },

  // True where the pick went to the pieces that are picked already.
  async pickWith(event, hit) {
    const { card } = this.looking;
    if (!event.shiftKey || !card?.piece || !hit || hit.part === card.part) return false;
    /** @type {import("../answers").ItemSaid | null} */
    const found = await this.asking.answerTo("item", { name: hit.part, index: hit.item });
    const { card: now } = this.looking;
    if (now?.part !== card.part) return true; // something else was picked meanwhile
    if (found?.piece?.title !== card.piece.title) return false;
    this.alsoPick(now.also.includes(hit.part) ? now.also.filter((name) => name !== hit.part) : [...now.also, hit.part]);
    return true;
  },

  turnTyped(event) {
    const typed = event.target.value.trim();
    event.target.value = "";
    return typed ? this.changePiece({ edit: "move_piece", name: this.looking.card.part, typed }) : undefined;
  },

  async copyPiece() {
    const { stage } = window.ovolo;
    const step = this.onStep(COPY * stage.size.width * stage.millimetresPerPixel());
    if (!(await this.writing.keepDraft())) return;
    if (await this.saving.change("edit", edit({ edit: "copy_piece", name: this.looking.card.part, by: [step, 0, 0] }))) this.looking.closeCard();
  },

  // A handle where it stands, while its card is open.
  showPieceHandle() {
    const { stage } = window.ovolo;
    const { card } = this.looking;
    const model = card && stage.parts.get(card.part);
    if (!card?.piece?.place || !model) return stage.handles.showPiece(null);
    const { symbol, size } = this.showing.lengthUnit;
    const from = [...card.piece.place];
    const by = (value) => value.map((one, at) => one - from[at]);
    stage.handles.showPiece(
      new PieceHandle({ name: card.part, label: card.title, value: from, unit: symbol, size, step: this.placeStep() }, {
        turn: (value) => {
          model.group.position.set(...by(value));
          stage.draw();
        },
        settle: async (value) => {
          const moved = await this.changePiece({ edit: "move_piece", name: card.part, by: by(value) });
          model.group.position.set(0, 0, 0);
          if (!moved) this.showPieceHandle();
          stage.draw();
        },
      }),
      card.piece.level ? this.turnHandle(model, from) : null,
    );
    stage.draw();
    return undefined;
  },

  turnHandle(model, centre) {
    const { stage } = window.ovolo;
    const { card } = this.looking;
    const size = model.bounds.getSize(new THREE.Vector3());
    const turned = (angle) => {
      const here = new THREE.Vector3(...centre);
      model.group.rotation.z = angle;
      model.group.position.copy(here).sub(here.clone().applyAxisAngle(new THREE.Vector3(0, 0, 1), angle));
      stage.draw();
    };
    const settle = async (typed) => {
      const done = await this.changePiece({ edit: "move_piece", name: card.part, typed });
      turned(0);
      model.group.position.set(0, 0, 0);
      if (!done) this.showPieceHandle();
    };
    return new TurnHandle({ name: card.part, label: card.title, centre, reach: TURN_REACH * Math.hypot(size.x, size.y) }, {
      turn: turned,
      settle: (angle) => settle(`${Math.round((angle * 180) / Math.PI)}°`),
      typed: settle,
    });
  },
});
