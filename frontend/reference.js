// The page of a word: its picture, and its example, worked out anew while it is changed.
import { Newest } from "./newest.js";
import { postForJson } from "./server.js";
import { pictureOf } from "./sheet/picture.js";

const PAUSE = 350; // milliseconds without a key

const picture = document.getElementById("picture");
const place = document.getElementById("word-picture");
if (picture && place) place.append(pictureOf(JSON.parse(picture.textContent)));

const sheet = /** @type {HTMLTextAreaElement | null} */ (document.getElementById("try"));
const said = document.getElementById("tried");
const drawn = /** @type {HTMLImageElement} */ (document.getElementById("tried-picture"));
const tries = new Newest();

function line(text, kind = "") {
  const shown = document.createElement("p");
  shown.className = kind;
  shown.textContent = text;
  return shown;
}

async function attempt() {
  document.body.dataset.settled = "no";
  try {
    /** @type {import("./answers").TriedSaid | undefined} */
    const found = await tries.of(() => postForJson("/reference/try", { text: sheet.value }));
    if (!found) return;
    const { values, problems, checks, picture: svg } = found;
    said.replaceChildren(
      ...values.map((one) => line(`${one.name} = ${one.shown}`, "mono")),
      ...checks.map((one) => line(`${one.said}: ${one.holds ? "holds" : "fails"}`, one.holds ? "" : "complaint")),
      ...problems.map((one) => line(`✕ ${one}`, "complaint")),
    );
    drawn.hidden = !svg;
    if (svg) drawn.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
    drawn.alt = svg ? "What the sheet draws" : "";
  } catch (error) {
    said.replaceChildren(line(`✕ ${error.message}`, "complaint"));
  }
  document.body.dataset.settled = "yes";
}

if (sheet) {
  let pausing;
  sheet.addEventListener("input", () => {
    document.body.dataset.settled = "no";
    clearTimeout(pausing);
    pausing = setTimeout(attempt, PAUSE);
  });
  attempt();
} else document.body.dataset.settled = "yes";

const form = /** @type {HTMLFormElement | null} */ (document.getElementById("use-it"));
form?.addEventListener("submit", () => {
  form.action = form.querySelector("select").value;
  /** @type {HTMLInputElement} */ (form.elements.namedItem("text")).value = sheet.value;
});
