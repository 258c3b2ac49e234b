// Questions about the study as it is seen now, asked beside the scene.
import { NoServer, postForJson } from "../server.js";

export const asking = () => ({
  needs: ["study", "saving", "writing"],

  // The answer to a question; null where the server refuses or cannot be reached, which is not
  // worth a complaint for what is shown in passing.
  async answerTo(action, asked) {
    const draft = this.writing.draft;
    try {
      return await postForJson(this.study.address + action, { ...(draft ? { text: draft.whole } : { revision: this.study.revision }), ...asked });
    } catch (error) {
      if (error instanceof NoServer) this.saving.fail(error);
      return null;
    }
  },
});
