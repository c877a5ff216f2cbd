import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  {
    files: ["src/**/*.js"],
    languageOptions: { ecmaVersion: 2023, sourceType: "script", globals: globals.browser },
    rules: {
      eqeqeq: "error",
      "no-shadow": "error",
      "no-var": "error",
      "prefer-const": "error",
    },
  },
  {
    // Each of these is one function, which is called where it is sent.
    files: ["src/brightcanvas/measuring/*.js"],
    rules: { "no-unused-vars": ["error", { vars: "local" }] },
  },
  {
    // People's browsers run it, some of them old ones.
    files: ["src/brightcanvas/delivery/pages/*.js"],
    languageOptions: { ecmaVersion: 2019 },
  },
  {
    // Each part of this page is one constant for those behind it.
    files: ["src/brightcanvas/adjusting/pages/*.js"],
    languageOptions: {
      globals: { geometry: "readonly", tiles: "readonly", screens: "readonly" },
    },
    rules: {
      "no-redeclare": ["error", { builtinGlobals: false }],
      "no-unused-vars": ["error", { vars: "local" }],
    },
  },
];
