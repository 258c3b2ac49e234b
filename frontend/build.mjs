// Builds what the browser loads into studio/static/dist/. The result is committed and is the
// same, byte for byte, on every machine: `node frontend/build.mjs OUT` builds elsewhere.
import { execFileSync } from "node:child_process";
import { rmSync } from "node:fs";
import { build } from "esbuild";

const out = process.argv[2] ?? "studio/static/dist";
rmSync(out, { recursive: true, force: true });

await build({
  entryPoints: ["frontend/workspace.js", "frontend/projects.js", "frontend/forms.js", "frontend/reference.js", "frontend/variations.js", "frontend/print-bench.js", "frontend/cut-bench.js", "frontend/hand-over.js"],
  outdir: out,
  bundle: true,
  splitting: true,
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
