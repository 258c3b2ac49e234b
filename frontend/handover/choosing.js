// What leaves: parts, presets, formats with their options, a drawing, the sheet, and the rule for names.

export const choosing = () => ({
  needs: ["taking"],

  parts: [],
  left: [], // names of parts that stay
  settings: [""], // the presets, "" for the study as it is
  trials: [], // pinned in contact sheets, each with its values
  at: [""],
  formats: [],
  wanted: {}, // by ending: whether each part has its file, and the options
  drawings: [],
  views: [],
  papers: [],
  scales: [],
  paper: { ending: "", view: "", paper: "", scale: "", figures: "", dashed: "", schedule: "", checks: "" },
  rule: "",
  places: [],
  text: false,
  withManifest: true,

  begin(state) {
    const { parts, presets, trials, formats, drawings, views, papers, scales, rule, places } = state;
    Object.assign(this, { parts, trials, formats, drawings, views, papers, scales, rule, places });
    this.settings = ["", ...presets];
    if (formats.some((one) => one.ending === "stl")) this.wanted = { stl: { each: true, options: {} } };
  },

  get order() {
    const { ending, ...layout } = this.paper;
    const all = !this.left.length;
    return {
      parts: all ? [] : this.parts.filter((one) => this.isChosen(one)).map((one) => one.name),
      presets: this.settings.filter((one) => this.at.includes(one)),
      trials: this.trials.filter((one) => this.at.includes(one.title)),
      formats: Object.entries(this.wanted).map(([format, one]) => ({ ending: format, each: one.each, options: { ...one.options } })),
      papers: ending ? [{ ending, layout }] : [],
      rule: this.rule,
      text: this.text,
    };
  },

  isChosen(one) {
    return !this.left.includes(one.name);
  },

  choosePart(one) {
    this.left = this.isChosen(one) ? [...this.left, one.name] : this.left.filter((name) => name !== one.name);
    this.taking.look();
  },

  get settingTitles() {
    return [...this.settings, ...this.trials.map((one) => one.title)];
  },

  settingSaid(one) {
    return one || "as it is";
  },

  isAt(one) {
    return this.at.includes(one);
  },

  chooseAt(one) {
    this.at = this.isAt(one) ? this.at.filter((other) => other !== one) : [...this.at, one];
    this.taking.look();
  },

  isWanted(one) {
    return one.ending in this.wanted;
  },

  chooseFormat(one) {
    const { [one.ending]: known, ...others } = this.wanted;
    this.wanted = known ? others : { ...this.wanted, [one.ending]: { each: false, options: {} } };
    this.taking.look();
  },

  isEach(one) {
    return this.wanted[one.ending]?.each === true;
  },

  setEach(one, { target }) {
    this.wanted = { ...this.wanted, [one.ending]: { ...this.wanted[one.ending], each: target.value === "each" } };
    this.taking.look();
  },

  optionsOf(one) {
    return this.isWanted(one) ? one.options : [];
  },

  isOption(one, option, choice) {
    return (this.wanted[one.ending]?.options[option.name] ?? option.choices[0]) === choice;
  },

  setOption(one, option, { target }) {
    const known = this.wanted[one.ending];
    this.wanted = { ...this.wanted, [one.ending]: { ...known, options: { ...known.options, [option.name]: target.value } } };
    this.taking.look();
  },

  setPaper(name, { target }) {
    this.paper = { ...this.paper, [name]: target.value };
    this.taking.look();
  },

  tickPaper(name, { target }) {
    this.paper = { ...this.paper, [name]: target.checked ? "yes" : "" };
    this.taking.look();
  },

  setRule({ target }) {
    this.rule = target.value;
    this.taking.look();
  },

  addPlace(place) {
    this.rule = `${this.rule} ${place}`.trim();
    this.taking.look();
  },

  toggleText() {
    this.text = !this.text;
    this.taking.look();
  },

  toggleManifest() {
    this.withManifest = !this.withManifest;
  },
});
