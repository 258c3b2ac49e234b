// Builds what the browser loads into studio/static/dist/. The result is committed and is the
// same, byte for byte, on every machine: `node frontend/build.mjs OUT` builds elsewhere.
import { execFileSync } from "node:child_process";
import { readFileSync, rmSync } from "node:fs";
import { build } from "esbuild";

const out = process.argv[2] ?? "studio/static/dist";
rmSync(out, { recursive: true, force: true });

// Alpine takes an expression of a template apart each time it is worked out, of every row at every turn of a
// slide rule; here it is taken apart once.
const TAKES_APART = "function generateRuntimeFunction(expression) {";
const TAKES_APART_ONCE = `const takenApart = new Map();
function generateRuntimeFunction(expression) {
  if (!takenApart.has(expression)) takenApart.set(expression, takeApart(expression));
  return takenApart.get(expression);
}
function takeApart(expression) {`;

const expressionsOnce = {
  name: "expressions are taken apart once",
  setup({ onLoad }) {
    onLoad({ filter: /@alpinejs\/csp\/dist\/module\.esm\.js$/ }, ({ path }) => {
      const pieces = readFileSync(path, "utf8").split(TAKES_APART);
      if (pieces.length !== 2) throw new Error(`${path} has changed: look where it takes expressions apart`);
      return { contents: pieces.join(TAKES_APART_ONCE) };
    });
  },
};

await build({
  entryPoints: ["frontend/workspace.js", "frontend/projects.js", "frontend/forms.js", "frontend/reference.js", "frontend/variations.js", "frontend/print-bench.js", "frontend/cut-bench.js", "frontend/hand-over.js"],
  outdir: out,
  bundle: true,
  splitting: true,
  plugins: [expressionsOnce],
  format: "esm",
  minify: true,
  target: "es2022",
  legalComments: "none",
  chunkNames: "[name]-[hash]",
});

await build({
  entryPoints: ["frontend/styles/fonts.css", "frontend/styles/katex.css"],
  outdir: out,
  bundle: true,
  minify: true,
  loader: { ".woff2": "file", ".woff": "empty", ".ttf": "empty" },
  assetNames: "fonts/[name]",
  logOverride: { "empty-glob": "silent" },
});

execFileSync(
  "node",
  ["node_modules/@tailwindcss/cli/dist/index.mjs", "-i", "frontend/styles/ovolo.css", "-o", `${out}/ovolo.css`, "--minify"],
  { stdio: ["ignore", "ignore", "inherit"] },
);
