// The projects page: a live picture on each study's card, drawn by one renderer in turn.
import { postForScene } from "./server.js";
import { Stage } from "./stage/stage.js";

async function drawPictures() {
  const pictures = [...document.querySelectorAll("canvas[data-study]")];
  if (!pictures.length) return;
  const host = document.getElementById("darkroom");
  const stage = new Stage(host);
  for (const picture of pictures) {
    try {
      const scene = await postForScene(`/studies/${picture.dataset.study}/evaluate`, {});
      stage.apply({ ...scene, dims: [] });
      stage.setView("axonometric");
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
  picture.width = source.width;
  picture.height = source.height;
  picture.getContext("2d").drawImage(source, 0, 0);
}

drawPictures();
