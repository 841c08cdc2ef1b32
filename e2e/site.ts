import { spawn } from "node:child_process";
import { cpSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { test as base } from "@playwright/test";
import { waitForHealth } from "../scripts/lib.mjs";
import { demoFolder } from "./make-demo";

/** A server of a worker's own, with a copy of the demo, so that files of tests can run side by side. */
export interface Site {
  url: string;
  /** Where the demo's feed host and shop are told how to behave. */
  standIns: string;
}

const FIRST_PORT = Number(process.env["E2E_PORT"] ?? "4400");
/** Ports of one worker: its server, and the stand-ins on the next. */
const PORTS = 10;

export const test = base.extend<object, { site: Site; alone: string }>({
  /** Files that name themselves here get a server and a copy of the demo that no other file has changed or will look at. */
  alone: ["", { scope: "worker", option: true }],
  site: [
    async ({}, provide, { parallelIndex }) => {
      const port = FIRST_PORT + parallelIndex * PORTS;
      const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-site-"));
      cpSync(demoFolder(), folder, { recursive: true });
      const server = spawn(process.execPath, ["scripts/e2e-server.mjs"], {
        stdio: ["pipe", "inherit", "inherit"],
        env: { ...process.env, PORT: String(port), HOTSHELF_DATA_DIR: folder, LOG_LEVEL: "warn" },
      });
      const url = `http://127.0.0.1:${port}`;
      const ended = new Promise((resolve) => server.on("exit", resolve));
      try {
        await waitForHealth(url, 90);
        await provide({ url, standIns: `http://127.0.0.1:${port + 1}/control` });
      } finally {
        server.kill("SIGTERM");
        await ended;
        rmSync(folder, { recursive: true, force: true });
      }
    },
    { scope: "worker", auto: true, timeout: 120_000 },
  ],
  baseURL: async ({ site }, provide) => provide(site.url),
});

export { expect } from "@playwright/test";
