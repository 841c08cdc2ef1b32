import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import fc from "fast-check";
import { afterAll } from "vitest";
import { programsFolder } from "./scripts/build.mjs";
import { forgetSettings } from "./src/server/settings";

// Files share their worker's modules, since most of the time went into loading them. What a process keeps for its life is
// forgotten between files: settings, and databases that are open.
forgetSettings();
const kept = globalThis as { __hotShelfDatabases?: unknown; __hotShelfAccounts?: unknown };
delete kept.__hotShelfDatabases;
delete kept.__hotShelfAccounts;

// Every test file has a data folder of its own, gone afterwards.
const before = { ...process.env };
const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-unit-"));
process.env["HOTSHELF_DATA_DIR"] = folder;
process.env["HOTSHELF_KEY_FILE"] = `${folder}.key`;
process.env["HOTSHELF_PROGRAMS"] = programsFolder;
afterAll(() => {
  for (const name of Object.keys(process.env)) if (!(name in before)) delete process.env[name];
  Object.assign(process.env, before);
  rmSync(folder, { recursive: true, force: true });
  rmSync(`${folder}.key`, { force: true });
});

// At home every run tries other examples; in CI a run is the same each time, so that a red one can be had again.
if (process.env["CI"]) fc.configureGlobal({ seed: 20_261_125 });
