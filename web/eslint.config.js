import js from "@eslint/js";
import globals from "globals";
import a11y from "eslint-plugin-jsx-a11y";
import react from "eslint-plugin-react";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "node_modules", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ts.configs.recommended,
  react.configs.flat.recommended,
  react.configs.flat["jsx-runtime"],
  a11y.flatConfigs.recommended,
  {
    plugins: { "react-hooks": hooks },
    languageOptions: { globals: { ...globals.browser, ...globals.node } },
    settings: { react: { version: "detect" } },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "react/prop-types": "off", // types say it
      "jsx-a11y/media-has-caption": "off", // what plays here the student has just recorded or chosen
      "jsx-a11y/no-autofocus": "off", // a field that a press has just opened is where one types next
      "max-lines": ["error", { max: 300, skipBlankLines: true }],
    },
  },
);
