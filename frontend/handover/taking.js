// Looking at what would leave, taking it, and making again what has left.
import { Newest } from "../newest.js";
import { NewestWins, hasChanged, jobs, postForFile, postLong, stopJob } from "../server.js";
import { saveAs } from "../workspace/handover.js";
import { tellSettled, watched } from "../workspace/settled.js";

const looks = new NewestWins(tellSettled);
const found = new Newest();

function sizeSaid(bytes) {
  if (bytes < 1000) return `${bytes} B`;
  const [unit, size] = bytes < 1e6 ? ["kB", 1e3] : ["MB", 1e6];
  return `${Number((bytes / size).toPrecision(3))} ${unit}`;
}

export const taking = () => ({
  needs: ["newer", "choosing"],

  address: "",
  title: "",
  files: [],
  warnings: [],
  pictures: [],
  past: [],
  said: "",
  complaint: "",
  hint: "",
  working: 0,
  refusedAgain: null,

  begin({ study, title, past, refused }) {
    this.address = `/studies/${study}/package`;
    this.title = title;
    this.past = this.pastSaid(past);
    if (refused) this.complaint = refused;
  },

  pastSaid(past) {
    return past.map((one) => ({
      ...one,
      revisionSaid: one.now ? "this revision" : `r${one.revision}`,
      what: `${one.files} file${one.files === 1 ? "" : "s"} (${one.said}), ${sizeSaid(one.bytes)}`,
    }));
  },

  get isWorking() {
    return this.working > 0;
  },

  get takeSaid() {
    return this.files.length === 1 && !this.choosing.withManifest ? "Hand over the file" : "Hand over as ZIP";
  },

  get canAnyway() {
    return this.refusedAgain !== null;
  },

  complain(error) {
    this.complaint = error?.message ?? "";
    this.hint = error?.hint ?? "";
  },

  dismiss() {
    this.complain();
    this.refusedAgain = null;
  },

  // Carries out work of which only the newest is shown.
  look() {
    found.drop();
    looks.ask(() => watched(() => this.lookNow()));
  },

  async lookNow() {
    this.working += 1;
    this.said = "working it out";
    this.refusedAgain = null;
    const state = this.newer.now();
    try {
      const answer = await found.of(async () => [await postLong(`${this.address}/look`, { order: this.choosing.order }, 120), await state]);
      if (!answer) return;
      const [{ manifest, pictures }, shown] = answer;
      this.newer.shows(shown);
      this.complain();
      this.files = manifest.files.map((one) => ({ name: one.name, preset: one.preset || "as it is", size: sizeSaid(one.bytes), digest: one.sha256.slice(0, 12) }));
      this.warnings = manifest.warnings;
      this.pictures = pictures
        .filter((one) => one.svg)
        .map((one) => ({ preset: one.preset, said: one.preset || "as it is", source: `data:image/svg+xml;charset=utf-8,${encodeURIComponent(one.svg)}` }));
    } catch (error) {
      this.complain(error);
      Object.assign(this, { files: [], warnings: [], pictures: [] });
    } finally {
      this.working -= 1;
      this.said = "";
    }
  },

  stop() {
    Promise.allSettled([...jobs.keys()].map(stopJob));
  },

  take() {
    return watched(async () => {
      this.working += 1;
      this.said = "handing over";
      try {
        const alone = this.files.length === 1 && !this.choosing.withManifest;
        const name = alone ? this.files[0].name : `${this.title}.zip`;
        const file = await postForFile(`${this.address}/take`, { order: this.choosing.order, with_manifest: this.choosing.withManifest });
        saveAs(file, name);
        this.complain();
        await this.readPast();
      } catch (error) {
        await this.notTaken(error);
      } finally {
        this.working -= 1;
        this.said = "";
      }
    });
  },

  // Where the study has changed since it was looked at, it is looked at anew, and that is said.
  async notTaken(error) {
    if (!hasChanged(error)) return this.complain(error);
    await this.lookNow();
    if (!this.complaint) this.complain({ message: error.message, hint: "this is what would leave now; look at it, then hand over" });
  },

  // The list as the server has it now.
  async readPast() {
    const page = await (await fetch(this.address)).text();
    const state = new DOMParser().parseFromString(page, "text/html").getElementById("state");
    this.past = this.pastSaid(JSON.parse(state.textContent).past);
  },

  makeAgain(one, anyway = false) {
    return watched(async () => {
      this.working += 1;
      this.said = "making it again";
      this.refusedAgain = null;
      try {
        const file = await postForFile(`${this.address}/again`, { number: one.number, anyway });
        saveAs(file, one.name);
        this.complain();
      } catch (error) {
        this.complain(error);
        if (!anyway && error.hint?.includes("anyway")) this.refusedAgain = one;
      } finally {
        this.working -= 1;
        this.said = "";
      }
    });
  },

  makeAnyway() {
    return this.makeAgain(this.refusedAgain, true);
  },
});
