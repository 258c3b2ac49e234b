// Contact sheets that are kept with the study: plans, made anew when they are opened.
import { postForJson } from "../server.js";
import { watched } from "../workspace/settled.js";
import { results } from "./trying.js";

export const keeping = () => ({
  needs: ["study", "planning", "trying", "looking", "plotting"],

  /** @type {import("../answers").ContactSheetSaid[]} */
  sheets: [],
  sheetTitle: "",
  staleSaid: "",

  begin(state) {
    this.sheets = state.sheets;
  },

  get sheetsSaid() {
    return `Contact sheets ${this.sheets.length || ""}`.trim();
  },

  typeSheet(event) {
    this.sheetTitle = event.target.value;
  },

  async keepSheet() {
    const { plan, around: set } = this.planning;
    const shown = { values: this.planning.valuesShown, x: this.plotting.plotX, y: this.plotting.plotY, aims: this.plotting.aims, sorted: this.looking.sortedBy, falling: this.looking.falling, parts: this.planning.parts, pinned: this.looking.pinned };
    if (await this.sheetsAfter("variations/keep", { title: this.sheetTitle, plan, set, shown, revision: results.revision })) this.sheetTitle = "";
  },

  forgetSheet(one) {
    return this.sheetsAfter("variations/forget", { sheet: one.sheet });
  },

  sheetsAfter(action, body) {
    return watched(async () => {
      try {
        /** @type {import("../answers").ContactSheetsSaid} */
        const { sheets } = await postForJson(this.study.address + action, body);
        this.sheets = sheets;
        this.trying.complain();
        return true;
      } catch (error) {
        this.trying.complain(error);
        return false;
      }
    });
  },

  async openSheet(one) {
    this.planning.takePlan(one.plan, one.set);
    const { values, x, y, aims, sorted, falling, parts, pinned } = one.shown;
    this.planning.valuesShown = values ?? this.planning.valuesShown;
    this.planning.parts = Boolean(parts);
    this.plotting.plotX = x ?? "";
    this.plotting.plotY = y ?? "";
    this.plotting.aims = aims ?? this.plotting.aims;
    this.looking.sortedBy = sorted ?? "number";
    this.looking.falling = Boolean(falling);
    this.staleSaid = one.stale ? `The sheet has changed since “${one.title}” was kept: its trials are made anew.` : "";
    if (!(await this.trying.run())) return;
    this.looking.pinned = (pinned ?? []).filter((number) => this.looking.trial(number));
    this.looking.showCards();
  },
});
