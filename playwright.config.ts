import { defineConfig } from "@playwright/test";

const PORT = process.env["E2E_PORT"] ?? "4399";

export default defineConfig({
  testDir: "e2e",
  // One workspace is changed by several tests in turn; two cores serve, run and drive.
  workers: 1,
  fullyParallel: false,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  reporter: [["list"]],
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    viewport: { width: 1280, height: 800 },
    trace: "retain-on-failure",
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
  webServer: {
    command: "node scripts/e2e-server.mjs",
    url: `http://127.0.0.1:${PORT}/api/v1/health`,
    timeout: 240_000,
    env: { PORT, LOG_LEVEL: "warn" },
  },
});
