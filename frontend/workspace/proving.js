// Proof: which values break the study, tried at the limits and proved for all values between them.
import { Newest } from "../newest.js";
import { postLong } from "../server.js";
import { edit } from "./edit.js";
import { turning } from "./faceplate.js";
import { watched } from "./settled.js";

const proofs = new Newest();

export const proving = () => ({
  needs: ["study", "saving", "writing"],

  /** @type {import("../answers").Proof | null} */
  proof: null,
  provedAt: null, // what was proved

  async prove() {
    if (!(await this.writing.keepDraft())) return;
    const { revision } = this.study;
    const at = this.saving.moment;
    try {
      const proof = await watched(() => proofs.of(() => postLong(`${this.study.address}proof`, { revision, set: { ...turning } })));
      if (proof) Object.assign(this, { proof, provedAt: at });
    } catch (error) {
      this.saving.fail(error);
    }
  },

  get proofIsOld() {
    return this.proof !== null && this.provedAt !== this.saving.moment;
  },

  /** @param {import("../answers").Verdict} verdict */
  proofSaid(verdict) {
    if (verdict.verdict !== "undecided" || !verdict.share) return verdict.verdict;
    const share = 100 * verdict.share;
    return `undecided on ${share < 0.01 ? "less than 0.01" : Number(share.toPrecision(2))} % of the range`;
  },

  proofClass(verdict) {
    return { "holds everywhere": "tag holds", fails: "tag fails" }[verdict.verdict] ?? "text-ink-soft";
  },

  /** @param {import("../answers").Breaking} one */
  breakingSaid(one) {
    const at = Object.entries(one.said).map(([name, said]) => `${name} ${said}`).join(", ");
    return at || "as it stands";
  },

  canGo(one) {
    return Object.keys(one.settings).length > 0;
  },

  goThere(one) {
    return this.saving.change("edit", edit({ edit: "take", values: one.settings, said: `where it fails: ${one.why || one.text}` }));
  },
});
