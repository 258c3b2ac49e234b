// While the arguments of a word or a function are typed: what it takes, the present one in bold.
import { StateField } from "@codemirror/state";
import { showTooltip } from "@codemirror/view";

import { explained } from "./completion.js";
import { callAround } from "./tokens.js";

export function argumentHints(sheet) {
  const tooltips = (state) => {
    const { head, empty } = state.selection.main;
    if (!empty) return [];
    const start = Math.max(0, head - 2000);
    const call = callAround(state.sliceDoc(start, head), head - start);
    if (!call) return [];
    const own = sheet.names().get(call.name);
    const word = own?.parameters === undefined ? sheet.vocabulary()?.words.find((one) => one.name === call.name) : ownFunction(call.name, own);
    if (!word || word.constant) return [];
    const named = word.parameters.findIndex((one) => one.name === call.named);
    const current = named >= 0 ? named : Math.min(call.argument, word.parameters.length - 1);
    return [{ pos: start + call.at, above: true, strictSide: false, create: () => ({ dom: explained({ ...word, picture: null }, current) }) }];
  };
  return StateField.define({
    create: tooltips,
    update: (shown, transaction) => (transaction.docChanged || transaction.selection ? tooltips(transaction.state) : shown),
    provide: (field) => showTooltip.computeN([field], (state) => state.field(field)),
  });
}

function ownFunction(name, { parameters, label }) {
  const known = parameters.split(",").map((one) => {
    const [own, ...rest] = one.split("=");
    return { name: own.trim(), default: rest.join("=").trim() || null, optional: rest.length > 0, meaning: label || "of this sheet", kind: "a value" };
  });
  return { name, parameters: known, meaning: label };
}
