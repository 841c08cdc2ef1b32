import path from "node:path";
import { run, typescript } from "../scripts/lib.mjs";

/** Where the demo lies that every worker's server gets a copy of. */
export function demoFolder(): string {
  return path.join(path.resolve(process.env["HOTSHELF_DATA_DIR"] ?? "test-results"), "demo");
}

/** Makes the demo once for all workers. */
export default async function makeDemo(): Promise<void> {
  await run(process.execPath, typescript("demo/seed.ts"), { env: { HOTSHELF_DATA_DIR: demoFolder() } });
}
