// Several people at one study: who is here and at which line, and what they have changed.
import { may } from "../may.js";
import { getJson, NoServer, postForJson, THIS_WINDOW } from "../server.js";
import { queue } from "./settled.js";
import { turning } from "./faceplate.js";

const ASK_EVERY = 4000; // milliseconds

export const together = () => ({
  needs: ["study", "saving", "remarks", "showing", "writing", "text"],

  /** @type {import("../answers").PersonSaid[]} */
  people: [], // the other windows in which this study is open
  newer: null, // what another did meanwhile

  begin() {
    setInterval(() => this.lookForNewer(), ASK_EVERY);
    addEventListener("focus", () => this.lookForNewer());
    addEventListener("pagehide", () => may("read") && this.sayGone());
    this.lookForNewer();
  },

  sayGone() {
    postForJson(`${this.study.address}news`, { window: THIS_WINDOW, gone: true }, { keepalive: true }).catch(() => null);
  },

  /** @returns {Promise<Partial<import("../answers").NewsSaid> & Pick<import("../answers").NewsSaid, "revision" | "used">>} */
  askNews() {
    if (!may("read")) return getJson(`${this.study.address}state`);
    return postForJson(`${this.study.address}news`, { window: THIS_WINDOW, line: this.writing.editing });
  },

  async lookForNewer() {
    if (document.hidden || this.saving.isSending || this.saving.conflict || queue.busy) return;
    const { revision } = this.study;
    try {
      const news = await this.askNews();
      if (this.saving.isSending || this.saving.conflict || this.study.revision !== revision) return; // it is older than what was saved here
      if (this.saving.status.startsWith("No server")) {
        this.saving.status = "Saved";
        this.showing.refresh();
      }
      this.takePeople(news.people ?? []);
      this.remarks.takeStamp(news.remarks ?? "");
      if (news.may) document.body.dataset.may = news.may.join(" "); // a role may be changed while the page is open
      const isNew = news.revision !== this.study.revision;
      if (isNew && this.isAtRest) return await this.follow(news);
      this.newer = isNew ? news : null;
      this.lookAtUsed(news.used);
    } catch (error) {
      if (error instanceof NoServer) this.saving.sayNoServer();
    }
    return undefined;
  },

  // Nothing is being typed or turned: what another changed is shown at once.
  get isAtRest() {
    return !this.writing.isOpen && !this.writing.opening && !this.text.asText && (!may("edit") || !Object.keys(turning).length);
  },

  // What was begun while the answer was under way is not taken away, nor what was saved.
  async follow(news) {
    const { by, undo_said: said } = news;
    const state = await this.saving.stateNow();
    if (!state) return;
    if (!this.isAtRest) {
      this.newer = news;
      return;
    }
    this.saving.showNewer(state);
    this.saving.status = by || said ? [by, said].filter(Boolean).join(": ") : "Changed elsewhere";
  },

  takePeople(people) {
    if (JSON.stringify(people) !== JSON.stringify(this.people)) this.people = people;
  },

  get peopleSaid() {
    const names = [...new Set(this.people.filter((one) => !one.me).map((one) => one.name))];
    return names.length ? `with ${names.join(", ")}` : "";
  },

  // Who has a line open, elsewhere.
  othersAt(row) {
    const here = this.people.filter((one) => one.line !== null && one.line >= row.line && one.line < row.line + row.height);
    return here.map((one) => (one.me ? "you, in another window" : one.name)).join(", ");
  },

  // A study that this one uses was changed: what follows from it is worked out again.
  lookAtUsed(used) {
    if (JSON.stringify(used) === JSON.stringify(this.study.used)) return;
    this.study.used = used;
    this.showing.refresh();
  },

  get newerSaid() {
    const said = this.newer?.undo_said || "it was taken back to an earlier state";
    return this.newer?.by ? `${this.newer.by}: ${said}` : said;
  },
});
