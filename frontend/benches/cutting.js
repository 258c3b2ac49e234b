// Laying pieces on sheets and bars: asked for as one work that can be stopped.
import { postForFile, postLong } from "../server.js";
import { watched } from "../workspace/settled.js";
import { saveAs } from "../workspace/handover.js";
import { amount, duration } from "./saying.js";

// Kept outside the reactive state: paths are long.
/** @type {{ plan: import("../answers").CutPlanSaid | null, measured: Map<number, import("../answers").CutMeasuredSaid> }} */
export const cut = { plan: null, measured: new Map() };

const ALL_SHEETS = { pdf: "labels", csv: "cut list" };

export const cutting = () => ({
  needs: ["newer", "settingUp", "working", "sheetSeen"],

  said: "",
  count: 0,
  sheet: 0,
  took: 0, // moves on with each plan, for what is shown of it
  barsSaid: "",
  sections: [],

  get progressSaid() {
    return this.working.isWorking ? this.said : "";
  },

  again() {
    return watched(() => this.layOut());
  },

  async layOut() {
    this.working.stop();
    this.settingUp.complain();
    this.said = "nesting";
    const run = this.working.beginRun();
    const asked = this.settingUp.asked;
    const state = this.newer.now();
    /** @type {import("../answers").CutLaidSaid} */
    let laid;
    try {
      laid = await postLong(`${this.settingUp.address}cut/lay`, asked, 120, (share) => {
        if (this.working.run === run) this.said = `nesting, ${Math.floor(100 * share)} %`;
      });
    } catch (error) {
      if (this.working.run !== run) return true; // a newer change asks for all that is set
      this.settingUp.complain(error);
      this.working.endRun(run);
      return false;
    }
    const shown = await state;
    if (this.working.run !== run) return true;
    this.newer.shows(shown);
    this.settingUp.laidWith = asked;
    this.working.endRun(run);
    const { plan } = laid;
    this.settingUp.takeSetUp(laid, plan);
    cut.plan = plan;
    cut.measured = new Map();
    this.takeBars(laid.bars);
    this.count = plan?.sheets.length ?? 0;
    this.sheet = Math.min(this.sheet, Math.max(this.count - 1, 0));
    this.took += 1;
    this.sheetSeen.fit();
    return true;
  },

  // Bars drawn to scale: pieces one after another, a cut between them.
  /** @param {import("../answers").CutBarsSaid} bars */
  takeBars({ said, sections, bar }) {
    this.barsSaid = said;
    const share = (length) => `${((100 * length) / bar).toFixed(3)}%`;
    this.sections = sections.map((one) => ({
      title: one.title,
      said: one.said,
      fails: one.fails,
      shown: one.drawn.map(({ number, cuts, rest }, key) => ({
        key,
        times: `${number} ×`,
        left: `${amount(rest)} mm left`,
        pieces: cuts
          .flatMap(([length, times]) => Array.from({ length: times }, () => length))
          .map((length, at) => ({ key: at, said: amount(length), title: `${amount(length)} mm`, style: { width: share(length) } })),
      })),
    }));
  },

  runCutter() {
    return watched(async () => {
      this.settingUp.complain();
      const run = this.working.beginRun();
      try {
        for (let sheet = 0; sheet < this.count && this.working.run === run; sheet += 1) {
          this.said = `sheet ${sheet + 1} of ${this.count}`;
          /** @type {import("../answers").CutMeasuredSaid} */
          const found = await postLong(`${this.settingUp.address}cut/run`, { ...this.settingUp.asked, plate: sheet });
          if (this.working.run !== run) return;
          cut.measured.set(sheet, found);
          this.took += 1;
          this.sheetSeen.drawSheet();
        }
      } catch (error) {
        if (this.working.run === run) await this.settingUp.amiss(error);
      }
      this.working.endRun(run);
    });
  },

  handOver(ending) {
    return watched(async () => {
      try {
        const file = await postForFile(`${this.settingUp.address}cut/file/${ending}`, { ...this.settingUp.asked, plate: this.sheet });
        saveAs(file, `${this.settingUp.title}, ${ALL_SHEETS[ending] ?? `sheet ${this.sheet + 1}`}.${ending}`);
      } catch (error) {
        await this.settingUp.amiss(error);
      }
    });
  },

  // --- what it takes ---

  get stockSaid() {
    if (this.took < 0 || !this.settingUp.isThere) return "–";
    return `${this.count} sheet${this.count === 1 ? "" : "s"}`;
  },

  get nests() {
    if (this.took < 0 || !this.settingUp.isThere) return [];
    return cut.plan.nests.map((one) => ({
      label: `${one.pieces} ${one.thickness === null ? "flat" : `of ${amount(one.thickness)} mm`}`,
      said: `${one.sheets} sheet${one.sheets === 1 ? "" : "s"}, ${Math.round(100 * (1 - one.taken))} % waste`,
    }));
  },

  get sheetHead() {
    return this.settingUp.isThere ? `Sheet ${this.sheet + 1}` : "Sheet";
  },

  get takes() {
    if (this.took < 0 || !this.settingUp.isThere) return [];
    const one = cut.plan.sheets[this.sheet];
    return [
      { label: "Time", said: duration(one.seconds) },
      { label: "Cut, travel", said: `${amount(one.length / 1000)} m, ${amount(one.travel / 1000)} m` },
      { label: "Down", said: `${one.pierces} times` },
      { label: "Used", said: `${amount(100 * one.used)} %` },
      { label: "Remnant", said: one.remnant > 0 ? `${amount(one.remnant)} × ${amount(cut.plan.height)} mm` : "none" },
    ];
  },

  get marks() {
    if (this.took < 0 || !this.settingUp.isThere) return [];
    const found = new Map();
    for (const { mark, label, size } of cut.plan.sheets[this.sheet].pieces) {
      const one = found.get(mark) ?? { mark, label, times: 0, size };
      one.times += 1;
      found.set(mark, one);
    }
    return [...found.values()].map((one) => ({ ...one, said: `${one.times} × ${amount(one.size[0])} × ${amount(one.size[1])}` }));
  },

  get measuredSaid() {
    const found = this.took >= 0 ? cut.measured.get(this.sheet) : null;
    if (!found) return [];
    const off = Math.max(...found.pieces.map((one) => one.off));
    const corner = Math.max(...found.pieces.map((one) => one.corner));
    const held = found.pieces.filter((one) => one.held).length;
    const hanging = found.pieces.filter((one) => !one.free && !one.held).length;
    const verdict = (well) => (well ? "well" : "amiss");
    return [
      { label: held ? "pieces held by their tabs" : "pieces fallen out", said: `${found.pieces.length - hanging} of ${found.pieces.length}`, verdict: verdict(hanging === 0) },
      { label: "off the design, at most", said: `${amount(off)} mm`, verdict: verdict(off <= 0.01) },
      { label: "left in inside corners", said: `${amount(corner)} mm`, verdict: "waiting" },
      { label: "time", said: duration(found.seconds), verdict: "waiting" },
      { label: "cut, travel", said: `${amount(found.length / 1000)} m, ${amount(found.travel / 1000)} m`, verdict: "waiting" },
    ];
  },
});
