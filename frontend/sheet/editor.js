// The editor of a line, or of the whole sheet as text (CodeMirror).
import { acceptCompletion, closeBrackets, closeBracketsKeymap, closeCompletion, completionStatus, moveCompletionSelection, selectedCompletionIndex, startCompletion } from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { bracketMatching } from "@codemirror/language";
import { search, searchKeymap } from "@codemirror/search";
import { lintKeymap, setDiagnostics } from "@codemirror/lint";
import { EditorState, Prec } from "@codemirror/state";
import { drawSelection, EditorView, keymap, lineNumbers, placeholder } from "@codemirror/view";

import { argumentHints } from "./argument-hints.js";
import { colours } from "./colours.js";
import { completions } from "./completion.js";
import { scrubbing } from "./scrubbing.js";

const GOES_ON = /[-+*/^&=<>,([]\s*$|\b(?:and|or|not|then|else|if|in|by|from|to)\s*$|:\s*$/;

// Tab takes what is offered; Enter only what was chosen with the arrow keys, for it keeps the line.
const choosing = [
  { key: "Ctrl-Space", run: startCompletion },
  { key: "Escape", run: closeCompletion },
  { key: "ArrowDown", run: moveCompletionSelection(true) },
  { key: "ArrowUp", run: moveCompletionSelection(false) },
  { key: "PageDown", run: moveCompletionSelection(true, "page") },
  { key: "PageUp", run: moveCompletionSelection(false, "page") },
  { key: "Enter", run: (view) => selectedCompletionIndex(view.state) !== null && acceptCompletion(view) },
  {
    key: "Tab",
    run: (view) => {
      if (completionStatus(view.state) !== "active") return false;
      if (selectedCompletionIndex(view.state) === null) moveCompletionSelection(true)(view);
      return acceptCompletion(view);
    },
  },
];

// One that is `readOnly` is only looked at. The cursor begins behind the value of a line, or (`atEnd`) behind all that was typed so far.
// `sheet` knows the `names()` of the sheet and the `vocabulary()` of the language. Calls
// `changed(text)` at each key, `commit()`, `leave()`, `rename()`, `makeInput(name)` and `lookUp(word)`.
export function createEditor(host, { text, label, whole = false, atEnd = false, readOnly = false, placeholder: prompt = "", sheet, changed, commit, leave, rename, makeInput, lookUp }) {
  const ours = [
    { key: "Escape", run: () => done(leave) },
    { key: "F1", run: (view) => done(() => lookUp(wordUnder(view.state))) },
    { key: "F2", run: () => Boolean(rename) && done(rename) },
    ...(whole ? [{ key: "Mod-s", run: () => done(commit) }] : [{ key: "Enter", run: (view) => (goesOn(view) ? false : done(commit)) }]),
  ];
  const view = new EditorView({
    parent: host,
    state: EditorState.create({
      doc: text,
      selection: { anchor: whole ? 0 : atEnd ? text.length : endOfValue(text) },
      extensions: [
        completions(sheet),
        Prec.high(keymap.of([...choosing, ...ours])),
        keymap.of([...closeBracketsKeymap, ...defaultKeymap, ...historyKeymap, ...lintKeymap]),
        history(),
        closeBrackets(),
        bracketMatching(),
        drawSelection(),
        EditorView.lineWrapping,
        whole ? [lineNumbers(), search({ top: true }), keymap.of(searchKeymap), EditorState.languageData.of(() => [{ commentTokens: { line: "#" } }])] : [],
        prompt ? placeholder(prompt) : [],
        colours(sheet),
        argumentHints(sheet),
        readOnly ? [EditorState.readOnly.of(true), EditorState.transactionFilter.of((change) => (change.docChanged ? [] : change))] : scrubbing(),
        EditorView.cspNonce.of(document.body.dataset.nonce),
        EditorView.contentAttributes.of({ "aria-label": label, ...(whole ? {} : { "aria-describedby": "open-said" }), spellcheck: "false", autocapitalize: "off", tabindex: "0" }),
        EditorView.updateListener.of((update) => update.docChanged && !following && changed(view.state.doc.toString())),
        indentOfBlocks,
        EditorView.domEventHandlers({ beforeinput: replaceSelected }),
      ],
    }),
  });
  let following = false;

  function done(action) {
    action();
    return true;
  }

  return {
    focus: () => view.focus(),
    destroy: () => view.destroy(),
    lineOf: (name) => view.state.doc.lineAt(Math.max(view.state.doc.toString().search(new RegExp(`(?<![\\p{L}\\p{N}_])${name}(?![\\p{L}\\p{N}_])`, "u")), 0)).number,
    // Replaces only what differs, so that the cursor stays where it is.
    setText(next) {
      const old = view.state.doc.toString();
      if (old === next) return;
      let start = 0;
      while (start < Math.min(old.length, next.length) && old[start] === next[start]) start += 1;
      let end = 0;
      while (end < Math.min(old.length, next.length) - start && old.at(-1 - end) === next.at(-1 - end)) end += 1;
      following = true;
      view.dispatch({ changes: { from: start, to: old.length - end, insert: next.slice(start, next.length - end) } });
      following = false;
    },
    toEnd() {
      view.dispatch({ selection: { anchor: view.state.doc.length } });
    },
    // Problems as the server found them, underlined; lines and columns count from 1.
    setProblems(problems) {
      view.contentDOM.setAttribute("aria-invalid", String(problems.length > 0));
      view.dispatch(setDiagnostics(view.state, problems.map((one) => diagnostic(view.state.doc, one, makeInput)).filter(Boolean)));
    },
  };
}

// Text typed over a selection is put in here: browsers keep the style of what was selected as an
// inline style, which the content-security policy of the page forbids.
function replaceSelected(event, view) {
  const [range] = event.getTargetRanges();
  if (event.inputType !== "insertText" || !range || range.collapsed || event.data === null || view.composing) return false;
  const from = view.posAtDOM(range.startContainer, range.startOffset);
  const to = view.posAtDOM(range.endContainer, range.endOffset);
  const insert = () => view.state.update({ changes: { from, to, insert: event.data }, selection: { anchor: from + event.data.length }, userEvent: "input.type", scrollIntoView: true });
  const taken = view.state.facet(EditorView.inputHandler).some((handle) => handle(view, from, to, event.data, insert));
  if (!taken) view.dispatch(insert());
  event.preventDefault();
  return true;
}

// The word in which the cursor stands, or behind which.
function wordUnder({ doc, selection }) {
  const { head } = selection.main;
  const line = doc.lineAt(head);
  const before = line.text.slice(0, head - line.from).match(/[\p{L}\p{N}_]*$/u)[0];
  const after = line.text.slice(head - line.from).match(/^[\p{L}\p{N}_]*/u)[0];
  return before + after || (line.text.slice(0, head - line.from).match(/([\p{L}_][\p{L}\p{N}_]*)\s*\([^()]*$/u)?.[1] ?? "");
}

// Where a formula ends: before the label and the comment that follow it.
function endOfValue(text) {
  const plain = text.replace(/\s*(?:#[^"\n]*)?$/, "");
  const value = plain.replace(/\s*"(?:\\.|[^"\\])*"$/, "");
  return /[=:(,]$|^\w*$/.test(value) ? plain.length : value.length;
}

function diagnostic(doc, { line, column, end_column, message, hint, unknown }, makeInput) {
  if (line < 1 || line > doc.lines) return null;
  const place = doc.line(line);
  const from = Math.min(place.from + column - 1, place.to);
  const to = Math.max(Math.min(end_column ? place.from + end_column - 1 : place.to, place.to), from);
  const actions = unknown ? [{ name: `Make ${unknown} an input`, apply: () => makeInput(unknown) }] : [];
  return { from, to, severity: "error", message: hint ? `${message} (${hint})` : message, actions };
}

// Enter goes on within a block or an open bracket instead of keeping the line.
function goesOn(view) {
  const { doc, selection } = view.state;
  const before = doc.sliceString(0, selection.main.head);
  if (GOES_ON.test(before.replace(/#.*$/, ""))) return true;
  const inBlock = doc.lines > 1 && /^\S[^\n]*:\s*$/.test(doc.line(1).text);
  return inBlock && selection.main.head < doc.length;
}

// A new line within a block begins as far in as the one above; after its head, four places in.
const indentOfBlocks = Prec.high(
  keymap.of([
    { key: "Enter", shift: breakLine, run: breakLine },
  ]),
);

function breakLine(view) {
  const { state } = view;
  const line = state.doc.lineAt(state.selection.main.head);
  const before = line.text.slice(0, state.selection.main.head - line.from);
  const indent = /^\s*/.exec(before)[0] || (GOES_ON.test(before) ? "    " : "");
  view.dispatch(state.replaceSelection(`\n${indent}`), { scrollIntoView: true });
  return true;
}
