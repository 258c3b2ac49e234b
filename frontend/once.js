// A button marked `data-once` does what it says once, though it is clicked twice: who clicks twice by habit makes no
// second dim, and does not say yes to what the first click asks.
addEventListener("click", (event) => {
  if (event.detail < 2 || !(event.target instanceof Element && event.target.closest("[data-once]"))) return;
  event.preventDefault();
  event.stopPropagation();
}, { capture: true });
