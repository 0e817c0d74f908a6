import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

// The order of docs/architecture.md: a feature imports only from those before it, and what is shared from none.
const FEATURES = [
  "help",
  "accounts",
  "history",
  "courses",
  "cars",
  "runs",
  "learning",
  "plans",
  "days",
  "recording",
  "comparisons",
  "studies",
  "reports",
  "home",
];

function importsNone(files, forbidden, message) {
  const patterns = [{ group: forbidden.flatMap((name) => [`**/${name}/**`]), message }];
  return { files, rules: { "no-restricted-imports": ["error", { patterns }] } };
}

const order = FEATURES.slice(0, -1).map((name, place) =>
  importsNone(
    [`src/features/${name}/**`],
    FEATURES.slice(place + 1),
    `${name} stands to the left of it: hand it over in main.tsx.`,
  ),
);

export default tseslint.config(
  { ignores: ["dist", "node_modules", "src/api/generated"] },
  js.configs.recommended,
  {
    files: ["public/worker.js"],
    languageOptions: {
      globals: Object.fromEntries(["self", "URL", "caches", "fetch"].map((name) => [name, "readonly"])),
    },
  },
  ...tseslint.configs.strict,
  hooks.configs.flat.recommended,
  ...order,
  importsNone(["src/shared/**", "src/api/**"], ["features"], "What is shared knows no feature."),
);
