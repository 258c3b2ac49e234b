// The projects page: a picture on each study's card. Those that were not drawn yet of the state a
// study is in are drawn here, by one renderer in turn, and kept with their study.
import { closeMenu, closeMenusBeside } from "./menus.js";
import { postForScene, sendPicture } from "./server.js";
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
      keep(picture);
    } catch {
      picture.dataset.drawn = "no";
    }
  }
  stage.renderer.dispose();
}

// Where it cannot be kept, it is drawn again at the next visit.
function keep(picture) {
  picture.toBlob((png) => sendPicture(`/studies/${picture.dataset.study}/keep-picture?of=${picture.dataset.of}`, png).catch(() => null), "image/png");
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

for (const choice of document.querySelectorAll("select[data-send]")) {
  choice.addEventListener("change", (event) => /** @type {HTMLSelectElement} */ (event.target).form.submit());
}
addEventListener("click", ({ target }) => closeMenusBeside(target));
addEventListener("keydown", ({ key }) => key === "Escape" && closeMenu());

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
