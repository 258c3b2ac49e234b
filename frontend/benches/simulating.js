// The simulated printer: it reads the G-code in pieces, and shows how far it is.
import { postLong } from "../server.js";
import { watched } from "../workspace/settled.js";
import { laid } from "./printing.js";
import { amount, duration } from "./saying.js";

const PIECE = 20;

export const simulating = () => ({
  needs: ["settingUp", "working", "making"],

  laidDown: null,

  forgetRun() {
    this.laidDown = null;
  },

  runPrinter() {
    return watched(async () => {
      this.working.stop();
      this.settingUp.complain();
      const run = this.working.beginRun();
      const sum = { volume: 0, line: 0, travel: 0, seconds: 0, moves: 0 };
      let at = null;
      this.making.done = 0;
      try {
        while (this.making.done < this.making.count && this.working.run === run) {
          const first = this.making.done;
          const last = Math.min(first + PIECE, this.making.count);
          /** @type {import("../answers").PrintedSaid} */
          const piece = await postLong(`${this.settingUp.address}print/run`, { ...this.settingUp.asked, plate: this.making.plate, first, last, at });
          if (this.working.run !== run) return;
          for (const key of Object.keys(sum)) sum[key] += piece[key];
          at = piece.at;
          this.making.done = last;
          this.laidDown = { ...sum };
          this.making.setLayer(last - 1);
        }
      } catch (error) {
        if (this.working.run === run) await this.settingUp.amiss(error);
      }
      this.working.endRun(run);
    });
  },

  get laidSaid() {
    const sum = this.laidDown;
    if (!sum || !laid.print) return [];
    const own = this.making.total((one) => one.volume);
    const away = own ? (100 * (sum.volume - own)) / own : 0;
    return [
      { label: "laid down, by its count", said: `${amount(sum.volume / 1000)} cm³` },
      { label: "of the solid", said: `${amount(laid.print.plates[this.making.plate].solid / 1000)} cm³` },
      { label: "beside the bench's figure", said: Math.abs(away) < 0.005 ? "the same" : `${away < 0 ? "−" : "+"}${amount(Math.abs(away))} %` },
      { label: "time", said: duration(sum.seconds) },
      { label: "line, travel", said: `${amount(sum.line / 1000)} m, ${amount(sum.travel / 1000)} m` },
      { label: "moves", said: amount(sum.moves) },
    ];
  },
});
