// Who paints the picture in space. Where the browser cannot (WebGL is off, or not there), nobody does, and all else
// of the stage works as ever: parts are there to be measured, picked and shown on a drawing.
import * as THREE from "three";

export const NO_PICTURE = {
  message: "This browser paints no pictures in space",
  hint: "WebGL is off, or not there; sheet, numbers and Drawing work without it",
};

const IN_SHORT = ["No pictures in space:", "WebGL is off, or not there"];
const LETTERS = 12; // pixels

// Said in the place of a small picture.
/** @param {HTMLCanvasElement} canvas */
export function sayNoPicture(canvas) {
  const { color, fontFamily } = getComputedStyle(canvas);
  const ratio = 2; // to be sharp on any screen
  Object.assign(canvas, { width: canvas.clientWidth * ratio, height: canvas.clientHeight * ratio });
  const pen = canvas.getContext("2d");
  pen.scale(ratio, ratio);
  Object.assign(pen, { fillStyle: color, font: `${LETTERS}px ${fontFamily}`, textAlign: "center", textBaseline: "middle" });
  IN_SHORT.forEach((line, at) => {
    pen.fillText(line, canvas.clientWidth / 2, canvas.clientHeight / 2 + (at - 0.5) * 1.5 * LETTERS);
  });
  canvas.setAttribute("role", "img");
  canvas.setAttribute("aria-label", IN_SHORT.join(" "));
  canvas.dataset.drawn = "said";
}

class Nobody {
  constructor() {
    this.domElement = document.createElement("canvas");
    this.ratio = 1;
  }

  // A picture would leave all places worked out, by which one picks and measures.
  render(scene, camera) {
    scene.updateMatrixWorld();
    camera.updateMatrixWorld();
  }

  setSize(width, height) {
    Object.assign(this.domElement, { width: width * this.ratio, height: height * this.ratio });
  }

  getDrawingBufferSize(size) {
    return size.set(this.domElement.width, this.domElement.height);
  }

  setPixelRatio(ratio) {
    this.ratio = ratio;
  }

  getPixelRatio() {
    return this.ratio;
  }

  setRenderTarget() {}

  readRenderTargetPixels() {}

  clear() {}

  dispose() {}
}

let found; // the name of who paints, once it was looked for

// Who paints in this browser: a name, empty where it tells none; null where nobody does.
/** @returns {string | null} */
export function painterName() {
  if (found === undefined) {
    const context = document.createElement("canvas").getContext("webgl2");
    const told = context?.getExtension("WEBGL_debug_renderer_info");
    found = context && (told ? context.getParameter(told.UNMASKED_RENDERER_WEBGL) : "");
    context?.getExtension("WEBGL_lose_context")?.loseContext();
  }
  return found;
}

/** @returns {{ painter: any, paints: boolean }} */
export function painterFor(options) {
  const paints = painterName() !== null;
  return { painter: paints ? new THREE.WebGLRenderer(options) : new Nobody(), paints };
}
