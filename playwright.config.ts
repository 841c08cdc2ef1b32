import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: "e2e",
  // Each worker has a server and a demo of its own; the tests of a file go on from each other.
  workers: 2,
  globalSetup: "./e2e/make-demo.ts",
  fullyParallel: false,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  // The machines this runs on are shared: a test that fails once is tried once more, and is then listed as flaky.
  retries: 1,
  reporter: [["list"]],
  use: {
    viewport: { width: 1280, height: 800 },
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
