// How finely the picture is drawn. Where it is drawn in software, which costs time, it is drawn
// plainly while things move, and smoothly (at twice the size, shrunk by the browser) once they rest.
// While they move, too, what falls into few pixels is drawn at one place, and of very many triangles only a share of the
// copies.

import { painterName } from "./painter.js";

const REST = 800; // milliseconds without a move
const APART = 150; // milliseconds from picture to picture while things move
const MOST_MOVING = 60_000; // triangles drawn while things move
const HEAVY = 400_000; // triangles that are not drawn smoothly even at rest

function drawnInSoftware() {
  return /swiftshader|llvmpipe|software|basic render/i.test(painterName() ?? "");
}

export class Fineness {
  constructor({ smooth }) {
    this.contours = smooth;
    this.software = smooth && drawnInSoftware();
    this.quick = smooth && !this.software; // whether what is fine costs next to nothing
    this.antialias = this.quick;
    const plain = smooth ? Math.min(devicePixelRatio, 2) : 1;
    this.moving = this.software ? 0.5 : plain;
    this.resting = this.software ? 2 : plain;
    this.ratio = this.resting;
  }

  // Takes account of how much there is to draw.
  weigh(triangles) {
    this.triangles = triangles;
    if (!this.software) return;
    const { isResting } = this;
    this.resting = triangles > HEAVY ? 1 : 2;
    if (isResting) this.ratio = this.resting;
  }

  // Whether there is time for all there is to draw.
  get isResting() {
    return this.ratio === this.resting;
  }

  // Whether what is small on the screen is drawn, too.
  get drawsAll() {
    return !this.software || this.isResting;
  }

  // What share of many copies is drawn for the moment.
  get share() {
    if (this.drawsAll) return 1;
    return Math.min(1, MOST_MOVING / Math.max(this.triangles ?? 0, 1));
  }

  // How many milliseconds the next picture may wait, so that drawing in software leaves time for
  // what is asked of the server meanwhile.
  pauseAfter(drawnAt = 0) {
    return this.ratio === this.resting ? 0 : drawnAt + APART - performance.now();
  }

  // Something moves: draws plainly until it rests; `changed` is called at both ends.
  moved(changed) {
    if (this.moving === this.resting) return;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.#to(this.resting, changed), REST);
    this.#to(this.moving, changed);
  }

  // It need not wait any longer.
  rests(changed) {
    clearTimeout(this.timer);
    this.#to(this.resting, changed);
  }

  #to(ratio, changed) {
    if (this.ratio === ratio) return;
    this.ratio = ratio;
    changed();
  }
}
