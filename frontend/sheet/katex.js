// Formulas set like mathematics, with their own fonts; loaded where they are needed.
import katex from "katex";

/** @type {any} What `katex.render` itself calls, before it puts the result into the page. */
const { __renderToDomTree: made } = katex;

export default function typeset(host, latex) {
  host.replaceChildren(drawn(latex).toNode());
}

export function drawn(latex) {
  return mended(made(latex, { throwOnError: false, displayMode: false, strict: "ignore", trust: false }));
}

// What is drawn of a tall bracket has its width as a style in its markup, which the policy of the page
// refuses (what stands around it is as wide already), and that of a tall floor goes wrong where its second piece begins.
function mended(node) {
  if (node.attributes) delete node.attributes.style;
  if (node.alternate) node.alternate = node.alternate.replaceAll("MM", "M");
  node.children?.forEach(mended);
  return node;
}
