// The workspace of a study: its page is one component, put together from a room for each concern.
import Alpine from "./alpine.js";

import "./dropped.js";
import "./once.js";
import { component } from "./rooms.js";
import "./sheet/line-shown.js";
import { aiming } from "./workspace/aiming.js";
import { announcing } from "./workspace/announcing.js";
import { bands } from "./workspace/bands.js";
import { asking } from "./workspace/asking.js";
import { beside } from "./workspace/beside.js";
import { calibrating } from "./workspace/calibrating.js";
import { closing } from "./workspace/closing.js";
import { dimming } from "./workspace/dimming.js";
import { dividing } from "./workspace/dividing.js";
import { drawer } from "./workspace/drawer.js";
import { drawing } from "./workspace/drawing.js";
import { faceplate } from "./workspace/faceplate.js";
import { guiding } from "./workspace/guiding.js";
import { handover } from "./workspace/handover.js";
import { history } from "./workspace/history.js";
import { inserting } from "./workspace/inserting.js";
import { keys } from "./workspace/keys.js";
import { looking } from "./workspace/looking.js";
import { measuring } from "./workspace/measuring.js";
import { picturing } from "./workspace/picturing.js";
import { placing } from "./workspace/placing.js";
import { proving } from "./workspace/proving.js";
import { remarks } from "./workspace/remarks.js";
import { rolling } from "./workspace/rolling.js";
import { saving } from "./workspace/saving.js";
import { scheduling } from "./workspace/scheduling.js";
import { several } from "./workspace/several.js";
import { showing } from "./workspace/showing.js";
import { sketching } from "./workspace/sketching.js";
import { sunlight } from "./workspace/sunlight.js";
import { study } from "./study.js";
import { text } from "./workspace/text.js";
import { together } from "./workspace/together.js";
import { touring } from "./workspace/touring.js";
import { waiting } from "./workspace/waiting.js";
import { words } from "./workspace/words.js";
import { writing } from "./workspace/writing.js";

const ROOMS = { study, saving, asking, together, remarks, showing, writing, several, text, inserting, faceplate, looking, measuring, drawing, handover, calibrating, beside, scheduling, waiting, drawer, history, closing, dividing, sunlight, picturing, placing, sketching, dimming, aiming, proving, rolling, bands, words, guiding, touring, announcing, keys };

Alpine.data("workspace", component(ROOMS, ({ showing }) => showing.refresh()));
Alpine.start();
