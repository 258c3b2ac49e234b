// The page of variations: a plan, its trials on a contact sheet and in a plot, compared and taken.
import Alpine from "./alpine.js";
import { joined, pageState } from "./pieces.js";

import { comparing } from "./variations/comparing.js";
import { keeping } from "./variations/keeping.js";
import { looking } from "./variations/looking.js";
import { planning } from "./variations/planning.js";
import { plotting } from "./variations/plotting.js";
import { trying } from "./variations/trying.js";
import { tellSettled } from "./workspace/settled.js";
import { closeMenu, closeMenusBeside } from "./menus.js";

const PIECES = [planning, trying, looking, plotting, comparing, keeping];

function variations() {
  const { whole, beginnings } = joined(PIECES);
  whole.init = function () {
    const state = pageState();
    for (const begin of beginnings) begin.call(this, state);
    tellSettled();
  };
  return whole;
}

addEventListener("click", ({ target }) => target instanceof Element && closeMenusBeside(target));
addEventListener("keydown", ({ key }) => key === "Escape" && closeMenu());
Alpine.data("variations", variations);
Alpine.start();
