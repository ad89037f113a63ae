import js from "@eslint/js";

const browser = Object.fromEntries(
  ("window document navigator localStorage sessionStorage location setTimeout setInterval clearTimeout fetch console Image " +
    "FormData URLSearchParams URL CustomEvent DOMParser DOMPoint FileReader crypto CSS caches self Response Request Event " +
    "htmx Alpine uPlot requestAnimationFrame getComputedStyle ResizeObserver")
    .split(" ")
    .map((name) => [name, "readonly"]),
);

export default [
  js.configs.recommended,
  {
    files: ["**/*.js"],
    languageOptions: { ecmaVersion: 2023, sourceType: "script", globals: browser },
    rules: { eqeqeq: "error", "no-var": "error", "prefer-const": "error", "no-eval": "error", "no-implied-eval": "error" },
  },
];
