import { defineConfig } from "@playwright/test";
import walks from "./playwright.config";

// npm run test:attack: one server, attacked in turn; a red run is red, so nothing is tried twice.
export default defineConfig({
  testDir: "attack",
  workers: 1,
  retries: 0,
  globalSetup: "./e2e/make-demo.ts",
  expect: { timeout: 15_000 },
  reporter: [["list"]],
  use: walks.use ?? {},
});
