// Several people at one study: who is here and at which line, and what they have changed.
import { may } from "../may.js";
import { getJson, NoServer, postForJson, THIS_WINDOW } from "../server.js";
import { queue } from "./settled.js";
import { turning } from "./faceplate.js";

const ASK_EVERY = 4000; // milliseconds

export const together = () => ({
  people: [], // the other windows in which this study is open
  newer: null, // what another did meanwhile

  begin() {
    setInterval(() => this.lookForNewer(), ASK_EVERY);
    addEventListener("focus", () => this.lookForNewer());
    addEventListener("pagehide", () => may("read") && this.sayGone());
    this.lookForNewer();
  },

  sayGone() {
    postForJson(`${this.address}news`, { window: THIS_WINDOW, gone: true }, { keepalive: true }).catch(() => null);
  },

  askNews() {
    if (!may("read")) return getJson(`${this.address}state`);
    return postForJson(`${this.address}news`, { window: THIS_WINDOW, line: this.editing });
  },

  async lookForNewer() {
    if (document.hidden || this.isSending || this.conflict || queue.busy) return;
    try {
      const news = await this.askNews();
      if (this.isSending || this.conflict) return;
      if (this.status.startsWith("No server")) {
        this.status = "Saved";
        this.refresh();
      }
      this.takePeople(news.people ?? []);
      this.takeStamp(news.remarks ?? "");
      if (news.may) document.body.dataset.may = news.may.join(" "); // a role may be changed while the page is open
      const isNew = news.revision !== this.revision;
      if (isNew && this.isAtRest) return await this.follow(news);
      this.newer = isNew ? news : null;
      this.lookAtUsed(news.used);
    } catch (error) {
      if (error instanceof NoServer) this.sayNoServer();
    }
    return undefined;
  },

  // Nothing is being typed or turned: what another changed is shown at once.
  get isAtRest() {
    return !this.isOpen && !this.opening && !this.asText && (!may("edit") || !Object.keys(turning).length);
  },

  // What was begun while the answer was under way is not taken away.
  async follow(news) {
    const { by, undo_said: said } = news;
    const state = await getJson(`${this.address}state`);
    if (!this.isAtRest) {
      this.newer = news;
      return;
    }
    this.showNewer(state);
    this.status = by || said ? [by, said].filter(Boolean).join(": ") : "Changed elsewhere";
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
    if (JSON.stringify(used) === JSON.stringify(this.used)) return;
    this.used = used;
    this.refresh();
  },

  get newerSaid() {
    const said = this.newer?.undo_said || "it was taken back to an earlier state";
    return this.newer?.by ? `${this.newer.by}: ${said}` : said;
  },
});
