// The stage as a picture of any size, with what is written at its dims.

// A PNG so many pixels wide, of the same cut as is seen.
export async function snapshot(stage, width) {
  const { renderer, size } = stage;
  const height = Math.round((width * size.height) / size.width);
  const canvas = Object.assign(document.createElement("canvas"), { width, height });
  const ratio = renderer.getPixelRatio();
  renderer.setPixelRatio(1);
  renderer.setSize(width, height, false);
  renderer.render(stage.scene, stage.camera);
  const context = canvas.getContext("2d");
  context.drawImage(renderer.domElement, 0, 0, width, height);
  renderer.setPixelRatio(ratio);
  renderer.setSize(size.width, size.height, false);
  stage.drawNow();
  writeDims(context, stage, width / size.width);
  return new Promise((resolve) => canvas.toBlob(resolve, "image/png"));
}

function writeDims(context, stage, scale) {
  for (const { label, at } of stage.dims.shown) {
    const { x, y } = at;
    const style = getComputedStyle(label);
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
