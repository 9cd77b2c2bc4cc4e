import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

// One feature does not import another; what two share lives in score/ or ui/. score/ and ui/ know no feature.
const features = [
  "studio",
  "setup",
  "notes",
  "checking",
  "analysis",
  "licks",
  "players",
  "phrases",
  "sound",
  "timeline",
  "fretboard",
  "teach",
  "practice",
  "handout",
  "exchange",
];
const fence = (files, patterns, message) => ({
  files,
  rules: { "no-restricted-imports": ["error", { patterns: [{ group: patterns, message }] }] },
});

export default tseslint.config(
  { ignores: ["src/api/schema.gen.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strictTypeChecked,
  { languageOptions: { parserOptions: { projectService: true } } },
  {
    plugins: { "react-hooks": hooks },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      "@typescript-eslint/no-confusing-void-expression": [
        "error",
        { ignoreArrowShorthand: true, ignoreVoidReturningFunctions: true },
      ],
      "@typescript-eslint/no-dynamic-delete": "off",
    },
  },
  ...features.map((own) =>
    fence(
      [`src/features/${own}/**`],
      [...features.filter((other) => other !== own).map((other) => `@/features/${other}/*`), "@/app/*"],
      "One feature does not import another.",
    ),
  ),
  fence(["src/score/**", "src/ui/**"], ["@/features/*", "@/app/*"], "What is shared knows no feature."),
  fence(["src/ui/**"], ["@/features/*", "@/app/*", "@/score/*", "@/api/*"], "ui knows no music."),
);
