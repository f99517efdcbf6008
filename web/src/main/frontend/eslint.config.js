import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: ["node_modules/"] },
  js.configs.recommended,
  {
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: { ...globals.browser, Alpine: "readonly" } },
    rules: {
      eqeqeq: ["error", "always", { null: "ignore" }],
      "no-unused-vars": ["error", { varsIgnorePattern: "^_$", caughtErrors: "none" }],
      "no-var": "error",
      "prefer-const": "error",
      "no-shadow": "off",
    },
  },
  { files: ["scripts/test/**", "decoder/**", "*.config.js"], languageOptions: { globals: { ...globals.node } } },
];
