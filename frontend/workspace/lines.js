// The lines of the sheet as they stand in the page: what each shows, how it looks at the moment, what it answers to.

export const lines = () => ({
  needs: ["drawer", "several", "keys", "together", "remarks", "looking", "faceplate"],

  // What `x-row` makes a line of (sheet/line-shown.js).
  of(row) {
    return {
      says: () => this.saidOf(row),
      looks: () => ({ className: this.classOf(row), tabIndex: this.keys.rowTab(row) }),
      hears: (event) => this.hear(event, row),
    };
  },

  // With what others say of it; told anew where any of it changes.
  saidOf(row) {
    const { mark, number_shown, title, colour, name, body, problem, hint, check, measured, number, unit } = row;
    return {
      line: row.line,
      note: row.note || "",
      aria: row.aria,
      shown: {
        ...{ mark, number_shown, title, colour, name, body, problem, hint, check, measured, number, unit },
        others: this.together.othersAt(row),
        remarks: this.remarks.saidAt(row),
        quiet: this.looking.looks.notes ? row.quiet : "",
        moved: this.faceplate.movedTo(row),
      },
    };
  },

  classOf(row) {
    const { threaded } = this.drawer;
    const untied = threaded && !threaded.tied.includes(row.line) && row.type !== "section";
    return `${row.classes}${untied ? " untied" : ""}${this.looking.isHovered(row) ? " pointed" : ""}${this.several.isPicked(row) ? " picked" : ""}`;
  },

  hear(event, row) {
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
