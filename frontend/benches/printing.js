// Working a print out: bodies laid on plates, then its layers in pieces, seen as they come.
import { NewestWins, postForFile, postLong } from "../server.js";
import { tellSettled, watched } from "../workspace/settled.js";
import { saveAs } from "../workspace/handover.js";
import { amount, duration, spread } from "./saying.js";

const PIECE = 20;

// Kept outside the reactive state: there may be thousands of layers.
/** @type {{ print: import("../answers").PrintSaid | null, figures: import("../answers").LayerFiguresSaid[], outlines: number[][][], found: import("../answers").FindingSaid[], lines: import("../answers").LayerSaid | null }} */
export const laid = { print: null, figures: [], outlines: [], found: [], lines: null };

const layers = new NewestWins(tellSettled);

export const printing = () => ({
  needs: ["newer", "settingUp", "working", "picturing", "simulating"],

  done: 0,
  count: 0,
  plate: 0,
  plates: 1,
  layer: 0,
  isNew: true, // nothing was looked at yet
  took: 0, // moves on with each piece, for what is shown of them

  get progressSaid() {
    return this.working.isWorking && this.count ? `layer ${this.done} of ${this.count}` : this.working.isWorking ? "laying it out" : "";
  },

  get plateNumbers() {
    return Array.from({ length: this.plates }, (_, at) => at);
  },

  // Whether what is set now could be laid out.
  again() {
    return watched(() => this.layOut());
  },

  async layOut() {
    this.working.stop();
    this.settingUp.complain();
    const run = this.working.beginRun();
    const asked = this.settingUp.asked;
    const state = this.newer.now();
    /** @type {import("../answers").PrintLaidSaid} */
    let answer;
    try {
      answer = await postLong(`${this.settingUp.address}print/lay`, asked);
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
    const { print } = answer;
    this.settingUp.takeSetUp(answer, print);
    if (!print) {
      Object.assign(this, { count: 0, plates: 1, plate: 0 });
      this.forget(null);
      this.working.endRun(run);
      return true;
    }
    this.plates = print.plates.length;
    this.plate = Math.min(this.plate, this.plates - 1);
    this.forget(print);
    this.workOut(run);
    return true;
  },

  forget(print) {
    Object.assign(laid, { print, figures: [], outlines: [], found: [], lines: null });
    this.count = print ? print.plates[this.plate].layers : 0;
    if (this.isNew && this.count) Object.assign(this, { isNew: false, layer: Math.floor(this.count / 2) });
    this.layer = Math.min(this.layer, Math.max(this.count - 1, 0));
    this.simulating.forgetRun();
    this.done = 0;
    this.took += 1;
    this.picturing.drawAnew();
  },

  // The layer that is looked at comes first; the others in pieces, which are seen as they come.
  workOut(run) {
    return watched(async () => {
      try {
        await this.showLayer();
        for (let first = 0; first < this.count && this.working.run === run; first += PIECE) {
          const last = Math.min(first + PIECE, this.count);
          const piece = await postLong(`${this.settingUp.address}print/layers`, { ...this.settingUp.asked, plate: this.plate, first, last });
          if (this.working.run !== run) return;
          this.takePiece(piece);
        }
      } catch (error) {
        if (this.working.run === run) await this.settingUp.amiss(error);
      }
      this.working.endRun(run);
      this.picturing.drawAnew();
    });
  },

  /** @param {import("../answers").LayersSaid} piece */
  takePiece({ first, figures, found, outlines }) {
    figures.forEach((one, at) => (laid.figures[first + at] = one));
    outlines.forEach((one, at) => (laid.outlines[first + at] = one));
    laid.found.push(...found);
    this.done = first + figures.length;
    this.took += 1;
    this.picturing.drawRule();
    if (!this.picturing.isView("Layer")) this.picturing.drawPicture();
  },

  setPlate({ target }) {
    this.working.stop();
    this.plate = Number(target.value);
    const { print } = laid;
    this.forget(print);
    this.picturing.fit();
    this.workOut(this.working.beginRun());
  },

  setLayer(number) {
    const layer = Math.min(Math.max(number, 0), this.count - 1);
    if (layer === this.layer) return;
    this.layer = layer;
    this.picturing.drawRule();
    if (this.picturing.isView("Layer")) this.showLayer();
    else this.picturing.drawPicture();
  },

  // Fetches the lines of the layer that is looked at; of a rush of them only the newest.
  showLayer() {
    return new Promise((resolve) => {
      layers.ask(async () => {
        const { runs } = this.working;
        try {
          if (this.settingUp.isThere && laid.lines?.layer !== this.layer) {
            const { figures } = laid; // others, once it is laid out anew or another plate is looked at
            const lines = await postLong(`${this.settingUp.address}print/layer`, { ...this.settingUp.asked, plate: this.plate, first: this.layer });
            if (figures === laid.figures) laid.lines = lines;
          }
          this.picturing.drawPicture();
        } catch (error) {
          if (runs === this.working.runs) await this.settingUp.amiss(error); // else a newer run has stopped it
        }
        resolve();
      });
      setTimeout(resolve, 4000); // one that another replaced is never carried out
    });
  },

  handOver() {
    return watched(async () => {
      try {
        const file = await postForFile(`${this.settingUp.address}print/code`, { ...this.settingUp.asked, plate: this.plate });
        saveAs(file, `${this.settingUp.title}, plate ${this.plate + 1}.gcode`);
      } catch (error) {
        await this.settingUp.amiss(error);
      }
    });
  },

  // --- what it takes ---

  total(read) {
    return this.took >= 0 ? laid.figures.reduce((sum, one) => sum + (one ? read(one) : 0), 0) : 0;
  },

  get timeSaid() {
    if (!this.settingUp.isThere) return "–";
    return this.done ? duration(this.total((one) => one.seconds)) : "…";
  },

  get takes() {
    if (!this.settingUp.isThere || this.took < 0) return [];
    const volume = this.total((one) => one.volume);
    const line = this.total((one) => Object.values(one.lengths).reduce((sum, length) => sum + length, 0));
    const support = this.total((one) => one.lengths.support ?? 0);
    const lost = laid.print.bodies.map((one) => one.lost);
    const most = lost.reduce((best, one) => (Math.abs(one) > Math.abs(best) ? one : best), 0);
    return [
      { label: "Layers", said: `${this.count}` },
      { label: "Line laid", said: `${amount(line / 1000)} m` },
      { label: "Material", said: `${amount(volume * laid.print.material * 1000)} g` },
      { label: "of it support", said: line ? `${amount((100 * support) / line)} %` : "–" },
      { label: most < 0 ? "Height gained by layers" : "Height lost to layers", said: `${amount(Math.abs(most))} mm` },
      { label: "First layer holds", said: `${amount(laid.print.plates[this.plate].held / 100)} cm²` },
    ];
  },

  get lookedFor() {
    if (!this.settingUp.isThere || this.took < 0) return [];
    const kinds = ["islands in the air", "walls under one line", "gaps under one line", "first layers too small"];
    return kinds.map((kind) => {
      const found = laid.found.filter((one) => one.kind === kind);
      const done = this.done >= this.count;
      const first = found.reduce((most, one) => (most && most.area >= one.area ? most : one), null);
      const where = first ? `${first.label}: ${spread(found.map((one) => one.layer + 1))}${kind.includes("under") ? `, about ${amount(first.width)} mm wide at the largest, a line is ${amount(laid.print.line)} mm` : ""}.` : "";
      return { kind, count: found.length, first, where, verdict: found.length ? "amiss" : done ? "well" : "waiting", said: found.length ? `✕ ${found.length}` : done ? "none" : "…" };
    });
  },

  showPlace({ first }) {
    this.picturing.setView("Layer");
    this.setLayer(first.layer);
    this.picturing.lookAt(first.at);
  },
});
