// The picture of a study that is kept with it, and what is said of the state it shows.
import { sendPicture } from "./server.js";

export function keepPicture(study, of, scene, png) {
  const { problems, failing } = wrongs(scene);
  return sendPicture(`/studies/${study}/keep-picture?of=${of}&problems=${problems}&failing=${failing}`, png);
}

// What is wrong, in words; empty where all is well.
export function wrongSaid(scene) {
  const { problems, failing } = wrongs(scene);
  return [counted(problems, "problem", "problems"), counted(failing, "check fails", "checks fail")].filter(Boolean).join(", ");
}

function wrongs({ problems, checks }) {
  return { problems: problems.filter((one) => !one.waiting).length, failing: checks.filter((check) => check.passed === false).length };
}

function counted(count, one, several) {
  return count ? `${count} ${count === 1 ? one : several}` : "";
}
