// Whether everything asked for is done, for whoever watches the page from outside.
import Alpine from "@alpinejs/csp";

import { NewestWins } from "../server.js";

export const queue = new NewestWins(() => Alpine.nextTick(tellSettled));

let changes = 0;

export function underWay(count) {
  changes += count;
  if (count > 0) tellSettled();
  else Alpine.nextTick(tellSettled);
}

export function tellSettled() {
  document.body.dataset.settled = changes || queue.busy ? "no" : "yes";
}
