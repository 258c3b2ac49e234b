// The cutting bench: pieces on sheets and bars, the way of the tool, and the simulated cutter.
import "./dropped.js";
import Alpine from "./alpine.js";
import { cutting } from "./benches/cutting.js";
import { settingUp } from "./benches/setting-up.js";
import { sheetSeen } from "./benches/sheet-seen.js";
import { foldMenus } from "./menus.js";
import { working } from "./benches/working.js";
import { newer } from "./newer.js";
import { component } from "./rooms.js";
import { tellSettled } from "./workspace/settled.js";

const ROOMS = { newer, settingUp, working, making: cutting, sheetSeen };

Alpine.data("bench", component(ROOMS, ({ settingUp }) => {
  tellSettled();
  settingUp.beginAnew();
}));
foldMenus();
Alpine.start();
