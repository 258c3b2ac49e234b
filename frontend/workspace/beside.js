// The other studies of the project: who uses this one, which it may use, and swapping one for another.
import { Newest } from "../newest.js";
import { getJson } from "../server.js";
import { freeName } from "../sheet/rows.js";
import { edit } from "./edit.js";

const looks = new Newest();
const swaps = new Newest();

export const beside = () => ({
  needs: ["study", "saving", "showing", "writing", "drawer"],

  /** @type {import("../answers").OtherStudySaid[]} */
  others: [],
  /** @type {import("../answers").UserSaid[]} */
  users: [],
  swapping: null, // the `use` line that is to be pointed at another study
  /** @type {import("../answers").Swap[]} */
  swaps: [],

  lookBeside() {
    return this.drawer.fileWork(async () => {
      /** @type {import("../answers").BesideSaid | undefined} */
      const found = await looks.of(() => getJson(`${this.study.address}beside`));
      if (found) Object.assign(this, { others: found.others, users: found.users });
    });
  },

  studyAddress(other) {
    return `/studies/${other.study}/`;
  },

  inputsSaid(other) {
    return other.inputs.length ? other.inputs.join(", ") : "no inputs";
  },

  userSaid(user) {
    const sets = user.inputs.length ? `sets ${user.inputs.join(", ")}` : "sets nothing";
    return `line ${user.line} as ${user.name}, ${sets}`;
  },

  async useStudy(other) {
    const name = freeName(other.title.toLowerCase(), this.showing.rows);
    const last = this.showing.rows.findLast((row) => ["study", "units", "use", "file"].includes(row.type)) ?? { line: 0, height: 1 };
    const quoted = other.title.replace(/["\\]/g, "\\$&");
    if (!(await this.writing.keepDraft())) return;
    const text = `use ${name} from "${quoted}"`;
    await this.saving.change("edit", edit({ edit: "insert", after: last.line + last.height - 1, text }));
  },

  isUse(row) {
    return row.type === "use" && Boolean(row.own);
  },

  isSwapping(row) {
    return this.swapping === row.own;
  },

  async beginSwap(row) {
    swaps.drop();
    if (this.isSwapping(row)) return (this.swapping = null);
    await this.drawer.fileWork(async () => {
      const found = await swaps.of(() => getJson(`${this.study.address}swaps/${encodeURIComponent(row.own)}`));
      if (found) Object.assign(this, { swaps: found.swaps, swapping: row.own });
    });
  },

  // What speaks against a study, or else what is different; with `all`, both.
  /** @param {import("../answers").Swap} one */
  swapSaid(one, all = false) {
    const said = [];
    if (one.missing.length) said.push(`lacks ${one.missing.join(", ")}, set here`);
    if (one.misfits.length) said.push(`other kinds: ${one.misfits.join("; ")}`);
    if (one.unread.length) said.push(`yields no ${one.unread.join(", ")}, read here`);
    const apart = [
      one.extra.length ? `has more: ${one.extra.join(", ")}` : "",
      one.without.length ? `without ${one.without.join(", ")}` : "",
    ].filter(Boolean);
    if (one.fits || all) said.push(...apart);
    return said.join(" · ") || "the same inputs";
  },

  swapMark(one) {
    return one.fits ? "✓ fits" : "✕ misfits";
  },

  swapClass(one) {
    return one.fits ? "tag holds" : "tag fails";
  },

  async swapFor(one) {
    const change = edit({ edit: "swap", name: this.swapping, title: one.title });
    if (!(await this.writing.keepDraft())) return;
    if (await this.saving.change("edit", change)) {
      this.swapping = null;
      this.writing.leave();
    }
  },
});
