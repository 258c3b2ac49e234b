// Saving: changes go one after another, each made from the revision the one before it gave. None
// is lost: without a server they wait; where another window was quicker, the person decides.
import Alpine from "../alpine.js";

import { getJson, NoServer, postForJson, Refusal } from "../server.js";
import { queue, tellSettled, underWay, watched } from "./settled.js";

const ASK_EVERY = 4000; // milliseconds, whether another window changed the study
const LONGEST_PAUSE = 5000;

const waiting = []; // changes not yet accepted, the oldest first
let sending = false;

export const saving = () => ({
  title: "",
  savedWhole: "", // the text of the newest revision this window knows
  status: "",
  complaint: "",
  hint: "",
  needed: false,
  conflict: null, // a change that another window forestalled
  newer: null, // what another window did meanwhile
  canUndo: false,
  canRedo: false,
  undoSaid: "",
  redoSaid: "",
  files: [],

  begin(state) {
    this.address = `/studies/${state.study}/`;
    this.takeState(state);
    setInterval(() => this.lookForNewer(), ASK_EVERY);
    addEventListener("focus", () => this.lookForNewer());
    addEventListener("beforeunload", (event) => {
      if (waiting.length) event.preventDefault();
    });
  },

  takeState(state) {
    this.revision = state.revision;
    this.canUndo = state.can_undo;
    this.canRedo = state.can_redo;
    this.undoSaid = state.undo_said;
    this.redoSaid = state.redo_said;
    this.files = state.files;
    this.used = state.used;
    this.pictureOf({ study: this.address.split("/")[2], ...state });
    this.takeText(state.text.replaceAll("\r\n", "\n"));
    this.title = state.title;
    document.title = `${state.title} · Ovolo`;
  },

  takeText(text) {
    const before = this.savedWhole;
    this.savedWhole = text;
    this.followText(text, before);
  },

  // Sends one change and takes over the state after it; true where it was accepted.
  change(action, body) {
    const text = this.asText && body.edit !== "rewrite" && this.draftAsEdit();
    if (text) this.enqueue("edit", text); // what is being typed as text goes first
    return this.enqueue(action, body);
  },

  enqueue(action, body) {
    return new Promise((resolve) => {
      waiting.push({ action, body, resolve });
      underWay(1);
      this.status = "Saving";
      this.sendWaiting();
    });
  },

  async sendWaiting() {
    if (sending) return;
    sending = true;
    let pause = 500;
    while (waiting.length) {
      const [{ action, body, resolve }] = waiting;
      let accepted = false;
      try {
        const state = await postForJson(this.address + action, { revision: this.revision, ...body });
        accepted = true;
        this.takeState(state);
        this.status = "Saved";
        this.complain();
        this.conflict = null;
        this.newer = null;
      } catch (error) {
        if (error instanceof NoServer) {
          this.sayNoServer();
          await new Promise((wake) => setTimeout(wake, pause));
          pause = Math.min(pause * 2, LONGEST_PAUSE);
          continue;
        }
        this.status = "Not saved";
        this.fail(error);
        if (error.status === 409) this.conflict = { action, body, mine: this.revision, theirs: error.said.revision };
      }
      pause = 500;
      waiting.shift();
      this.forgetTurning(body);
      resolve(accepted);
      if (accepted) this.refresh();
      underWay(-1);
    }
    sending = false;
    Alpine.nextTick(tellSettled);
  },

  sayNoServer() {
    const count = waiting.length;
    this.status = count ? `No server: ${count} change${count > 1 ? "s wait" : " waits"}` : "No server";
  },

  fail(error) {
    this.needed = Boolean(error.said?.needed);
    if (error instanceof NoServer) return this.sayNoServer();
    if (!(error instanceof Refusal)) throw error;
    this.complain(error.message, error.hint);
  },

  // What was refused, and a way out of it; nothing, where all is well again.
  complain(message = "", hint = "") {
    this.complaint = message;
    this.hint = hint;
  },

  undo() {
    return this.step("undo");
  },

  redo() {
    return this.step("redo");
  },

  // A line that is being typed is kept first, so that it too can be taken back.
  async step(action) {
    if (!(await this.keepDraft())) return;
    if (this.isOpen) this.closeLine();
    if (action === "undo" ? this.canUndo : this.canRedo) await this.change(action, {});
  },

  get undoTitle() {
    return this.canUndo ? `Take back: ${this.undoSaid}` : "Nothing to take back";
  },

  get redoTitle() {
    return this.canRedo ? `Make again: ${this.redoSaid}` : "Nothing to make again";
  },

  dismiss() {
    this.complain();
    this.conflict = null;
  },

  // --- two windows on one study ---

  async lookForNewer() {
    if (document.hidden || sending || waiting.length || this.conflict || queue.busy) return;
    try {
      const state = await getJson(`${this.address}state`);
      if (sending || waiting.length) return;
      if (this.status.startsWith("No server")) {
        this.status = "Saved";
        this.refresh();
      }
      this.newer = state.revision === this.revision ? null : state;
      this.lookAtUsed(state.used);
    } catch (error) {
      if (error instanceof NoServer) this.sayNoServer();
    }
  },

  // A study that this one uses was changed: what follows from it is worked out again.
  lookAtUsed(used) {
    if (JSON.stringify(used) === JSON.stringify(this.used)) return;
    this.used = used;
    this.refresh();
  },

  get newerSaid() {
    return this.newer?.undo_said || "it was taken back to an earlier state";
  },

  // Shows what the other window did. A line that is being typed is kept, as a change of its own.
  lookAtNewer() {
    return watched(() => this.takeNewer());
  },

  async takeNewer() {
    const draft = this.draftAsEdit();
    const mine = this.revision;
    this.takeState(await getJson(`${this.address}state`));
    if (draft) this.conflict = { action: "edit", body: draft, mine, theirs: this.revision };
    else if (this.conflict) this.conflict.theirs = this.revision;
    this.newer = null;
    this.complain(this.conflict ? "This is the state of the other window; your change is kept aside." : "");
    this.closeLine();
    this.refresh();
  },

  // Makes the change from the state it was meant for, and lets that be the newest.
  async takeOver() {
    const { action, body, mine } = this.conflict;
    const { revision } = await watched(() => getJson(`${this.address}state`));
    this.conflict = null;
    this.complain();
    this.revision = revision;
    if (await this.change(action, { ...body, mine })) this.closeLine();
  },

  async saveAsCopy() {
    const { body, mine } = this.conflict;
    try {
      const copy = await postForJson(`${this.address}edit-copy`, { ...body, mine });
      location.assign(`/studies/${copy.study}/`);
    } catch (error) {
      this.fail(error);
    }
  },

  get canTakeOver() {
    return this.conflict?.action === "edit";
  },
});
