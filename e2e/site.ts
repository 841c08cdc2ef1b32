import { spawn } from "node:child_process";
import { cpSync, mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { test as base, type Page } from "@playwright/test";
import { waitForHealth } from "../scripts/lib.mjs";
import { demoFolder } from "./make-demo";

/** A server with a copy of the demo that only one file of tests has to do with, so that files run side by side in any order. */
export interface Site {
  url: string;
  /** Where the demo's feed host and shop are told how to behave. */
  standIns: string;
}

const FIRST_PORT = Number(process.env["E2E_PORT"] ?? "4400");
/** Ports of one worker: its server, and the stand-ins on the next. */
const PORTS = 10;

export interface SiteOptions {
  /** The file whose tests the site is for: another one gets another site. */
  siteOf: string;
}

/** Pages come drawn before their buttons answer; a person is slower than that, these tests are not. */
async function untilLive(page: Page): Promise<void> {
  await page.waitForFunction(
    () => !document.querySelector('script[src*="/_next/"]') || document.documentElement.dataset["live"] === "true",
  );
}

/** Has all pages of this process wait, wherever they are opened or loaded again, until they answer. */
export function patiently(page: Page): void {
  const kind = Object.getPrototypeOf(page) as Record<"goto" | "reload" | "goBack", (...asked: unknown[]) => unknown> & {
    isPatient?: true;
  };
  if (kind.isPatient) return;
  kind.isPatient = true;
  for (const name of ["goto", "reload", "goBack"] as const) {
    const once = kind[name];
    kind[name] = async function (this: Page, ...asked: unknown[]) {
      const answer = await once.apply(this, asked);
      await untilLive(this);
      return answer;
    };
  }
}

export const test = base.extend<object, { site: Site; tab: Page } & SiteOptions>({
  siteOf: ["", { scope: "worker", option: true }],
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
  tab: [
    async ({ browser, site }, provide) => {
      // Without motion, as a person may ask for it: a message that is fading in has less contrast than it is going to have.
      const context = await browser.newContext({
        baseURL: site.url,
        viewport: { width: 1280, height: 800 },
        reducedMotion: "reduce",
      });
      const page = await context.newPage();
      patiently(page);
      await provide(page);
      await context.close();
    },
    { scope: "worker" },
  ],
  context: async ({ tab }, provide) => provide(tab.context()),
  // The tests of a file share a tab, as a person would: what it has loaded once it need not load again. A test that fails
  // leaves nothing behind, since the next one gets another worker.
  page: async ({ tab }, provide) => {
    await provide(tab);
    await tab.unrouteAll();
    for (const other of tab.context().pages()) if (other !== tab) await other.close();
    tab.removeAllListeners("pageerror").removeAllListeners("console");
  },
});

export { expect } from "@playwright/test";
