import svelte from "eslint-plugin-svelte";
import ts from "typescript-eslint";
import config from "./svelte.config.js";

export default ts.config(
  { ignores: ["src/api/schema.d.ts"] },
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  {
    files: ["**/*.svelte", "**/*.svelte.ts"],
    languageOptions: { parserOptions: { parser: ts.parser, extraFileExtensions: [".svelte"], svelteConfig: config } },
  },
  {
    rules: {
      "svelte/no-navigation-without-resolve": "off", // the address bar is ours: src/state/place.svelte.ts
      "svelte/prefer-svelte-reactivity": "off", // sets and maps made inside a derivation never change
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
    },
  },
);
