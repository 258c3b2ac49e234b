// The whole sheet as text, on the same text as its lines.
import { known } from "../known-words.js";
import { may } from "../may.js";
import { getJson } from "../server.js";
import { watched } from "./settled.js";
import { edit } from "./edit.js";
import { box } from "../elements.js";
const PAUSE = 900; // milliseconds without a key before what was typed is saved

let editor = null;
let timer = null;

export const text = () => ({
  needs: ["saving", "showing", "writing", "words"],

  asText: false,
  wholeWindow: false, // whether the text has the place of stage and faceplate too
  typedSheet: "",
  /** @type {import("../answers").VocabularySaid | null} */
  vocabulary: null,
  sheetAway: false,

  begin() {
    this.sheetAway = !may("read");
    watched(async () => this.takeVocabulary(await getJson("/vocabulary"))).catch(() => {
      // Lines can be written without what is offered, too.
    });
  },

  takeVocabulary(vocabulary) {
    for (const { name } of vocabulary.words) known.add(name);
    this.vocabulary = vocabulary;
  },

  async toggleText() {
    if (!may("edit")) return;
    if (!(await this.writing.keepDraft())) return;
    this.writing.closeLine();
    this.typedSheet = this.saving.savedWhole;
    this.asText = !this.asText;
    if (!this.asText) this.closeText();
  },

  toggleWhole() {
    this.wholeWindow = !this.wholeWindow;
    box("#as-text .cm-content")?.focus();
  },

  get wholeSaid() {
    return this.wholeWindow ? "Beside the picture" : "Over the whole window";
  },

  get wholeClass() {
    if (this.sheetAway) return "sheet-away";
    return this.asText && this.wholeWindow ? "text-alone" : "";
  },

  // Visitors see the picture and the faceplate first.
  toggleSheet() {
    this.sheetAway = !this.sheetAway;
  },

  textDraft() {
    return this.typedSheet === this.saving.savedWhole ? null : { whole: this.typedSheet };
  },

  async mountText(host) {
    const createEditor = await this.writing.editorMaker();
    if (!createEditor) return this.toggleText();
    if (!host.isConnected) return;
    editor?.destroy();
    editor = createEditor(host, {
      text: this.typedSheet,
      label: "The sheet as text",
      whole: true,
      sheet: this.writing.sheetForEditor(),
      changed: (typed) => {
        this.typedSheet = typed;
        this.showing.refresh();
        clearTimeout(timer);
        timer = setTimeout(() => this.saveText(), PAUSE);
      },
      commit: () => this.saveText(),
      leave: () => this.toggleText(),
      lookUp: (word) => this.words.lookUp(word),
      makeInput: async (name) => {
        const line = editor.lineOf(name);
        if (await this.saveText()) this.saving.change("edit", edit({ edit: "unknown_to_input", name, line }));
      },
    });
    editor.focus();
  },

  closeText() {
    editor?.destroy();
    editor = null;
  },

  async saveText() {
    clearTimeout(timer);
    const draft = this.textDraft();
    return !draft || this.saving.change("edit", edit({ edit: "rewrite", text: draft.whole }));
  },

  // A change made elsewhere on the screen shows in the text, unless something is being typed.
  followText(saved, before) {
    if (!this.asText || !editor || this.typedSheet !== before) return;
    this.typedSheet = saved;
    editor.setText(saved);
  },

  showProblemsInText(problems) {
    editor?.setProblems(problems);
  },
});
