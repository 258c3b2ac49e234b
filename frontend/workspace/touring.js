// The tour: five steps over the real screen, on the first opening or when it is asked for. It stands beside what it tells
// of, and takes no click that is not meant for it.
import Alpine from "../alpine.js";
import { box } from "../elements.js";
import { may } from "../may.js";

const SEEN = "ovolo.tour";
const GAP = 12;
const HEAD = 44; // what stands at the top of the page, and of the picture
const SIZE = { width: 300, height: 170 };

const STEPS = [
  { at: "#sheet-side", title: "The sheet", said: "Every line is an input, a formula, a part or a check; click one to change it. What it yields stands at its right." },
  { at: "#stage", title: "The picture", said: "Whatever is a part is drawn here. Drag to turn the view, click a part to see which line makes it; its handles turn inputs." },
  { at: "#faceplate-side", title: "The faceplate", said: "A slide rule for each input. Turn one, and everything that depends on it follows: sheet, picture, checks." },
  { at: "#sheet-side > footer", title: "What holds and what does not", said: "Checks, problems, parts and files are listed here. A line with a problem says what is wrong and what would help; all others stay." },
  { at: "header [data-tour]", title: "Words", said: "Every word of the language, found by name or by need, with an example to try. F1 looks up the word at the cursor." },
];

export const touring = () => ({
  tourAt: -1,
  tourBox: null, // where what is told of stands
  tourSteps: STEPS.length,

  begin(state) {
    addEventListener("resize", () => this.placeTour());
    const begun = new URLSearchParams(location.search).get("tour") === "yes";
    if (begun || (may("edit") && !state.guided && !localStorage.getItem(SEEN))) Alpine.nextTick(() => this.beginTour());
  },

  beginTour() {
    localStorage.setItem(SEEN, "seen");
    this.tourAt = 0;
    this.placeTour();
  },

  endTour() {
    this.tourAt = -1;
  },

  get isTouring() {
    return this.tourAt >= 0;
  },

  get tourStep() {
    return { ...STEPS[Math.max(this.tourAt, 0)], number: this.tourAt + 1 };
  },

  get tourOn() {
    return this.tourAt + 1 < STEPS.length ? "Next" : "Done";
  },

  // What is not on the screen, for it is folded away, is passed over.
  nextStep(by) {
    let at = this.tourAt + by;
    while (STEPS[at] && !rectOf(STEPS[at])) at += by;
    if (at >= STEPS.length) return this.endTour();
    this.tourAt = Math.max(at, 0);
    return this.placeTour();
  },

  placeTour() {
    if (this.isTouring) this.tourBox = rectOf(STEPS[this.tourAt]);
  },

  get tourRing() {
    const { left, top, width, height } = this.tourBox ?? { left: 0, top: 0, width: 0, height: 0 };
    return { left: `${left + 2}px`, top: `${top + 2}px`, width: `${width - 4}px`, height: `${height - 4}px` };
  },

  get tourCard() {
    return placeOf(this.tourBox);
  },
});

function rectOf(step) {
  const rect = box(step.at)?.getBoundingClientRect();
  return rect?.width && rect.height ? rect : null;
}

// Beside what is told of where there is room: right, left, above, below; else in its corner.
function placeOf(rect) {
  const { width, height } = SIZE;
  if (!rect) return { left: `${GAP}px`, top: `${GAP + HEAD}px` };
  const within = (at, size, most) => Math.max(GAP, Math.min(at, most - size - GAP));
  const top = within(rect.top + GAP + HEAD, height, innerHeight); // below the words at the top of the picture
  const left = within(rect.left, width, innerWidth);
  if (rect.right + GAP + width <= innerWidth) return at(rect.right + GAP, top);
  if (rect.left - GAP - width >= 0) return at(rect.left - GAP - width, top);
  if (rect.top - GAP - height >= HEAD) return at(left, rect.top - GAP - height);
  if (rect.bottom + GAP + height <= innerHeight) return at(left, rect.bottom + GAP);
  return at(within(rect.right - width - GAP, width, innerWidth), top);
}

function at(left, top) {
  return { left: `${left}px`, top: `${top}px` };
}
