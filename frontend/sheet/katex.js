// Formulas set like mathematics, with their own fonts; loaded where they are needed.
import katex from "katex";

export default function typeset(host, latex) {
  katex.render(latex, host, { throwOnError: false, displayMode: false, strict: "ignore", trust: false });
}
