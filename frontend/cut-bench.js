// The cutting bench: pieces on sheets and bars, the way of the tool, and the simulated cutter.
import Alpine from "./alpine.js";
import { cutting } from "./benches/cutting.js";
import { settingUp } from "./benches/setting-up.js";
import { sheetSeen } from "./benches/sheet-seen.js";
import { closeMenu, closeMenusBeside } from "./menus.js";
import { working } from "./benches/working.js";
import { joined, pageState } from "./pieces.js";
import { tellSettled } from "./workspace/settled.js";

const PIECES = [settingUp, working, cutting, sheetSeen];

Alpine.data("bench", () => {
  const { whole, beginnings } = joined(PIECES);
  whole.init = function () {
    const state = pageState();
    for (const begin of beginnings) begin.call(this, state);
    tellSettled();
    this.beginAnew();
  };
  return whole;
});
addEventListener("click", ({ target }) => target instanceof Element && closeMenusBeside(target));
addEventListener("keydown", ({ key }) => key === "Escape" && closeMenu());
Alpine.start();
