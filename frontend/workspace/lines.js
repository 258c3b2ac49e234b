// The lines of the sheet as they stand in the page: what each shows, how it looks at the moment, what it answers to.
import Alpine from "../alpine.js";

export const lines = () => ({
  needs: ["showing", "writing", "drawer", "several", "keys", "together", "remarks", "looking", "faceplate"],

  // All of them; looked through as they are, for watching each of thousands takes longer than to draw them.
  get all() {
    return Alpine.raw(this.showing.rows);
  },

  // What is said beside a line.
  besides() {
    const others = this.together.people.length ? (row) => this.together.othersAt(row) : () => "";
    const remarked = this.remarks.unsettled.length ? (row) => this.remarks.saidAt(row) : () => "";
    const { notes } = this.looking.looks;
    const moved = { ...this.faceplate.moved };
    return (row) => ({ others: others(row), remarks: remarked(row), quiet: notes ? row.quiet : "", moved: moved[row.line] ?? "" });
  },

  // How a line looks: which are tied to the one under the pointer, picked, folded away, open.
  looks() {
    const tied = this.drawer.threaded && new Set(this.drawer.threaded.tied);
    const picked = this.several.severalPicked ? (row) => this.several.isPicked(row) : () => false;
    const { hovered } = this.looking;
    const { editing } = this.writing;
    const folded = { ...this.writing.folded };
    const reached = this.keys.reachedLine;
    return (row) => {
      const section = row.type === "section";
      const untied = tied && !section && !tied.has(row.line);
      return {
        className: `${row.classes}${untied ? " untied" : ""}${row.line === hovered ? " pointed" : ""}${picked(row) ? " picked" : ""}`,
        tabIndex: row.line === reached ? 0 : -1,
        hidden: !section && Boolean(folded[row.section]),
        open: row.line === editing,
        fold: section ? this.writing.foldOf(row) : null,
      };
    };
  },

  at(line) {
    return this.showing.rows[this.all.findIndex((one) => one.line === line)];
  },

  fold(line) {
    this.writing.fold(this.at(line));
  },

  hear(event, line) {
    const row = this.at(line);
    if (!row) return;
    const answers = {
      mousedown: () => this.several.holdFocus(event),
      click: () => this.several.pressRow(event, row),
      keydown: () => this.keys.rowKey(event, row),
      focus: () => this.drawer.focusRow(row),
      blur: () => this.drawer.endThreads(),
      mouseenter: () => this.drawer.beginThreads(row),
    };
    answers[event.type]();
  },
});
