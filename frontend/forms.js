// Forms of pages without a component: those that are sent by a choice, and those that ask before.
import { foldMenus } from "./menus.js";

for (const choice of document.querySelectorAll("select[data-send]")) {
  choice.addEventListener("change", (event) => /** @type {HTMLSelectElement} */ (event.target).form.submit());
}
for (const form of document.forms) {
  if ("takeIn" in form.dataset) form.addEventListener("change", () => form.submit());
  if (!("ask" in form.dataset)) continue;
  form.addEventListener("submit", (event) => {
    if (!confirm(form.dataset.ask)) event.preventDefault();
  });
}
foldMenus();
