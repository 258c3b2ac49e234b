// Modules the page can begin without. Each is fetched once; where the server is not reached it
// is asked for again when it is needed next.
import { NoServer } from "./server.js";

function once(load) {
  let asked = null;
  return () =>
    (asked ??= load().catch((error) => {
      asked = null;
      if (!(error instanceof TypeError)) throw error; // it is here, and does not work
      throw new NoServer("The server is not reached, and this part of the page is not here yet.");
    }));
}

export const editorModule = once(() => import("./sheet/editor.js"));
export const formulaModule = once(() => import("./sheet/katex.js"));

// Fetches it beforehand; where that fails, it is fetched when it is needed.
export function fetchEarly(module) {
  (window.requestIdleCallback ?? setTimeout)(() => module().catch(() => {}));
}
