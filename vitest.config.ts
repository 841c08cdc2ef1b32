import path from "node:path";
import { defineConfig } from "vitest/config";

export default defineConfig({
  resolve: { alias: { "@": path.resolve(import.meta.dirname, "src") } },
  test: {
    include: ["src/**/*.test.{ts,tsx}", "demo/**/*.test.ts"],
    globalSetup: ["./vitest.programs.ts"],
    setupFiles: ["./vitest.setup.ts"],
    env: { LOG_LEVEL: "silent" },
    // See vitest.setup.ts.
    isolate: false,
    testTimeout: 60_000,
    hookTimeout: 90_000,
    // One more than cores: files that kill and wait for processes leave theirs idle.
    maxWorkers: 3,
  },
});
