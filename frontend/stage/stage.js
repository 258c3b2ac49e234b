// The picture of a study: parts as plaster, drawn on demand.
import * as THREE from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

import { stepOf } from "./coarse.js";
import { Construction } from "./construction.js";
import { Cut } from "./cut.js";
import { Depths } from "./depths.js";
import { Dims } from "./dims.js";
import { Fineness } from "./fineness.js";
import { Ground } from "./ground.js";
import { Handles } from "./handles.js";
import { Numbers } from "./numbers.js";
import { NO_PICTURE, painterFor } from "./painter.js";
import { walkByKeys } from "./walking.js";
import { Marks } from "./marks.js";
import { PartModel, ShapeStore } from "./parts.js";
import { Picking } from "./picking.js";
import { setSun } from "./plaster.js";
import { Underlays } from "./underlays.js";

const ABOVE = 40; // pixels with the names of the views
const BELOW = 36; // pixels with the scale
const REST = 350; // milliseconds without a new picture
const CELL = 2; // pixels of the picture within which all is drawn at one place, while things move
const COARSE = 0.5; // of the pixels each way are looked at for shade, where it is worked out in software

const DIRECTIONS = {
  axonometric: [-1, -1.35, 0.85],
  plan: [0, 0, 1],
  front: [0, -1, 0],
  side: [1, 0, 0],
  back: [0, 1, 0],
  left: [-1, 0, 0],
  below: [0, 0, -1],
};

export class Stage {
  constructor(host, { antialias = true, labels = host } = {}) {
    this.host = host;
    this.fineness = new Fineness({ smooth: antialias });
    const { painter, paints } = painterFor({ antialias: this.fineness.antialias, stencil: true });
    this.renderer = painter;
    this.paints = paints; // whether there is a picture to be seen
    this.renderer.setPixelRatio(this.fineness.ratio);
    this.renderer.localClippingEnabled = true;
    host.prepend(this.renderer.domElement);
    if (!paints) host.append(sayNoPicture());
    this.scene = new THREE.Scene();
    this.camera = new THREE.OrthographicCamera(-1, 1, 1, -1, -1e6, 1e6);
    this.camera.up.set(0, 0, 1);
    this.shapes = new ShapeStore();
    this.parts = new Map();
    this.hidden = new Set();
    this.ghosts = new Set();
    this.wire = false;
    this.depths = new Depths();
    this.tools = [];
    this.construction = this.#tool(new Construction(this));
    this.underlays = this.#tool(new Underlays(this));
    this.dims = this.#tool(new Dims(this, labels));
    this.ground = this.#tool(new Ground(this));
    this.handles = this.#tool(new Handles(this, labels));
    this.marks = this.#tool(new Marks(this));
    this.cut = this.#tool(new Cut(this));
    this.picking = this.#tool(new Picking(this));
    this.numbers = this.#tool(new Numbers(this, labels));
    this.shaded = false; // whether hollows are shaded
    this.view = "axonometric";
    this.beside = 0; // pixels at the right edge that are kept free
    this.above = 0; // and at the upper one
    walkByKeys(this);
    this.drawnFrames = 0;
    /** @type {((millimetresPerPixel: number) => void) | undefined} */
    this.onDraw = undefined; // after each picture
    // Its size in pixels, kept: asking the page for it at each picture lays it out anew each time.
    this.size = { width: 1, height: 1 };
    this.#control();
    this.#follow();
    this.setTheme();
  }

