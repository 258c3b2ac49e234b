// The projects page: a live picture on each study's card, drawn by one renderer in turn.
import { postForScene } from "./server.js";
import { Stage } from "./stage/stage.js";

async function drawPictures() {
  const pictures = [...document.getElementsByTagName("canvas")].filter((one) => one.dataset.study);
  if (!pictures.length) return;
  const host = document.getElementById("darkroom");
  const stage = new Stage(host);
  for (const picture of pictures) {
    try {
      const scene = await postForScene(`/studies/${picture.dataset.study}/evaluate`, {});
      stage.apply({ ...scene, dims: [], inputs: [] });
      stage.setView("axonometric");
      stage.setEdges(0.35); // a small picture is soon full of lines
      stage.drawNow();
      copy(stage.renderer.domElement, picture);
      picture.dataset.drawn = "yes";
    } catch {
      picture.dataset.drawn = "no";
    }
  }
  stage.renderer.dispose();
}

function copy(source, picture) {
  picture.width = picture.clientWidth * devicePixelRatio;
  picture.height = picture.clientHeight * devicePixelRatio;
  const context = picture.getContext("2d");
  context.imageSmoothingQuality = "high";
  context.drawImage(source, 0, 0, picture.width, picture.height);
}

drawPictures();

for (const form of document.forms) {
  if (!("takeIn" in form.dataset)) continue;
  form.addEventListener("change", () => form.submit());
}
for (const form of document.forms) {
  if (!("ask" in form.dataset)) continue;
  form.addEventListener("submit", (event) => {
    if (!confirm(form.dataset.ask)) event.preventDefault();
  });
}
