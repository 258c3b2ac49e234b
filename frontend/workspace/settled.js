// Whether everything asked for is done, for whoever watches the page from outside.
import Alpine from "../alpine.js";

import { NewestWins } from "../server.js";

export const queue = new NewestWins(() => Alpine.nextTick(tellSettled));

let changes = 0;

export function underWay(count) {
  changes += count;
  if (count > 0) tellSettled();
  else Alpine.nextTick(tellSettled);
}

// Carries out something that whoever watches should wait for.
export async function watched(work) {
  underWay(1);
  try {
    return await work();
  } finally {
    underWay(-1);
  }
}

export function tellSettled() {
  document.body.dataset.settled = changes || queue.busy ? "no" : "yes";
}
