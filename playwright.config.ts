import { readdirSync } from "node:fs";
import { defineConfig } from "@playwright/test";
import type { SiteOptions } from "./e2e/site";

// The walk through all views takes the longest, so it begins.
const first = "views.spec.ts";
const others = readdirSync("e2e").filter((name) => name.endsWith(".spec.ts") && name !== first);

export default defineConfig<object, SiteOptions>({
  testDir: "e2e",
  // Each file is a project, with a server and a demo that no other file has changed; its tests go on from each other.
  projects: [first, ...others].map((name) => ({
    name: name.replace(".spec.ts", ""),
    testMatch: name,
    use: { siteOf: name },
  })),
  workers: 2,
  globalSetup: "./e2e/make-demo.ts",
  fullyParallel: false,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  // The machines this runs on are shared: a test that fails once is tried once more, and is then listed as flaky.
  retries: 1,
  reporter: [["list"]],
  use: {
    // Recording every step costs a third of the time; TRACE=1 records when something has to be looked into.
    trace: process.env["TRACE"] ? "retain-on-failure" : "off",
    screenshot: "only-on-failure",
    launchOptions: {
      executablePath: process.env["CHROMIUM_PATH"] ?? "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
});
