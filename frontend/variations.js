// The page of variations: a plan, its trials on a contact sheet and in a plot, compared and taken.
import "./dropped.js";
import Alpine from "./alpine.js";
import { newer } from "./newer.js";
import { component } from "./rooms.js";

import { comparing } from "./variations/comparing.js";
import { keeping } from "./variations/keeping.js";
import { looking } from "./variations/looking.js";
import { planning } from "./variations/planning.js";
import { plotting } from "./variations/plotting.js";
import { trying } from "./variations/trying.js";
import { study } from "./study.js";
import { tellSettled } from "./workspace/settled.js";
import { foldMenus } from "./menus.js";

const ROOMS = { study, newer, planning, trying, looking, plotting, comparing, keeping };

foldMenus();
Alpine.data("variations", component(ROOMS, tellSettled));
Alpine.start();
