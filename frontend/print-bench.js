// The print bench: what is set, the layers of a plate, what they take, and the simulated printer.
import "./dropped.js";
import Alpine from "./alpine.js";
import { printing } from "./benches/printing.js";
import { picturing } from "./benches/picturing.js";
import { settingUp } from "./benches/setting-up.js";
import { simulating } from "./benches/simulating.js";
import { working } from "./benches/working.js";
import { newer } from "./newer.js";
import { component } from "./rooms.js";
import { tellSettled } from "./workspace/settled.js";

const ROOMS = { newer, settingUp, working, making: printing, picturing, simulating };

Alpine.data("bench", component(ROOMS, ({ settingUp }) => {
  tellSettled();
  settingUp.beginAnew();
}));
Alpine.start();
