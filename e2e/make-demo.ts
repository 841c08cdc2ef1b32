import path from "node:path";
import { built, ensurePrograms } from "../scripts/build.mjs";
import { run } from "../scripts/lib.mjs";

/** Where the demo lies that every worker's server gets a copy of. */
export function demoFolder(): string {
  return path.join(path.resolve(process.env["HOTSHELF_DATA_DIR"] ?? "test-results"), "demo");
}

/** Makes the demo once for all workers. */
export default async function makeDemo(): Promise<void> {
  await ensurePrograms();
  await run(process.execPath, built("demo/seed.ts"), { env: { HOTSHELF_DATA_DIR: demoFolder() } });
}
