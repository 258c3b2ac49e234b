// The sun of a place, a day and an hour, for light and shadows; worked out by the server.
import { Newest } from "../newest.js";
import { getJson } from "../server.js";
import { watched } from "./settled.js";
import { keep, kept } from "./kept.js";

const LONDON = { shining: false, latitude: 51.5, date: "2026-06-21", hour: 10 };

const suns = new Newest();

export const sunlight = () => ({
  sun: LONDON,
  sunSaid: "",

  begin(state) {
    this.sun = { ...LONDON, ...kept(state.study, "sun", {}) };
    if (this.sun.shining) this.shine();
  },

  turnSun(name, event) {
    const { target } = event;
    this.sun = { ...this.sun, [name]: target.type === "checkbox" ? target.checked : target.value };
    keep("sun", this.sun);
    return this.shine();
  },

  async shine() {
    const { stage } = window.ovolo;
    this.sunSaid = "";
    suns.drop();
    if (!this.sun.shining) return stage.setSun(null);
    try {
      const { latitude, date, hour } = this.sun;
      const asked = new URLSearchParams(Object.entries({ latitude, day: dayOfYear(date), hour }).map(([name, value]) => [name, String(value)]));
      /** @type {import("../answers").SunSaid | undefined} */
      const found = await watched(() => suns.of(() => getJson(`/sun?${asked}`)));
      if (!found) return undefined;
      const { direction, height, turn } = found;
      stage.setSun(direction);
      this.sunSaid = height > 0 ? `${Math.round(height)}° high, ${Math.round(turn)}° from north` : "the sun is down";
    } catch (error) {
      stage.setSun(null);
      this.sunSaid = error.message;
    }
    return undefined;
  },

  get hourSaid() {
    const minutes = Math.round(Number(this.sun.hour) * 60);
    return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
  },
});

function dayOfYear(date) {
  const at = new Date(`${date}T00:00:00Z`);
  return Math.round((at.getTime() - Date.UTC(at.getUTCFullYear(), 0, 1)) / 86_400_000) + 1;
}
