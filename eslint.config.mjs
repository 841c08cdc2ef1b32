import next from "eslint-config-next/core-web-vitals";
import nextTypescript from "eslint-config-next/typescript";

/** A layer, and what its files must not import. Imports point one way: app → server → core, app → ui, server → db. */
const WALLS = {
  core: {
    not: [
      "**/server/**",
      "**/db/**",
      "**/app/**",
      "**/ui/**",
      "react",
      "react-dom",
      "next/*",
      "drizzle-orm",
      "drizzle-orm/*",
      "@libsql/*",
      "node:*",
    ],
    why: "The core is pure computation.",
  },
  db: {
    not: ["**/server/**", "**/app/**", "**/ui/**", "react", "next/*"],
    why: "The database knows the core's types only.",
  },
  server: { not: ["**/app/**", "**/ui/**", "react", "next/*"], why: "Use cases know nothing of pages." },
  ui: {
    not: ["**/server/**", "**/db/**", "**/app/**", "drizzle-orm", "@libsql/*"],
    why: "Shared components have no data access.",
  },
};

const walls = Object.entries(WALLS).map(([layer, { not, why }]) => ({
  files: [`src/${layer}/**/*.{ts,tsx}`],
  ignores: ["**/*.test.ts"],
  rules: { "no-restricted-imports": ["error", { patterns: [{ group: not, message: why }] }] },
}));

const config = [
  {
    ignores: [
      ".next/**",
      "build/**",
      "node_modules/**",
      "data/**",
      "next-env.d.ts",
      "bench/node_modules/**",
      "test-results/**",
    ],
  },
  ...next,
  ...nextTypescript,
  {
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "@typescript-eslint/consistent-type-imports": ["error", { fixStyle: "inline-type-imports" }],
    },
  },
  {
    // Pages use server types, but its code only on the server's side.
    files: ["src/app/**/*.{ts,tsx}"],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          patterns: [
            {
              group: ["**/db/**", "drizzle-orm", "drizzle-orm/*", "@libsql/*"],
              message: "No SQL in routes.",
              allowTypeImports: true,
            },
          ],
        },
      ],
    },
  },
  ...walls,
  {
    files: ["e2e/**/*.ts"],
    rules: {
      "no-restricted-properties": [
        "error",
        {
          property: "toBeHidden",
          message: "A dialog's outermost element has no height, so this passes while it is open. Use toHaveCount(0).",
        },
      ],
    },
  },
  {
    files: ["src/**/*.test.{ts,tsx}", "demo/**/*.test.ts"],
    rules: {
      "no-restricted-properties": [
        "error",
        {
          object: "vi",
          property: "mock",
          message:
            "Test files share their modules, so this does nothing where another file read them first. Hand it in.",
        },
      ],
    },
  },
];

export default config;
