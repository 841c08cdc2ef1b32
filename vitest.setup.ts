import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import fc from "fast-check";
import { afterAll } from "vitest";

// Every test file has a data folder of its own, gone afterwards.
const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-unit-"));
process.env["HOTSHELF_DATA_DIR"] = folder;
process.env["HOTSHELF_KEY_FILE"] = `${folder}.key`;
afterAll(() => {
  rmSync(folder, { recursive: true, force: true });
  rmSync(`${folder}.key`, { force: true });
});

// At home every run tries other examples; in CI a run is the same each time, so that a red one can be had again.
if (process.env["CI"]) fc.configureGlobal({ seed: 20_261_125 });
