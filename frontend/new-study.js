// New study: what it begins with, chosen by picture or by what it is for.
const dialog = /** @type {HTMLDialogElement} */ (document.getElementById("new-study"));
const form = dialog.querySelector("form");
const search = /** @type {HTMLInputElement} */ (dialog.querySelector("[type=search]"));
const starts = /** @type {HTMLElement[]} */ ([...dialog.querySelectorAll("[data-for]")]);

for (const button of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-new-study]")))
  button.addEventListener("click", () => {
    form.action = button.dataset.newStudy;
    dialog.querySelector("[data-into-said]").textContent = `in ${button.dataset.into}`;
    form.reset();
    showFor("");
    dialog.showModal();
    /** @type {HTMLInputElement} */ (form.elements.namedItem("title")).focus();
  });

dialog.querySelector("[data-close]").addEventListener("click", () => dialog.close());
search.addEventListener("input", () => showFor(search.value));
search.addEventListener("keydown", (event) => {
  if (event.key !== "Enter") return;
  event.preventDefault(); // which would begin with what is no longer in sight
  dialog.querySelector(".start:not([hidden]) input:not([value=''])")?.closest("label").click();
});

// Those in whose title or needs every word begins a word; what is chosen stays in sight.
function showFor(asked) {
  const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
  let shown = 0;
  for (const one of starts) {
    const told = ` ${one.dataset.for.toLowerCase()}`;
    const serves = words.every((word) => told.includes(` ${word}`));
    one.hidden = !serves && !one.querySelector("input").checked;
    shown += Number(serves);
  }
  /** @type {HTMLElement} */ (dialog.querySelector("[data-none]")).hidden = shown > 0;
}
