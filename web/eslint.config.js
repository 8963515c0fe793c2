import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["src/generated"] },
  ...ts.configs.recommended,
  hooks.configs.flat["recommended-latest"] ?? hooks.configs["recommended-latest"],
  { rules: { "@typescript-eslint/consistent-type-imports": "error", eqeqeq: "error", "no-console": "error" } },
);
