// Colours by what a piece of a line is: inputs in sanguine, words of the language, figures, texts.
import { Decoration, ViewPlugin } from "@codemirror/view";
import { RangeSetBuilder } from "@codemirror/state";

import { keysOf, tokensOf, unitTest } from "./tokens.js";

const MARKS = {};

function mark(kind) {
  MARKS[kind] ??= Decoration.mark({ class: `tok-${kind}` });
  return MARKS[kind];
}

export function colours(sheet) {
  const decorate = (view) => {
    /** @type {RangeSetBuilder<Decoration>} */
    const builder = new RangeSetBuilder();
    const vocabulary = sheet.vocabulary();
    const names = sheet.names();
    const words = new Set(vocabulary?.words.map((word) => word.name));
    const keys = keysOf(vocabulary);
    const isUnit = unitTest(vocabulary?.units ?? {});
    for (const { from, to } of view.visibleRanges) {
      for (const token of tokensOf(view.state.doc.sliceString(from, to), isUnit, keys)) {
        const kind = token.kind === "name" ? kindOf(token.name, names, words) : token.kind;
        if (kind) builder.add(from + token.from, from + token.to, mark(kind));
      }
    }
    return builder.finish();
  };
  return ViewPlugin.fromClass(
    class {
      constructor(view) {
        this.decorations = decorate(view);
      }

      update(update) {
        if (update.docChanged || update.viewportChanged || update.transactions.length) this.decorations = decorate(update.view);
      }
    },
    { decorations: (plugin) => plugin.decorations },
  );
}

function kindOf(name, names, words) {
  const known = names.get(name);
  if (known) return known.type === "input" ? "input" : "line";
  return words.has(name) ? "word" : null;
}
