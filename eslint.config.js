// What is looked for in the scripts: what cannot be meant, and what nobody uses.
import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  {
    files: ["frontend/**/*.js", "tests/frontend/*.js"],
    languageOptions: { globals: { ...globals.browser } },
    rules: { eqeqeq: "error", "no-var": "error", "prefer-const": "error" },
  },
  { files: ["frontend/build.mjs", "tests/frontend/*.js", "eslint.config.js"], languageOptions: { globals: { ...globals.node } } },
];
