// The page on which a hand-over is put together.
import Alpine from "./alpine.js";
import { choosing } from "./handover/choosing.js";
import { taking } from "./handover/taking.js";
import { joined, pageState } from "./pieces.js";
import { tellSettled } from "./workspace/settled.js";

const PIECES = [choosing, taking];

Alpine.data("package", () => {
  const { whole, beginnings } = joined(PIECES);
  whole.init = function () {
    const state = pageState();
    for (const begin of beginnings) begin.call(this, state);
    tellSettled();
    this.look();
  };
  return whole;
});
Alpine.start();
