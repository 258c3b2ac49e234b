// What the page knows beside what the scripts declare.
import type { Stage } from "./stage/stage.js";

declare global {
  interface Window {
    ovolo: { stage?: Stage & Record<string, any>; [room: string]: any };
  }
}
