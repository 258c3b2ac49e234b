// The stage as a picture of any size, with what is written at its dims.

import { turn } from "./walking.js";

// A PNG so many pixels wide, of the same cut as is seen.
export async function snapshot(stage, width) {
  const { renderer, size } = stage;
  stage.refine();
  const height = Math.round((width * size.height) / size.width);
  const canvas = Object.assign(document.createElement("canvas"), { width, height });
  const ratio = renderer.getPixelRatio();
  renderer.setPixelRatio(1);
  renderer.setSize(width, height, false);
  stage.render();
  const context = canvas.getContext("2d");
  context.drawImage(renderer.domElement, 0, 0, width, height);
  renderer.setPixelRatio(ratio);
  renderer.setSize(size.width, size.height, false);
  stage.drawNow();
  writeDims(context, stage, width / size.width);
  return new Promise((resolve) => canvas.toBlob(resolve, "image/png"));
}

// A small picture of the parts alone, as cards of studies show them: axonometric, without dims.
export function portrait(stage, width, height) {
  const { renderer, size, camera } = stage;
  const before = { from: stage.viewpoint(), view: stage.view, touched: stage.touched, beside: stage.beside, above: stage.above, size };
  const aside = [stage.dims.group, stage.construction.group, stage.marks.group, stage.marks.measured];
  const shown = aside.map((group) => group.visible);
  const canvas = Object.assign(document.createElement("canvas"), { width, height });
  for (const group of aside) group.visible = false;
  Object.assign(stage, { size: { width, height }, beside: 0, above: 0, view: "axonometric" });
  stage.fit();
  stage.setEdges(EDGES);
  stage.refine(); // to fit it was a move
  const ratio = renderer.getPixelRatio();
  renderer.setPixelRatio(FINE);
  renderer.setSize(width, height, false);
  renderer.render(stage.scene, camera);
  const context = canvas.getContext("2d");
  context.imageSmoothingQuality = "high";
  context.drawImage(renderer.domElement, 0, 0, width, height);
  aside.forEach((group, at) => (group.visible = shown[at]));
  Object.assign(stage, { size: before.size, beside: before.beside, above: before.above, view: before.view });
  stage.setEdges();
  renderer.setPixelRatio(ratio);
  renderer.setSize(size.width, size.height, false);
  stage.lookFrom(before.from);
  stage.touched = before.touched;
  stage.drawNow();
  return new Promise((resolve) => canvas.toBlob(resolve, "image/png"));
}

const FINE = 2; // times as large as it is kept, as the page of projects draws it: its lines are as fine
export const EDGES = 0.35; // how strongly: a small picture is soon full of lines
const TURN = 24; // steps of `turn` in a whole turn
const FRAMES = 30; // a second

// A film of one turn around the parts, as WebM. Calls `told(share)` as it goes; ends early, with
// nothing, where `stopped()` says so.
export async function turntable(stage, seconds, told, stopped) {
  const { size, renderer } = stage;
  const ratio = Math.min(devicePixelRatio, 2);
  const canvas = Object.assign(document.createElement("canvas"), { width: Math.round(size.width * ratio), height: Math.round(size.height * ratio) });
  const context = canvas.getContext("2d");
  const recorder = new MediaRecorder(canvas.captureStream(FRAMES), { mimeType: "video/webm", videoBitsPerSecond: 8_000_000 });
  const pieces = [];
  recorder.ondataavailable = ({ data }) => pieces.push(data);
  const ended = new Promise((resolve) => (recorder.onstop = resolve));
  const from = stage.viewpoint();
  const touched = stage.touched;
  recorder.start();
  const began = performance.now();
  let before = 0;
  while (before < 1 && !stopped()) {
    await new Promise((resolve) => requestAnimationFrame(resolve));
    const share = Math.min((performance.now() - began) / (1000 * seconds), 1);
    turn(stage, [(share - before) * TURN, 0]);
    before = share;
    stage.controls.update();
    stage.drawNow();
    context.drawImage(renderer.domElement, 0, 0, canvas.width, canvas.height);
    writeDims(context, stage, ratio);
    told(share);
  }
  recorder.stop();
  await ended;
  stage.lookFrom(from);
  stage.touched = touched;
  return stopped() ? null : new Blob(pieces, { type: "video/webm" });
}

function writeDims(context, stage, scale) {
  for (const { label, at, led } of stage.dims.shown) {
    const { x, y } = at;
    const style = getComputedStyle(label);
    if (led) drawLeader(context, at, led, style, scale);
    const size = Number.parseFloat(style.fontSize) * scale;
    const lines = label.innerText.split("\n").filter(Boolean);
    context.globalAlpha = Number(style.opacity);
    context.textAlign = "center";
    context.textBaseline = "middle";
    lines.forEach((line, row) => {
      context.font = `${row ? 600 : 400} ${size}px ${style.fontFamily}`;
      const place = y * scale + (row - (lines.length - 1) / 2) * 1.25 * size;
      const wide = context.measureText(line).width + 8 * scale;
      context.fillStyle = style.backgroundColor;
      context.fillRect(x * scale - wide / 2, place - 0.62 * size, wide, 1.25 * size);
      context.fillStyle = style.color;
      context.fillText(line, x * scale, place);
    });
    context.globalAlpha = 1;
  }
}

function drawLeader(context, from, to, style, scale) {
  Object.assign(context, { strokeStyle: style.color, lineWidth: scale, globalAlpha: Number(style.opacity) });
  context.beginPath();
  context.moveTo(from.x * scale, from.y * scale);
  context.lineTo(to.x * scale, to.y * scale);
  context.stroke();
}
