// What is built before the application starts. Only Node's own modules at the top: this is read before node_modules exists.
import { createHash } from "node:crypto";
import { existsSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { run } from "./run.mjs";

export const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));

/** Where the built programs lie, in the folders of their sources. The server hears of it by HOTSHELF_PROGRAMS. */
export const programsFolder = path.join(root, "build");

/** All that runs as a process of its own. Bundled they start in a third of the time that their many sources take. */
const PROGRAMS = [
  "demo/seed.ts",
  "demo/stand-ins.ts",
  "src/server/backup-main.ts",
  "src/server/channel/stand-in-main.ts",
  "src/server/catalogue/reading/look-main.ts",
  "src/server/counter/main.ts",
  "src/server/runner/hand-main.ts",
  "src/server/runner/handlers.ts",
  "src/server/runner/main.ts",
  "src/server/web/main.ts",
];

function newest(folder) {
  let latest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true, recursive: true })) {
    if (entry.isFile())
      latest = Math.max(latest, statSync(path.join(entry.parentPath ?? entry.path, entry.name)).mtimeMs);
  }
  return latest;
}

/** Whether all of these are there and newer than what they are made from. */
function areFresh(made) {
  const files = ["package-lock.json", "next.config.ts", "postcss.config.mjs", "tsconfig.json", "scripts/build.mjs"];
  const sources = Math.max(
    ...["src", "demo"].map((folder) => newest(path.join(root, folder))),
    ...files.map((file) => statSync(path.join(root, file)).mtimeMs),
  );
  return made.every((file) => existsSync(file) && statSync(file).mtimeMs > sources);
}

/**
 * Bundles the programs unless they are newer than all sources; packages stay where they are.
 * @param more sources besides, as those that tests have run
 */
export async function ensurePrograms(more = []) {
  const sources = [...PROGRAMS, ...more];
  if (areFresh(sources.map(builtFile))) return;
  const { build } = await import("esbuild");
  const made = createHash("sha256");
  for (const file of readdirSync(path.join(root, "src"), { recursive: true }).sort()) {
    if (/\.tsx?$/.test(file)) made.update(file).update(readFileSync(path.join(root, "src", file)));
  }
  rmSync(programsFolder, { recursive: true, force: true });
  await build({
    absWorkingDir: root,
    entryPoints: sources,
    outbase: root,
    outdir: programsFolder,
    bundle: true,
    // What two of them share stands in one file: a hand and its handlers have the same memo.
    splitting: true,
    format: "esm",
    platform: "node",
    target: "node20",
    packages: "external",
    // By which a program knows what another one of the same build has stored for it.
    define: { "process.env.HOTSHELF_BUILD": JSON.stringify(made.digest("hex").slice(0, 16)) },
    sourcemap: true,
    logLevel: "warning",
  });
}

/** Builds the web application and the programs beside it unless the last build is newer than all sources. */
export async function ensureBuilt() {
  await ensurePrograms();
  if (areFresh([path.join(root, ".next", "BUILD_ID")])) return;
  console.log("Building …");
  const next = path.join(root, "node_modules/next/dist/bin/next");
  const env = { NEXT_TELEMETRY_DISABLED: "1" };
  await run(process.execPath, [next, "build"], { env });
}

const builtFile = (file) => path.join(programsFolder, file.replace(/\.ts$/, ".js"));

/** Arguments for Node that run a built program, named by its source. */
export function built(file) {
  return ["--enable-source-maps", builtFile(file)];
}

/** Arguments for Node that run a TypeScript file of ours as it is. */
export function typescript(file) {
  return ["--import", "tsx", path.join(root, file)];
}

/**
 * Builds all while the demo is being made: its programs are there long before the web application is, and each keeps one
 * processor busy. Where there is a demo in the folder already, that takes no time.
 */
export async function ensureBuiltWithDemo(env) {
  await ensurePrograms();
  const made = run(process.execPath, built("demo/seed.ts"), { env }).catch((error) => error);
  await ensureBuilt();
  const failure = await made;
  if (failure) throw failure;
}
