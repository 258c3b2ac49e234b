// Saving: changes go one after another, each made from the revision the one before it gave. None
// is lost: without a server they wait; where another was quicker at the same line, the person decides.
// Who may not change the study turns its inputs for themselves.
import Alpine from "../alpine.js";

import { may } from "../may.js";
import { InTurn } from "../newest.js";
import { getJson, NoServer, postForJson, Refusal } from "../server.js";
import { turning } from "./faceplate.js";
import { tellSettled, underWay, watched } from "./settled.js";

const LONGEST_PAUSE = 5000;
const SOON = 50;

const steps = new InTurn(); // of undo and redo: whether there is one more is known after the one before
const turns = new InTurn(); // of who turns inputs for themselves: each begins from what the one before it gave
const waiting = []; // changes not yet accepted, the oldest first
let sending = false;
let away = false; // whether the server did not answer when it was asked last

// Whether a click leads this window to another page.
function isFollowed(event, link) {
  const isPlain = !event.button && !event.ctrlKey && !event.metaKey && !event.shiftKey && !event.altKey;
  return isPlain && link && !link.target && !link.hasAttribute("download") && !link.getAttribute("href").startsWith("#");
}

export const saving = () => ({
  needs: ["study", "together", "showing", "writing", "text", "faceplate", "picturing"],

  title: "",
  savedWhole: "", // the text of the newest revision this window knows
  status: "",
  complaint: "",
  hint: "",
  needed: false,
  conflict: null, // a change that another window forestalled
  canUndo: false,
  canRedo: false,
  undoSaid: "",
  redoSaid: "",
  files: [],
  turnedHere: "{}", // the inputs that are at other values for this visitor alone than in the study, as text

  begin(state) {
    this.takeState(state);
    addEventListener("beforeunload", (event) => {
      if (waiting.length) event.preventDefault();
    });
    addEventListener("click", (event) => this.leaveAtRest(event));
  },

  /** @param {import("../answers").StateSaid} state */
  takeState(state) {
    this.study.revision = state.revision;
    this.canUndo = state.can_undo;
    this.canRedo = state.can_redo;
    this.undoSaid = state.undo_said;
    this.redoSaid = state.redo_said;
    this.files = state.files;
    this.study.used = state.used;
    if (may("edit")) this.picturing.pictureOf({ study: this.study.number, ...state });
    this.takeText(state.text.replaceAll("\r\n", "\n"));
    this.title = state.title;
    document.title = `${state.title} · Ovolo`;
  },

  takeText(text) {
    const before = this.savedWhole;
    this.savedWhole = text;
    this.text.followText(text, before);
  },

  // Sends one change and takes over the state after it; true where it was accepted.
  change(action, body) {
    if (!may("edit")) return this.turnAlone(body);
    const text = this.text.asText && body.edit !== "rewrite" && this.writing.draftAsEdit();
    if (text) this.enqueue("edit", text); // what is being typed as text goes first
    return this.enqueue(action, body);
  },

  // What is turned is turned here alone; anything else the server refuses, and says so.
  turnAlone(body) {
    return watched(() => turns.run(() => this.turnAloneNow(body)));
  },

  async turnAloneNow(body) {
    const present = { ...turning };
    try {
      /** @type {import("../answers").TurnedSaid} */
      const { set } = await postForJson(`${this.study.address}turned`, { ...body, present });
      for (const name of Object.keys({ ...turning, ...set })) {
        if (turning[name] !== present[name]) continue; // a hand has turned it further meanwhile
        if (name in set) turning[name] = set[name];
        else delete turning[name];
      }
      this.sayTurned();
      this.complain();
      this.showing.refresh();
      return true;
    } catch (error) {
      this.fail(error);
      return false;
    }
  },

  sayTurned() {
    if (!may("edit")) this.turnedHere = JSON.stringify(turning);
  },

  get turnedAlone() {
    return this.turnedHere !== "{}";
  },

  // One for one state of what is shown here: what was worked out of another may be old.
  get moment() {
    return `${this.study.revision} ${this.turnedHere}`;
  },

  // All inputs as they are in the study.
  turnBack() {
    return watched(() => turns.run(async () => {
      for (const name of Object.keys(turning)) delete turning[name];
      this.sayTurned();
      this.showing.refresh();
    }));
  },

  // What this window shows: its revision, with what is turned here alone.
  shown() {
    const turned = Object.keys(turning).length ? [["set", JSON.stringify(turning)]] : [];
    return [["revision", String(this.study.revision)], ...turned];
  },

  // The address of a file, or of a copy, of that.
  asSeen(address) {
    const url = new URL(address, location.href);
    for (const [name, said] of this.shown()) url.searchParams.set(name, said);
    return url.href;
  },

  enqueue(action, body) {
    return this.inTurn(() => postForJson(this.study.address + action, { revision: this.study.revision, ...body }), { action, body });
  },

  // Anything whose answer is the study's state goes after the changes before it: the state before a change
  // must not be taken for that after it.
  inTurn(send, said = { action: "", body: {} }) {
    return new Promise((resolve) => {
      waiting.push({ send, ...said, resolve });
      away = false; // it is asked anew
      underWay(1);
      this.status = "Saving";
      this.sendWaiting();
    });
  },

  // Once all that was changed so far is saved, or turned, or refused: what leaves is what was seen. Without a server nothing
  // leaves. False where what was on its way was not saved: then it is said why.
  async rested() {
    const waited = waiting.length > 0;
    await turns.run(async () => null);
    while (waiting.length && !away) await new Promise((wake) => setTimeout(wake, SOON));
    return !waited || (!waiting.length && this.status !== "Not saved");
  },

  // Who follows a link right after a change need not be asked about it: the link is followed once it is saved.
  async leaveAtRest(event) {
    const link = event.target instanceof Element ? event.target.closest("a[href]") : null;
    if (!waiting.length || away || event.defaultPrevented || !isFollowed(event, link)) return;
    event.preventDefault();
    if (await this.rested()) location.assign(link.href);
  },

  async sendWaiting() {
    if (sending) return;
    sending = true;
    let pause = 500;
    while (waiting.length) {
      const [{ send, action, body, resolve }] = waiting;
      let accepted = false;
      try {
        /** @type {import("../answers").StateSaid} */
        const state = await send();
        accepted = true;
        away = false;
        this.takeState(state);
        this.status = "Saved";
        this.complain();
        this.conflict = null;
        this.together.newer = null;
      } catch (error) {
        if (error instanceof NoServer) {
          this.sayNoServer();
          await new Promise((wake) => setTimeout(wake, pause));
          pause = Math.min(pause * 2, LONGEST_PAUSE);
          continue;
        }
        away = false;
        this.status = "Not saved";
        this.fail(error);
        if (error.status === 409) this.conflict = { action, body, mine: this.study.revision, theirs: error.said.revision, clashes: error.said.clashes ?? [] };
      }
      pause = 500;
      waiting.shift();
      this.faceplate.forgetTurning(body);
      resolve(accepted);
      if (accepted) this.showing.refresh();
      underWay(-1);
    }
    sending = false;
    Alpine.nextTick(tellSettled);
  },

  sayNoServer() {
    const count = waiting.length;
    away = true;
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
    if (!message && this.status === "Not saved") this.status = ""; // what was refused is forgotten
  },

  undo() {
    return this.step("undo");
  },

  redo() {
    return this.step("redo");
  },

  // A line that is being typed is kept first, so that it too can be taken back.
  step(action) {
    return steps.run(() => this.stepNow(action));
  },

  async stepNow(action) {
    if (!(await this.writing.keepDraft())) return;
    if (this.writing.isOpen) this.writing.closeLine();
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

  // --- changes of others ---

  // Shows what the other window did. A line that is being typed is kept, as a change of its own.
  lookAtNewer() {
    return watched(() => this.takeNewer());
  },

  async takeNewer() {
    const state = await this.stateNow();
    if (state) this.showNewer(state);
  },

  // The study as the server has it; undefined where something was saved here while that was on its way, for it is newer.
  /** @returns {Promise<import("../answers").StateSaid | undefined>} */
  async stateNow() {
    const { revision } = this.study;
    const state = await getJson(`${this.study.address}state`);
    return this.isSending || this.study.revision !== revision ? undefined : state;
  },

  showNewer(state) {
    const draft = this.writing.draftAsEdit();
    const mine = this.study.revision;
    this.takeState(state);
    if (draft) this.conflict = { action: "edit", body: draft, mine, theirs: this.study.revision, clashes: [] };
    else if (this.conflict) this.conflict.theirs = this.study.revision;
    this.together.newer = null;
    this.complain(this.conflict ? "This is the state of the other window; your change is kept aside." : "");
    this.writing.closeLine();
    this.showing.refresh();
  },

  // Makes the change from the state it was meant for, and lets that be the newest.
  async takeOver() {
    const { action, body, mine } = this.conflict;
    /** @type {import("../answers").StateSaid} */
    const { revision } = await watched(() => getJson(`${this.study.address}state`));
    this.conflict = null;
    this.complain();
    this.study.revision = revision;
    if (await this.change(action, { ...body, mine })) this.writing.closeLine();
  },

  async saveAsCopy() {
    const { body, mine } = this.conflict;
    try {
      /** @type {import("../answers").StudyTitleSaid} */
      const copy = await postForJson(`${this.study.address}edit-copy`, { ...body, mine });
      location.assign(`/studies/${copy.study}/`);
    } catch (error) {
      this.fail(error);
    }
  },

  get isSending() {
    return sending || waiting.length > 0;
  },

  // The value that an input is being set to by the newest change that is not accepted yet.
  valueOnItsWay(name) {
    return waiting.findLast(({ body }) => body.edit === "set" && body.name === name)?.body.value;
  },

  get clashes() {
    return this.conflict?.clashes ?? [];
  },

  lineSaid(line) {
    return line === null ? "(taken out)" : line;
  },

  get canTakeOver() {
    return this.conflict?.action === "edit";
  },
});
