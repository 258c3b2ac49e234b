// The page on which a hand-over is put together.
import Alpine from "./alpine.js";
import { choosing } from "./handover/choosing.js";
import { taking } from "./handover/taking.js";
import { component } from "./pieces.js";
import { tellSettled } from "./workspace/settled.js";

const PIECES = [choosing, taking];

Alpine.data("package", component(PIECES, function () {
  tellSettled();
  this.look();
}));
Alpine.start();
