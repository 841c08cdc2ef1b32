import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll } from "vitest";

// Every test file has a data folder of its own, gone afterwards.
const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-unit-"));
process.env["HOTSHELF_DATA_DIR"] = folder;
afterAll(() => rmSync(folder, { recursive: true, force: true }));
