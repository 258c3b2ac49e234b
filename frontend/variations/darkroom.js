// Small pictures of settings, drawn one after another by one renderer from where all are seen alike.
import { postForScene } from "../server.js";
import { painterName, sayNoPicture } from "../stage/painter.js";
import { EDGES } from "../stage/snapshot.js";
import { Stage } from "../stage/stage.js";
import { underWay } from "../workspace/settled.js";

const MOST_KEPT = 300;
const ROOM = 1.25; // more than the present setting needs

export class Darkroom {
  // `revision` tells of which one the pictures are.
  /** @param {HTMLElement} host  @param {string} address  @param {() => number | null} revision */
  constructor(host, address, revision) {
    this.host = host;
    this.address = `${address}variations/picture`;
    this.revision = revision;
    this.kept = new Map(); // by number, the newest last
    this.waiting = new Map(); // canvases that are to be drawn, by number
    this.run = 0;
    this.working = false;
    this.fitted = false;
    this.around = {}; // the setting whose frame all have
    this.frame = null;
    /** @type {Stage | null} */
    this.stage = null;
  }

  // A new run: what was drawn is forgotten. All pictures have the frame of the setting `around`, or each
  // its own where it is `fitted`.
  begin(around, fitted) {
    this.run += 1;
    this.kept.clear();
    this.waiting.clear();
    this.frame = null;
    Object.assign(this, { around, fitted });
  }

  draw(trial, canvas) {
    const known = this.kept.get(trial.number);
    if (known) return paint(known, canvas);
    this.waiting.set(trial.number, { trial, canvas });
    if (!this.working) this.#work();
    return undefined;
  }

  async #work() {
    this.working = true;
    underWay(1);
    try {
      while (this.waiting.size) {
        // The newest first: they are what is looked at now. What has left the page is passed over.
        const [number, { trial, canvas }] = [...this.waiting].at(-1);
        this.waiting.delete(number);
        if (canvas.isConnected) await this.#drawOne(trial, canvas, this.run);
      }
    } finally {
      this.working = false;
      underWay(-1);
    }
  }

  async #drawOne(trial, canvas, run) {
    try {
      if (painterName() === null) return sayNoPicture(canvas);
      this.stage ??= new Stage(this.host);
      if (!this.frame && !this.fitted) await this.#setFrame();
      await this.#apply(trial.settings);
      if (this.run !== run) return;
      const picture = document.createElement("canvas");
      Object.assign(picture, { width: this.stage.size.width, height: this.stage.size.height });
      if (this.fitted) this.stage.setView("axonometric");
      else this.stage.lookFrom(this.frame);
      this.stage.setEdges(EDGES);
      this.stage.drawNow();
      picture.getContext("2d").drawImage(this.stage.renderer.domElement, 0, 0, picture.width, picture.height);
      this.kept.set(trial.number, picture);
      if (this.kept.size > MOST_KEPT) this.kept.delete(this.kept.keys().next().value);
      paint(picture, canvas);
    } catch {
      canvas.dataset.drawn = "no"; // it is asked for again when it is seen again
    }
  }

  async #setFrame() {
    await this.#apply(this.around);
    this.stage.setView("axonometric");
    const frame = this.stage.viewpoint();
    this.frame = { ...frame, zoom: frame.zoom / ROOM };
  }

  async #apply(set) {
    const scene = await postForScene(this.address, { set, held: this.stage.heldShapes(), revision: this.revision() });
    this.stage.apply({ ...scene, dims: [], inputs: [], construction: [] });
  }
}

function paint(picture, canvas) {
  canvas.width = picture.width;
  canvas.height = picture.height;
  canvas.getContext("2d").drawImage(picture, 0, 0);
  canvas.dataset.drawn = "yes";
}
