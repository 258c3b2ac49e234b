// Formulas set like mathematics, with their own fonts; loaded where they are needed.
import katex from "katex";

/** @type {any} What `katex.render` itself calls, before it puts the result into the page. */
const { __renderToDomTree: made } = katex;

export default function typeset(host, latex) {
  const tree = made(latex, { throwOnError: false, displayMode: false, strict: "ignore", trust: false });
  host.replaceChildren(withoutStyles(tree).toNode());
}

// What is drawn of a tall bracket has its width as a style in its markup, which the policy of the page
// refuses; what stands around it is as wide already.
function withoutStyles(node) {
  if (node.attributes) delete node.attributes.style;
  node.children?.forEach(withoutStyles);
  return node;
}
