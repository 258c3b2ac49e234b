// The page on which a hand-over is put together.
import "./dropped.js";
import Alpine from "./alpine.js";
import { choosing } from "./handover/choosing.js";
import { taking } from "./handover/taking.js";
import { newer } from "./newer.js";
import { component } from "./rooms.js";
import { tellSettled } from "./workspace/settled.js";

const ROOMS = { newer, choosing, taking };

Alpine.data("package", component(ROOMS, ({ taking }) => {
  tellSettled();
  taking.look();
}));
Alpine.start();
