// The workspace of a study: its page is one component, put together from a piece for each concern.
import Alpine from "./alpine.js";

import { announcing } from "./workspace/announcing.js";
import { beside } from "./workspace/beside.js";
import { calibrating } from "./workspace/calibrating.js";
import { closing } from "./workspace/closing.js";
import { dividing } from "./workspace/dividing.js";
import { drawer } from "./workspace/drawer.js";
import { drawing } from "./workspace/drawing.js";
import { faceplate } from "./workspace/faceplate.js";
import { handover } from "./workspace/handover.js";
import { history } from "./workspace/history.js";
import { inserting } from "./workspace/inserting.js";
import { keys } from "./workspace/keys.js";
import { looking } from "./workspace/looking.js";
import { measuring } from "./workspace/measuring.js";
import { picturing } from "./workspace/picturing.js";
import { saving } from "./workspace/saving.js";
import { scheduling } from "./workspace/scheduling.js";
import { several } from "./workspace/several.js";
import { showing } from "./workspace/showing.js";
import { sunlight } from "./workspace/sunlight.js";
import { text } from "./workspace/text.js";
import { waiting } from "./workspace/waiting.js";
import { words } from "./workspace/words.js";
import { writing } from "./workspace/writing.js";

const PIECES = [saving, showing, writing, several, text, inserting, faceplate, looking, measuring, drawing, handover, calibrating, beside, scheduling, waiting, drawer, history, closing, dividing, sunlight, picturing, words, announcing, keys];

// Each piece makes its own state and methods; its `begin` is run when the page is there. Getters
// must stay getters, so the pieces are joined by their property descriptors.
function workspace() {
  const whole = {};
  const beginnings = [];
  for (const piece of PIECES.map((make) => make())) {
    const { begin, ...properties } = Object.getOwnPropertyDescriptors(piece);
    if (begin) beginnings.push(begin.value);
    const taken = Object.keys(properties).filter((name) => name in whole);
    if (taken.length) throw new Error(`two pieces of the workspace have a ${taken}`);
    Object.defineProperties(whole, properties);
  }
  whole.init = function () {
    const state = JSON.parse(document.getElementById("state").textContent);
    for (const begin of beginnings) begin.call(this, state);
    this.refresh();
  };
  return whole;
}

Alpine.data("workspace", workspace);
Alpine.start();
