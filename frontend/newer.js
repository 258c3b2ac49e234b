// Whether the study, a file or a study that it rests on has changed since what this page shows was worked out of it.
import { getJson } from "./server.js";

const ASK_EVERY = 4000; // milliseconds

export const newer = () => ({
  needs: [],

  address: "",
  shown: null, // the state of the study that the page shows
  isNewer: false,

  begin({ study }) {
    this.address = `/studies/${study}/standing`;
    setInterval(() => this.look(), ASK_EVERY);
    addEventListener("focus", () => this.look());
  },

  // The state there is now; asked for before something is worked out of it. Null where that is not told.
  async now() {
    try {
      /** @type {import("./answers").StandingSaid} */
      const { shown } = await getJson(this.address);
      return shown;
    } catch {
      return null; // whatever is asked for next says why
    }
  },

  // What was worked out of that state is shown now.
  shows(state) {
    Object.assign(this, { shown: state, isNewer: false });
  },

  async look() {
    const { shown } = this;
    if (!shown || document.hidden) return;
    const now = await this.now();
    if (this.shown === shown) this.isNewer = now !== null && now !== shown;
  },
});
