import path from "node:path";
import { parseArgs } from "node:util";
import { FailureError } from "@/core/kit/outcome";
import { backUp, restore } from "./backup";
import { isRunnerAtWork } from "./runner/lock";
import { dataDir } from "./settings";

const USAGE = `npm run backup -- [--into folder] [--keep 7]
npm run restore -- folder [--only workspace]...`;

/** `npm run backup` and `npm run restore`. */
async function main(): Promise<void> {
  const [command, ...args] = process.argv.slice(2);
  if (command === "backup") {
    const { values } = parseArgs({
      args,
      options: {
        into: { type: "string", default: path.join(dataDir(), "back-ups") },
        keep: { type: "string", default: "7" },
      },
    });
    const keep = Number(values.keep);
    if (!Number.isInteger(keep) || keep < 1) throw new Error(`--keep takes a whole number from 1 on.\n${USAGE}`);
    console.log(`Backed up to ${await backUp(path.resolve(values.into), keep)}`);
    return;
  }
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: { only: { type: "string", multiple: true } },
  });
  const [folder] = positionals;
  if (command !== "restore" || !folder) throw new Error(USAGE);
  if (await isRunnerAtWork())
    throw new Error("Hot Shelf is running on this data folder. Stop it first; nothing was changed.");
  const aside = await restore(path.resolve(folder), values.only ?? null);
  console.log(`Put back. What was there before is in ${aside}`);
}

main().catch((error: unknown) => {
  const failure = error instanceof FailureError ? error.failure : null;
  console.error(failure ? [failure.message, failure.hint].filter(Boolean).join(" ") : (error as Error).message);
  process.exitCode = 1;
});
