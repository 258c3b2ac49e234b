// Alpine, with directives that write to the page only what has changed: a turn of a slide rule
// shows every line again, and whatever is written, changed or not, is laid out anew.
import Alpine from "@alpinejs/csp";

import { wordIn } from "./known-words.js";

function written(name, read, write) {
  Alpine.directive(name, (element, { expression }, { effect, evaluateLater }) => {
    const evaluate = evaluateLater(expression);
    effect(() =>
      evaluate((value) => {
        const said = String(value ?? "");
        if (read(element) !== said) Alpine.mutateDom(() => write(element, said));
      }),
    );
  });
}

// `x-text`, as it is but for that.
written("text", (element) => element.textContent, (element, said) => (element.textContent = said));

// `x-classes`: all classes of an element.
written("classes", (element) => element.className, (element, said) => (element.className = said));

// `x-said`: words for people, in which what stands in backticks is set as code.
written("said", (element) => element.dataset.said ?? "", (element, said) => {
  element.dataset.said = said;
  element.replaceChildren(...saidIn(said));
});

export function saidIn(said) {
  return said.split(/`([^`]+)`/).map((piece, at) => (at % 2 ? code(piece) : piece));
}

function code(text) {
  return Object.assign(document.createElement("code"), { textContent: text, className: wordIn(text) ? "known" : "" });
}

// Calls back when a list is replaced by another. `$watch` looks through all that is in it instead.
export function whenReplaced(read, then) {
  let before;
  Alpine.effect(() => {
    const now = read();
    if (before && now !== before) queueMicrotask(then);
    before = now;
  });
}

export default Alpine;
