// A file that is let go over a page goes to where files of its kind are chosen. (The browser would leave the page
// for it.)
import { all } from "./elements.js";
import { may } from "./may.js";

const brings = (event) => Boolean(event.dataTransfer?.types.includes("Files"));

/** @param {string} name  @param {Element} place where it was let go  @returns {HTMLInputElement | undefined} */
function choiceFor(name, place) {
  const choices = /** @type {HTMLInputElement[]} */ (all("input[type=file]")).filter((one) => !one.closest("[data-edits]") || may("edit"));
  const fitting = choices.filter((one) => one.accept.split(",").some((ending) => name.toLowerCase().endsWith(ending)));
  const around = place.closest("section");
  return fitting.find((one) => around?.contains(one)) ?? fitting[0] ?? (choices.length === 1 ? choices[0] : undefined);
}

addEventListener("dragover", (event) => brings(event) && event.preventDefault(), { capture: true });
addEventListener("drop", (event) => {
  if (!brings(event)) return;
  event.preventDefault();
  event.stopPropagation();
  const { files } = event.dataTransfer;
  const choice = files.length ? choiceFor(files[0].name, /** @type {Element} */ (event.target)) : undefined;
  if (!choice) return;
  choice.files = files;
  choice.dispatchEvent(new Event("change", { bubbles: true }));
}, { capture: true });
