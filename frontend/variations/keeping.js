// Contact sheets that are kept with the study: plans, made anew when they are opened.
import { postForJson } from "../server.js";
import { watched } from "../workspace/settled.js";

export const keeping = () => ({
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
    const { plan, around: set } = this;
    const shown = { values: this.valuesShown, x: this.plotX, y: this.plotY, aims: this.aims, sorted: this.sortedBy, falling: this.falling, parts: this.parts, pinned: this.pinned };
    if (await this.sheetsAfter("variations/keep", { title: this.sheetTitle, plan, set, shown })) this.sheetTitle = "";
  },

  forgetSheet(one) {
    return this.sheetsAfter("variations/forget", { sheet: one.sheet });
  },

  sheetsAfter(action, body) {
    return watched(async () => {
      try {
        this.sheets = (await postForJson(this.address + action, body)).sheets;
        this.complain();
        return true;
      } catch (error) {
        this.complain(error);
        return false;
      }
    });
  },

  async openSheet(one) {
    this.takePlan(one.plan, one.set);
    const { values, x, y, aims, sorted, falling, parts, pinned } = one.shown;
    Object.assign(this, { valuesShown: values ?? this.valuesShown, plotX: x ?? "", plotY: y ?? "", aims: aims ?? this.aims, sortedBy: sorted ?? "number", falling: Boolean(falling), parts: Boolean(parts) });
    this.staleSaid = one.stale ? `The sheet has changed since “${one.title}” was kept: its trials are made anew.` : "";
    await this.run();
    this.pinned = (pinned ?? []).filter((number) => this.trial(number));
    this.showCards();
  },
});
