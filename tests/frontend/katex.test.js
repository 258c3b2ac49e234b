// Formulas set like mathematics: what is drawn of them is what a browser takes.
import assert from "node:assert/strict";
import { test } from "node:test";

import { drawn } from "../../frontend/sheet/katex.js";

function paths(node) {
  return [...(node.alternate ? [node.alternate] : []), ...(node.children ?? []).flatMap(paths)];
}

// SVG 1.1, 8.3.9: a path is letters with figures behind them.
const PATH = /^(\s*[MmLlHhVvCcSsQqTtAa](\s*[-+]?(\d+\.?\d*|\.\d+),?)+|\s*[Zz])+\s*$/;

for (const [left, right] of [["\\lfloor", "\\rfloor"], ["\\lceil", "\\rceil"], ["(", ")"], ["[", "]"], ["|", "|"]]) {
  test(`tall brackets ${left} are paths`, () => {
    const tall = "\\dfrac{\\dfrac{\\dfrac{a}{b}}{\\dfrac{c}{d}}}{\\dfrac{\\dfrac{a}{b}}{\\dfrac{c}{d}}}";
    const found = paths(drawn(`\\left${left} ${tall} \\right${right}`));
    assert.equal(found.length, 2);
    for (const path of found) assert.match(path, PATH);
  });
}
