import { defineConfig } from "drizzle-kit";

export default defineConfig({
  dialect: "sqlite",
  schema: "./src/db/accounts/schema.ts",
  out: "./src/db/accounts/migrations",
});
