// The simulated printer: it reads the G-code in pieces, and shows how far it is.
import { postLong } from "../server.js";
import { watched } from "../workspace/settled.js";
import { laid } from "./printing.js";
import { amount, duration } from "./saying.js";

const PIECE = 20;

export const simulating = () => ({
  laidDown: null,

  forgetRun() {
    this.laidDown = null;
  },

  runPrinter() {
    return watched(async () => {
      this.stop();
      this.complain();
      const run = this.beginRun();
      const sum = { volume: 0, line: 0, travel: 0, seconds: 0, moves: 0 };
      let at = null;
      this.done = 0;
      try {
        while (this.done < this.count && this.run === run) {
          const first = this.done;
          const last = Math.min(first + PIECE, this.count);
          /** @type {import("../answers").PrintedSaid} */
          const piece = await postLong(`${this.address}print/run`, { ...this.asked, plate: this.plate, first, last, at });
          if (this.run !== run) return;
          for (const key of Object.keys(sum)) sum[key] += piece[key];
          at = piece.at;
          this.done = last;
          this.laidDown = { ...sum };
          this.setLayer(last - 1);
        }
      } catch (error) {
        if (this.run === run) this.complain(error);
      }
      this.endRun(run);
    });
  },

  get laidSaid() {
    const sum = this.laidDown;
    if (!sum || !laid.print) return [];
    const own = this.total((one) => one.volume);
    const away = own ? (100 * (sum.volume - own)) / own : 0;
    return [
      { label: "laid down, by its count", said: `${amount(sum.volume / 1000)} cm³` },
      { label: "of the solid", said: `${amount(laid.print.plates[this.plate].solid / 1000)} cm³` },
      { label: "beside the bench's figure", said: Math.abs(away) < 0.005 ? "the same" : `${away < 0 ? "−" : "+"}${amount(Math.abs(away))} %` },
      { label: "time", said: duration(sum.seconds) },
      { label: "line, travel", said: `${amount(sum.line / 1000)} m, ${amount(sum.travel / 1000)} m` },
      { label: "moves", said: amount(sum.moves) },
    ];
  },
});
