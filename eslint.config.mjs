import js from "@eslint/js";

const named = (words) => Object.fromEntries(words.split(" ").map((name) => [name, "readonly"]));
const browser = named(
  "window document navigator localStorage sessionStorage location setTimeout setInterval clearTimeout fetch console Image " +
    "FormData URLSearchParams URL CustomEvent DOMParser DOMPoint FileReader crypto CSS caches self Response Request Event " +
    "Element File Blob htmx Alpine uPlot requestAnimationFrame getComputedStyle ResizeObserver",
);
const rules = { eqeqeq: "error", "no-var": "error", "prefer-const": "error", "no-eval": "error", "no-implied-eval": "error" };
// Run before the page, or beside it; all others are modules.
const scripts = ["rapzel/ui/static/rapzel/early.js", "rapzel/ui/static/rapzel/sw.js"];

export default [
  { ignores: ["**/vendor/**", "var/**", ".venv/**"] },
  js.configs.recommended,
  {
    files: ["rapzel/**/*.js", "tests/scripts/**/*.mjs"],
    ignores: scripts,
    languageOptions: { ecmaVersion: 2023, sourceType: "module", globals: browser },
    rules,
  },
  { files: scripts, languageOptions: { ecmaVersion: 2023, sourceType: "script", globals: browser }, rules },
];
