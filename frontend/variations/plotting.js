// The plot: one figure against another, a dot a trial; brushed to filter; the frontier of two aims.
import { figureOf, figuresIn } from "./figures.js";
import { Plot } from "./plot.js";
import { results } from "./trying.js";

let plot = null;

export const plotting = () => ({
  needs: ["planning", "looking"],

  plotX: "",
  plotY: "",
  aims: { x: "", y: "" }, // less or more is wanted
  figures: [],
  brush: null, // { x: [low, high], y: [low, high] }

  begin() {
    plot = new Plot(document.getElementById("plot"), {
      brushed: (brush) => {
        this.brush = brush;
        this.looking.showCards();
      },
      chosen: (number) => {
        this.looking.chosen = number;
        this.looking.showCards();
      },
    });
  },

  drawPlot(made = results.trials.filter(Boolean)) {
    const figures = figuresIn(made, this.planning.values, this.planning.axes);
    if (JSON.stringify(figures) !== JSON.stringify(this.figures)) this.figures = figures;
    const names = figures.map((one) => one.name);
    if (!names.includes(this.plotX)) this.plotX = this.looking.variedIn(made).find((name) => names.includes(name)) ?? names[0] ?? "";
    if (!names.includes(this.plotY)) this.plotY = names.find((name) => this.planning.valuesShown.includes(name) && name !== this.plotX) ?? names.at(-1) ?? "";
    plot?.show(this.dotsOf(made), { labels: [this.labelOf(this.plotX), this.labelOf(this.plotY)], aims: this.aims });
  },

  dotsOf(made) {
    if (!this.plotX || !this.plotY) return [];
    return made
      .map((trial) => ({ number: trial.number, x: figureOf(trial, this.plotX), y: figureOf(trial, this.plotY), fails: Boolean(trial.why) }))
      .filter(({ x, y }) => typeof x === "number" && typeof y === "number");
  },

  labelOf(name) {
    return this.figures.find((one) => one.name === name)?.label ?? name;
  },

  setPlot(side, event) {
    this[side] = event.target.value;
    this.forgetBrush();
    this.drawPlot();
    this.looking.showCards();
  },

  setAim(side, event) {
    this.aims = { ...this.aims, [side]: event.target.value };
    this.drawPlot();
  },

  forgetBrush() {
    this.brush = null;
    plot?.clearBrush();
  },

  clearBrush() {
    this.forgetBrush();
    this.looking.showCards();
  },

  isInBrush(trial) {
    if (!this.brush) return true;
    const [x, y] = [figureOf(trial, this.plotX), figureOf(trial, this.plotY)];
    const within = (value, [low, high]) => typeof value === "number" && value >= low && value <= high;
    return within(x, this.brush.x) && within(y, this.brush.y);
  },

  get frontierSaid() {
    const { x, y } = this.aims;
    return x && y ? `— ${x} ${this.labelOf(this.plotX)}, ${y} ${this.labelOf(this.plotY)}` : "";
  },

  get plotted() {
    return this.figures.length > 1 && this.looking.met.all > 1;
  },
});
