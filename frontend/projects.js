// The projects page: a picture on each study's card. Those that were not drawn yet of the state a
// study is in are drawn here, by one renderer in turn, and kept with their study.
import "./dropped.js";
import "./forms.js";
import "./new-study.js";
import { keepPicture, wrongSaid } from "./pictures.js";
import { postForScene } from "./server.js";
import { painterName, sayNoPicture } from "./stage/painter.js";
import { EDGES } from "./stage/snapshot.js";
import { Stage } from "./stage/stage.js";

async function drawPictures() {
  const pictures = [...document.getElementsByTagName("canvas")].filter((one) => one.dataset.study);
  if (!pictures.length) return;
  if (painterName() === null) return pictures.forEach(sayNoPicture);
  const stage = new Stage(document.getElementById("darkroom"));
  for (const picture of pictures) {
    try {
      const scene = await postForScene(`/studies/${picture.dataset.study}/evaluate`, {});
      stage.apply({ ...scene, dims: [], inputs: [] });
      stage.setView("axonometric");
      stage.setEdges(EDGES);
      stage.refine(); // the view was moved, and what is kept is fine
      stage.drawNow();
      copy(stage.renderer.domElement, picture);
      picture.dataset.drawn = "yes";
      keep(picture, scene);
    } catch {
      picture.dataset.drawn = "no";
    }
  }
  return stage.renderer.dispose();
}

// Where it cannot be kept, it is drawn again at the next visit.
function keep(picture, scene) {
  const said = wrongSaid(scene);
  if (said) picture.closest("a").querySelector("[data-wrong]").textContent = `✕ ${said}`;
  picture.toBlob((png) => keepPicture(picture.dataset.study, picture.dataset.of, scene, png).catch(() => null), "image/png");
}

// At twice the size it is shown at, to be sharp on any screen.
function copy(source, picture) {
  picture.width = picture.clientWidth * 2;
  picture.height = picture.clientHeight * 2;
  const context = picture.getContext("2d");
  context.imageSmoothingQuality = "high";
  context.drawImage(source, 0, 0, picture.width, picture.height);
}

drawPictures();