  // A tool is told what happens on the stage, by those of these methods that it has:
  //   theme(colour)         the colours of the page are others; `colour` gives one by its name
  //   take(scene, address)  a scene has come, and its parts are shown
  //   follow()              the parts have changed, or others of them are shown
  //   points()              asked for what is to be in view beside the parts
  //   place()               a picture was drawn: what is written over it goes to its place
  //   rest()                nothing moves any more, and there is time
  /**
   * @template T
   * @param {T} tool
   * @returns {T}
   */
  #tool(tool) {
    this.tools.push(tool);
    return tool;
  }

  #tell(what, ...told) {
    return this.tools.flatMap((tool) => tool[what]?.(...told) ?? []);
  }

  #control() {
    this.controls = new OrbitControls(this.camera, this.renderer.domElement);
    this.controls.enableDamping = false;
    this.controls.zoomToCursor = true;
    this.controls.addEventListener("change", () => {
      this.moved();
      this.draw();
    });
    this.controls.addEventListener("start", () => (this.touched = true));
  }

  #follow() {
    new ResizeObserver(() => this.#resize()).observe(this.host);
    matchMedia("(prefers-color-scheme: dark)").addEventListener("change", () => this.setTheme());
    this.#resize();
  }

  #resize() {
    const { clientWidth: width, clientHeight: height } = this.host;
    if (!width || !height) return;
    const wider = width / height / (this.size.width / this.size.height);
    this.size = { width, height };
    this.renderer.setSize(width, height, false);
    Object.assign(this.renderer.domElement.style, { width: "100%", height: "100%", display: "block" });
    this.camera.left *= wider;
    this.camera.right *= wider;
    this.camera.updateProjectionMatrix();
    if (!this.touched && !this.held) this.fit();
    this.draw();
  }

  setTheme() {
    const style = getComputedStyle(document.documentElement);
    const colour = (name) => new THREE.Color(style.getPropertyValue(name).trim());
    this.scene.background = colour("--color-stage");
    this.edgeColour = colour("--plaster-edge");
    this.indigo = colour("--color-indigo");
    for (const part of this.parts.values()) part.setColours(this.edgeColour, this.indigo);
    this.#tell("theme", colour);
    this.draw();
  }

  describe(said) {
    this.renderer.domElement.setAttribute("aria-label", said);
  }

  heldShapes() {
    return this.shapes.keys();
  }

  // Shows a scene. A part whose line fails for the moment keeps its last good picture, paled.
  /** @param {import("../page").Shown} scene */
  apply(scene, address = "") {
    this.shapes.add(scene.shapes ?? {});
    const failing = new Set(
      scene.lines
        .filter((line) => line.name && scene.outcomes?.[line.line]?.problems.length)
        .map((line) => line.name),
    );
    const loose = (scene.loose ?? []).map((part) => ({ ...part, loose: true }));
    const present = new Map([...(scene.parts ?? []), ...loose].map((part) => [part.name, part]));
    for (const [name, model] of this.parts) {
      if (present.has(name)) continue;
      if (failing.has(name)) model.pale(true);
      else this.#drop(name);
    }
    for (const [name, part] of present) this.#show(name, part);
    this.fineness.weigh([...this.parts.values()].reduce((sum, model) => sum + model.triangles, 0));
    this.#thin();
    const used = [...this.parts.values()].flatMap((model) => model.shapeKeys);
    this.#tell("take", scene, address);
    this.shapes.keepOnly([...used, ...this.construction.shapeKeys]);
    this.#tell("follow");
    this.#keepInView();
    this.draw();
  }

  // While a hand is down the view stays; it follows when the hand is lifted.
  hold() {
    this.held = true;
  }

  release() {
    this.held = false;
    this.#keepInView();
    this.draw();
  }

  // Fitted, as long as nobody has turned the view; else what has grown out of the frame is brought
  // back, seen from where one looks.
  #keepInView() {
    if (this.held) return;
    const box = this.bounds();
    if (!this.touched) {
      if (this.view) this.fit();
    } else if (this.seen && !this.seen.equals(box) && this.#isInView(this.seen) && !this.#isInView(box)) {
      const away = this.camera.position.clone().sub(this.controls.target);
      box.getCenter(this.controls.target);
      this.camera.position.copy(this.controls.target).add(away);
      this.camera.zoom = 1;
      this.camera.updateMatrixWorld();
      this.#frame(box);
      this.controls.update();
    }
    this.seen = box;
  }

  #isInView(box) {
    return corners(box).every((corner) => {
      const at = corner.project(this.camera);
      return Math.abs(at.x) <= 1 && Math.abs(at.y) <= 1;
    });
  }

  #show(name, part) {
    let model = this.parts.get(name);
    if (!model) {
      model = new PartModel(name, this.edgeColour, this.indigo, this.fineness.contours);
      model.group.visible = !this.hidden.has(name);
      this.parts.set(name, model);
      this.scene.add(model.group);
    }
    model.update(part, this.shapes);
    model.pale(Boolean(part.loose)); // what is no part yet
    model.ghost(this.ghosts.has(name));
    model.setWire(this.wire);
  }

  #drop(name) {
    const model = this.parts.get(name);
    if (!model) return;
    this.scene.remove(model.group);
    model.dispose();
    this.parts.delete(name);
  }

  bounds() {
    const box = new THREE.Box3();
    for (const model of this.parts.values()) {
      if (model.bounds && model.group.visible) box.union(model.bounds);
    }
    for (const point of this.#tell("points")) box.expandByPoint(point);
    if (box.isEmpty()) box.set(new THREE.Vector3(-500, -500, 0), new THREE.Vector3(500, 500, 500));
    return box;
  }

  visibleParts() {
    return [...this.parts.values()].filter((model) => model.group.visible);
  }

  showPart(name, visible) {
    if (visible) this.hidden.delete(name);
    else this.hidden.add(name);
    const model = this.parts.get(name);
    if (model) model.group.visible = visible;
    this.#tell("follow");
    this.draw();
  }

  ghostPart(name, ghost) {
    if (ghost) this.ghosts.add(name);
    else this.ghosts.delete(name);
    this.parts.get(name)?.ghost(ghost);
    this.draw();
  }

  setWire(wire) {
    this.wire = wire;
    for (const model of this.parts.values()) model.setWire(wire);
    this.draw();
  }

  // How strongly edges are drawn, from 0 to 1; as usual, where nothing is said.
  setEdges(strength = null) {
    for (const model of this.parts.values()) model.setEdges(strength);
  }

  // The light and the shadows of a direction to the sun, or as usual.
  setSun(direction) {
    const sun = direction ? new THREE.Vector3(...direction) : null;
    setSun(sun);
    this.ground.setSun(sun);
    this.#tell("follow");
    this.draw();
  }

  showGround(shown) {
    this.ground.setShown(shown);
    this.draw();
  }

  // Parts that are pointed at from the sheet or the faceplate.
  mark(names) {
    this.marks.parts(names);
    this.draw();
  }

  markItem(part, item) {
    this.marks.item(part, item);
    this.draw();
  }

  setView(view) {
    this.view = view;
    this.touched = false;
    this.fit();
    this.draw();
  }

  fit() {
    const box = this.bounds();
    const centre = box.getCenter(new THREE.Vector3());
    const radius = Math.max(box.getSize(new THREE.Vector3()).length() / 2, 1);
    const direction = new THREE.Vector3(...DIRECTIONS[this.view]).normalize();
    // Looking straight down or up, "up" on the screen is north.
    const upright = direction.z * direction.z < 0.99;
    this.camera.up.set(0, upright ? 0 : 1, upright ? 1 : 0);
    this.camera.position.copy(centre).addScaledVector(direction, 10 * radius);
    this.camera.zoom = 1;
    this.camera.near = -100 * radius;
    this.camera.far = 100 * radius;
    this.controls.target.copy(centre);
    this.camera.lookAt(centre);
    this.camera.updateMatrixWorld();
    this.#frame(box);
    this.controls.update();
  }

  // Sets the width of the picture so that all corners of the box are seen, with a margin.
  #frame(box) {
    const view = this.camera.matrixWorldInverse;
    let x = 0;
    let y = 0;
    for (const corner of corners(box)) {
      const point = corner.applyMatrix4(view);
      x = Math.max(x, Math.abs(point.x));
      y = Math.max(y, Math.abs(point.y));
    }
    const { width, height } = this.size;
    const right = Math.min(this.beside, width / 3);
    const top = Math.min(this.above, height / 2);
    const pixel = 2.32 * Math.max(y / (height - top), x / (width - right), 1 / height); // in mm
    const [across, up] = [((width - right) / 2) * pixel, ((height - top) / 2) * pixel];
    Object.assign(this.camera, { left: -across, right: across + right * pixel, top: up + top * pixel, bottom: -up });
    this.camera.updateProjectionMatrix();
  }

  // So many pixels at the right edge are taken by the list of parts, or at the upper one by what is
  // written into while one clicks, and kept free.
  keepFree({ beside = this.beside, above = this.above }) {
    if (beside === this.beside && above === this.above) return;
    Object.assign(this, { beside, above });
    if (!this.touched && !this.held) this.fit();
    this.draw();
  }

  // From where one looks, to come back to.
  viewpoint() {
    const { position, up, zoom, left, right, top, bottom } = this.camera;
    return { position: position.toArray(), up: up.toArray(), target: this.controls.target.toArray(), zoom, frame: [left, right, top, bottom] };
  }

  lookFrom({ position, up, target, zoom, frame }) {
    const { camera } = this;
    camera.position.fromArray(position);
    camera.up.fromArray(up);
    this.controls.target.fromArray(target);
    const [, , top, bottom] = frame;
    const aspect = this.size.width / this.size.height;
    const middle = (frame[0] + frame[1]) / 2;
    const across = ((top - bottom) / 2) * aspect;
    Object.assign(camera, { zoom, left: middle - across, right: middle + across, top, bottom });
    camera.lookAt(this.controls.target);
    camera.updateProjectionMatrix();
    this.touched = true;
    this.controls.update();
    this.draw();
  }

  // Something is being turned or dragged.
  moved() {
    this.fineness.moved(() => {
      this.#thin();
      this.draw();
    });
    if (this.pixel !== this.#pixel()) this.#thin(); // one zooms
  }

  // A picture that is kept is as fine as at rest, whatever moved just now.
  refine() {
    this.fineness.rests(() => this.#thin());
  }

  // As finely as there is time for.
  #thin() {
    const { ratio } = this.fineness;
    if (this.renderer.getPixelRatio() !== ratio) this.renderer.setPixelRatio(ratio); // it makes the canvas anew
    this.pixel = this.#pixel();
    for (const part of this.parts.values()) part.thin(this.fineness.share, this.fineness.isResting, this.pixel);
    this.ground.thin(this.fineness.isResting);
  }

  // How wide (mm) what is drawn as one place is; 0 where everything is drawn.
  #pixel() {
    const { drawsAll, ratio } = this.fineness;
    return drawsAll ? 0 : stepOf((CELL * this.millimetresPerPixel()) / ratio);
  }

  draw() {
    if (this.waiting) return;
    this.waiting = true;
    const pause = this.fineness.pauseAfter(this.drawnAt);
    if (pause > 0) setTimeout(() => requestAnimationFrame(() => this.drawNow()), pause);
    else requestAnimationFrame(() => this.drawNow());
  }

  drawNow() {
    this.waiting = false;
    const began = performance.now();
    this.render(this.fineness.quick);
    this.#tell("place");
    this.drawnFrames += 1;
    this.drawnAt = performance.now();
    this.drawingTime = this.drawnAt - began;
    this.onDraw?.(this.millimetresPerPixel());
    clearTimeout(this.resting);
    this.resting = setTimeout(() => this.#rested(), REST);
  }

  // The picture on the canvas, in the size that this has now; with shade in hollows where that is
  // wanted and there is time for it.
  render(timely = true) {
    this.renderer.render(this.scene, this.camera);
    if (this.shaded && timely) this.depths.shadeHollows(this, this.fineness.quick ? 1 : COARSE);
  }

  // What takes longer is done once nothing moves any more.
  #rested() {
    if (this.held || this.waiting || !this.fineness.isResting) return;
    this.#tell("rest");
    if (this.shaded && !this.fineness.quick) this.render();
  }

  setShaded(shaded) {
    this.shaded = shaded;
    this.draw();
  }

  // Where nothing else is written, in pixels: the views above, the scale below, the list of parts beside.
  freeFrame() {
    const { width, height } = this.size;
    return { left: 4, top: ABOVE, right: width - Math.max(this.beside, 4), bottom: height - BELOW };
  }

  // How large all parts are together: the diagonal of their bounds, in mm.
  partsSize() {
    const box = new THREE.Box3();
    for (const model of this.visibleParts()) if (model.bounds) box.union(model.bounds);
    return box.isEmpty() ? 1 : box.getSize(new THREE.Vector3()).length();
  }

  // Whether one looks the way of an axis, and not against it.
  looksAlong(axis) {
    return this.camera.getWorldDirection(new THREE.Vector3())[axis] > 0;
  }

  // Where a point in space is on the host element, in pixels.
  onScreen(point) {
    const at = point.clone().project(this.camera);
    return { x: ((at.x + 1) / 2) * this.size.width, y: ((1 - at.y) / 2) * this.size.height };
  }

  // The ray under a place of the window.
  rayAt(clientX, clientY) {
    const { left, top, width, height } = this.host.getBoundingClientRect();
    const place = new THREE.Vector2(((clientX - left) / width) * 2 - 1, 1 - ((clientY - top) / height) * 2);
    const raycaster = new THREE.Raycaster();
    raycaster.setFromCamera(place, this.camera);
    raycaster.ray.origin.addScaledVector(raycaster.ray.direction, this.camera.near);
    return raycaster;
  }

  millimetresPerPixel() {
    const { camera } = this;
    return (camera.top - camera.bottom) / camera.zoom / this.size.height;
  }

  // What the stage shows, read back from its own scene.
  report() {
    return [...this.parts.values()].map((model) => model.report());
  }
}

function sayNoPicture() {
  const said = document.createElement("p");
  said.className = "no-picture";
  said.textContent = `${NO_PICTURE.message}: ${NO_PICTURE.hint}.`;
  return said;
}

function corners(box) {
  return [0, 1, 2, 3, 4, 5, 6, 7].map((corner) => new THREE.Vector3(corner & 1 ? box.max.x : box.min.x, corner & 2 ? box.max.y : box.min.y, corner & 4 ? box.max.z : box.min.z));
}
