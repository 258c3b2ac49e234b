// What the page knows beside what the scripts declare.
import type { SceneSaid } from "./scene";
import type { Stage } from "./stage/stage.js";

// What is shown of a study: all of a scene, or its lines alone where it could not be worked out.
export type Shown = Partial<SceneSaid> & { stopped?: string };

declare global {
  interface Window {
    ovolo: { stage?: Stage & Record<string, any>; [room: string]: any };
  }
}
