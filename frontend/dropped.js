// Files that are let go over a page go to where files of their kind are chosen. (The browser would leave the page
// for them.)
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
  const files = [...event.dataTransfer.files];
  const choice = files.length ? choiceFor(files[0].name, /** @type {Element} */ (event.target)) : undefined;
  if (!choice) return;
  const taken = new DataTransfer();
  for (const file of choice.multiple ? files : files.slice(0, 1)) taken.items.add(file);
  choice.files = taken.files;
  choice.dispatchEvent(new Event("change", { bubbles: true }));
}, { capture: true });
