import path from "node:path";
import { createInterface } from "node:readline/promises";
import { parseArgs } from "node:util";
import { FailureError } from "@/core/kit/outcome";
import { backUp, restore, roleChanges } from "./backup";
import { isRunnerAtWork } from "./jobs/lock";
import { dataDir } from "./settings";

const USAGE = `npm run backup -- [--into folder] [--keep 7]
npm run restore -- folder [--only workspace]... [--keep-people] [--yes]`;

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
    options: {
      only: { type: "string", multiple: true },
      "keep-people": { type: "boolean", default: false },
      yes: { type: "boolean", default: false },
    },
  });
  const [folder] = positionals;
  if (command !== "restore" || !folder) throw new Error(USAGE);
  if (await isRunnerAtWork())
    throw new Error("Hot Shelf is running on this data folder. Stop it first; nothing was changed.");
  const wanted = { only: values.only ?? null, keepPeople: values["keep-people"] };
  const changes = await roleChanges(path.resolve(folder), wanted);
  if (changes.length > 0) {
    console.log(`Who may do what changes with it, for ${changes.length}:\n${changes.join("\n")}`);
    console.log("With --keep-people it stays as it is now.");
  }
  if (!values.yes && !(await agrees("Everybody signs in anew, and all tokens and links end. Put it back?"))) {
    console.log("Nothing was changed.");
    process.exitCode = 1;
    return;
  }
  const aside = await restore(path.resolve(folder), wanted);
  console.log(`Put back. What was there before is in ${aside}`);
}

/** Asks whoever sits there; where nobody does, the answer is no. */
async function agrees(question: string): Promise<boolean> {
  if (!process.stdin.isTTY) {
    console.log(`${question} Say --yes where nobody can be asked.`);
    return false;
  }
  const asking = createInterface({ input: process.stdin, output: process.stdout });
  const answer = await asking.question(`${question} [y/N] `);
  asking.close();
  return /^y(?:es)?$/i.test(answer.trim());
}

main().catch((error: unknown) => {
  const failure = error instanceof FailureError ? error.failure : null;
  console.error(failure ? [failure.message, failure.hint].filter(Boolean).join(" ") : (error as Error).message);
  process.exitCode = 1;
});
