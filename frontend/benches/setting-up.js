// What is set on a bench: the machine's profile, what is set otherwise, and what the parts are.
import { dialog } from "../elements.js";
import { may } from "../may.js";
import { InTurn, Newest } from "../newest.js";
import { getJson, hasChanged, postForJson } from "../server.js";
import { watched } from "../workspace/settled.js";

const profiles = new Newest();
const keeping = new InTurn();
const same = (one, other) => JSON.stringify(one) === JSON.stringify(other);

export const settingUp = () => ({
  needs: ["making"],

  address: "",
  kind: "",
  title: "",
  profiles: [],
  machine: "",
  settings: {},
  roles_said: {},
  /** @type {import("../answers").SettingsSaid[]} */
  rail: [],
  /** @type {import("../answers").BenchPartSaid[]} */
  parts: [],
  roles: [],
  /** @type {import("../answers").RefusedSaid[]} */
  refused: [],
  isThere: false, // whether something is laid out
  laidWith: undefined, // what was asked for when it was laid out last
  complaint: "",
  hint: "",
  profileText: "",
  profileComplaint: "",
  isOwn: false,

  begin({ study, title, kind, profiles, kept }) {
    this.address = `/studies/${study}/`;
    this.title = title;
    this.kind = kind;
    this.profiles = profiles;
    this.machine = profiles.some((one) => one.title === kept.machine) ? kept.machine : profiles[0].title;
    this.settings = kept.settings ?? {};
    this.roles_said = kept.roles ?? {};
  },

  get asked() {
    return { machine: this.machine, settings: { ...this.settings }, roles: { ...this.roles_said } };
  },

  get isChanged() {
    return Object.keys(this.settings).length > 0;
  },

  // What can be set, and what of it was laid out; or why nothing was.
  /** @param {import("../answers").LaidOutSaid} said  @param {object | null} laid */
  takeSetUp({ parts, roles, rail, refused, failure }, laid) {
    Object.assign(this, { parts, rail, roles, refused, isThere: Boolean(laid) });
    if (failure) this.complain({ message: failure.said, hint: failure.hint });
  },

  isSet(one) {
    return one.name in this.settings;
  },

  // Of what is set with another unit, what was typed stands there until it is read.
  shownOf(one) {
    return one.said;
  },

  unitOf(one) {
    return one.unit;
  },

  complain(error) {
    this.complaint = error?.message ?? "";
    this.hint = error?.hint ?? "";
  },

  // Where the study has changed since it was laid out, it is laid out anew, and that is said.
  async amiss(error) {
    if (!hasChanged(error)) return this.complain(error);
    await this.making.again();
    if (!this.complaint) this.complain({ message: error.message, hint: "it is laid out anew; look at it, then ask again" });
  },

  dismiss() {
    this.complain();
  },

  // A setting that is refused leaves all as it was: also what was set just before, and not laid yet.
  async changed(what, name, target, shown) {
    const before = this[what];
    this[what] = { ...before, [name]: target.value };
    if (await this.making.again()) return this.keepSettings();
    this[what] = before;
    target.value = shown;
    if (!this.laidWith || same(this.asked, this.laidWith)) return;
    const { complaint: message, hint } = this;
    const laying = this.making.again();
    this.complain({ message, hint }); // it is read while the rest is laid out
    if (await laying) this.keepSettings();
    else Object.assign(this, { settings: this.laidWith.settings, roles_said: this.laidWith.roles });
    this.complain({ message, hint });
  },

  setSetting(one, { target }) {
    return this.changed("settings", one.name, target, one.said);
  },

  setRole(part, { target }) {
    return this.changed("roles_said", part.name, target, part.role);
  },

  async chooseMachine({ target }) {
    profiles.drop();
    this.machine = target.value;
    this.settings = {};
    if (await this.making.again()) this.keepSettings();
  },

  async asInProfile() {
    this.settings = {};
    if (await this.making.again()) this.keepSettings();
  },

  // What was kept may not fit any more: then the profile's own figures stand, and it is said why.
  async beginAnew() {
    if ((await this.making.again()) || !this.isChanged) return;
    const { complaint: message, hint } = this;
    this.settings = {};
    await this.making.again();
    this.complain({ message, hint });
  },

  keepSettings() {
    if (!may("edit")) return undefined; // it is set up for oneself
    const kept = watched(() => keeping.run(() => postForJson(`${this.address}${this.kind}/keep`, this.asked)));
    return kept.catch((error) => this.complain(error));
  },

  // --- the text of the profile ---

  openProfile() {
    return watched(async () => {
      try {
        /** @type {import("../answers").ProfileSaid | undefined} */
        const found = await profiles.of(() => getJson(`/benches/${this.profileOf}/profile?title=${encodeURIComponent(this.machine)}`));
        if (!found) return;
        Object.assign(this, { profileText: found.text, isOwn: found.own, profileComplaint: "" });
        dialog("profile").showModal();
      } catch (error) {
        this.complain(error);
      }
    });
  },

  closeProfile() {
    dialog("profile").close();
  },

  typeProfile({ target }) {
    this.profileText = target.value;
  },

  get profileOf() {
    return this.kind === "print" ? "printer" : "cutter";
  },

  keepProfile() {
    return this.withProfiles("keep", { text: this.profileText });
  },

  forgetProfile() {
    return this.withProfiles("forget", { title: this.machine });
  },

  // Another profile is the machine's; why not is said within the profile's own window.
  withProfiles(action, body) {
    return watched(async () => {
      try {
        /** @type {import("../answers").ProfilesSaid} */
        const { title, profiles } = await postForJson(`/benches/${this.profileOf}/${action}`, body);
        Object.assign(this, { profiles, machine: title ?? profiles[0].title, settings: {} });
        this.closeProfile();
      } catch (error) {
        this.profileComplaint = [error.message, error.hint].filter(Boolean).join(": ");
        return;
      }
      if (await this.making.again()) this.keepSettings();
    });
  },
});
