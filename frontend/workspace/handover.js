// Handing files over: fetched first, so that a refusal is said on the page and not saved as a file.
import { fetchFile } from "../server.js";
import { folded } from "../elements.js";

export async function saveFrom(address, name) {
  saveAs(await fetchFile(address), name);
}

// Hands a file that is here already to the browser to be saved.
export function saveAs(blob, name) {
  const link = Object.assign(document.createElement("a"), { href: URL.createObjectURL(blob), download: name });
  link.click();
  URL.revokeObjectURL(link.href);
}

export const handover = () => ({
  needs: ["saving", "showing", "drawing"],

  notTicked: [], // names of parts that are not handed over
  handOverSaid: "",
  isOpen: false,

  followParts() {
    if (this.isOpen) this.sayHandOver();
  },

  // The parts to choose from are there while they are looked at: there may be a thousand.
  toggled({ target }) {
    this.isOpen = target.open;
    if (this.isOpen) this.sayHandOver();
  },

  get choice() {
    return this.isOpen ? this.showing.parts : [];
  },

  isTicked(part) {
    return !this.notTicked.includes(part.name);
  },

  tick(part) {
    this.notTicked = this.isTicked(part) ? [...this.notTicked, part.name] : this.notTicked.filter((name) => name !== part.name);
    this.sayHandOver();
  },

  // What would be handed over: how many pieces, of how many triangles, how large.
  sayHandOver() {
    const { stage } = window.ovolo;
    const models = this.showing.parts.filter((part) => this.isTicked(part)).map(({ name }) => stage.parts.get(name));
    if (!models.length) return (this.handOverSaid = this.showing.parts.length ? "no part is ticked" : "there is no part yet");
    const sum = (of) => models.reduce((all, { part }) => all + of(part), 0).toLocaleString("en-GB").replaceAll(",", "\u2009");
    const pieces = sum((part) => part.count);
    this.handOverSaid = `${pieces} piece${pieces === "1" ? "" : "s"}, ${sum((part) => part.triangles)} triangles, ${this.sizeSaid(models)}`;
    return this.handOverSaid;
  },

  sizeSaid(models) {
    const { symbol, size } = this.showing.lengthUnit;
    const bounds = models.map(({ part }) => part.bounds).filter(Boolean);
    const sides = [0, 1, 2].map((axis) => Math.max(...bounds.map(([, high]) => high[axis])) - Math.min(...bounds.map(([low]) => low[axis])));
    return `${sides.map((side) => Number((side / size).toPrecision(5))).join(" × ")} ${symbol}`;
  },

  // The address of what this window shows, with the parts that are ticked, where some are not.
  withTicked(address) {
    const url = new URL(this.saving.asSeen(address));
    const ticked = this.showing.parts.filter((part) => this.isTicked(part));
    for (const { name } of ticked.length < this.showing.parts.length ? ticked : []) url.searchParams.append("part", name);
    return url.href;
  },

  // Files are called by their study: all its parts, or what else there is of it.
  fileNamed(file) {
    return file.startsWith("parts.") ? file.replace("parts", this.drawing.fileTitle) : `${this.drawing.fileTitle}-${file}`;
  },

  // What the browser fetches itself: once all that was changed is saved.
  async atRest({ currentTarget }) {
    if (!(await this.saving.rested())) return;
    window.open(this.saving.asSeen(currentTarget.href), currentTarget.target || "_self", currentTarget.rel);
  },

  // A copy is of what is shown, and not of what was there before the last change.
  async copyAtRest({ target: form }) {
    if (!(await this.saving.rested())) return;
    for (const [name, value] of this.saving.shown()) form.append(Object.assign(document.createElement("input"), { type: "hidden", name, value }));
    form.submit();
  },

  async handOver(event) {
    const link = event.target.closest("a[download]");
    if (!link) return;
    event.preventDefault();
    if (this.showing.parts.length && this.showing.parts.every((part) => !this.isTicked(part))) return this.saving.complain("no part is ticked", "tick what is to be handed over");
    folded("hand-over").open = false;
    await this.saving.rested();
    try {
      await saveFrom(this.withTicked(link.href), this.fileNamed(decodeURIComponent(new URL(link.href).pathname.split("/").pop())));
      this.saving.complain(); // a refusal goes when the next succeeds
    } catch (error) {
      this.saving.fail(error);
    }
  },
});
