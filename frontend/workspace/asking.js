// Questions about the study as it is seen now, asked beside the scene.
import { NoServer, postForJson } from "../server.js";

// The answer to a question; null where the server refuses or cannot be reached, which is not
// worth a complaint for what is shown in passing.
export async function answerTo(page, action, asked) {
  const draft = page.draft;
  try {
    return await postForJson(page.address + action, { ...(draft ? { text: draft.whole } : { revision: page.revision }), ...asked });
  } catch (error) {
    if (error instanceof NoServer) page.fail(error);
    return null;
  }
}
