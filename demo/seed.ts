import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import { parseDay } from "@/core/kit/days";
import { plural } from "@/core/kit/format";
import Papa from "papaparse";
import { derivedFields } from "@/db/schema";
import { setSource } from "@/server/catalogue/schedule";
import { addRecords } from "@/server/account/commit";
import { enqueueJob, findJob, type JobKind } from "@/server/jobs/jobs";
import { jobHandlers } from "@/server/runner/handlers";
import { claimJob, runJob } from "@/server/jobs/work";
import { READY_MADE } from "@/core/shelves/ready-made";
import { recomputeAll } from "@/server/shelves/compute";
import { saveShelfSet } from "@/server/shelves/sets";
import { dataDir } from "@/server/settings";
import { workspaceSlugs } from "@/server/registry";
import { createWorkspace, findWorkspace } from "@/server/workspaces";
import { UNTIDY } from "./account";
import { QUILLMOOR_DERIVED } from "./derived";
import { quillmoorFeedAt } from "./quillmoor";

/**
 * Makes the Quillmoor workspace with its catalogue and 120 days of history from an untidy account, by the same jobs
 * that a person's own data goes through. Does nothing when the workspace is there. The same seed gives the same demo.
 */

const SLUG = "quillmoor";
const HISTORY_DAYS = 120;
/** Fixed, so that every demo has the same days. */
const LAST_DAY = parseDay("2026-10-29");

async function runNow(kind: JobKind, input: unknown): Promise<void> {
  const found = (await findWorkspace(SLUG))!;
  const { id } = await enqueueJob(found.db, kind, input);
  const job = await claimJob(found.db, "seed", { id });
  if (job?.id !== id) throw new Error("another runner took the demo's job");
  await runJob(found.db, found.info, jobHandlers, job);
  const ended = await findJob(found.db, id);
  if (ended?.state !== "done") throw new Error(`${kind}: ${ended?.error?.message ?? ended?.state}`);
}

async function readFeed(version: number): Promise<void> {
  const { headings, rows } = quillmoorFeedAt(version);
  const folder = path.join(dataDir(), "uploads", SLUG);
  await mkdir(folder, { recursive: true });
  const file = path.join(folder, "demo.feed");
  await writeFile(file, Papa.unparse([[...headings], ...rows]));
  const input = { feed: "main", file, fileName: "quillmoor-feed.csv", mapping: null, acceptLoss: false };
  await runNow("feed-import", input);
}

/** Sets that stand in the demo beside those that every workspace begins with. */
const SETS = ["store-best", "ads-best", "neglected", "proven", "newcomers"];

async function main(): Promise<void> {
  if ((await workspaceSlugs()).includes(SLUG)) return;
  const began = Date.now();
  console.log("Making the demo: Quillmoor Garden Supply …");
  const made = await createWorkspace({
    slug: SLUG,
    name: "Quillmoor Garden Supply",
    currency: "EUR",
    timeZone: "Europe/Berlin",
    goal: 3.5,
    market: "middling",
  });
  if (!made.ok) throw new Error(made.error.message);
  // Two readings, a day apart as it were, so that there is a history to look at.
  for (const version of [0, 1]) await readFeed(version);
  const { db } = (await findWorkspace(SLUG))!;
  const { info } = (await findWorkspace(SLUG))!;
  const source = { kind: "url" as const, url: "https://feeds.quillmoor.example/products.csv" };
  await setSource(db, info, "main", { source, schedule: "0 6 * * *" });
  for (const field of QUILLMOOR_DERIVED) await db.insert(derivedFields).values(field);
  await runNow("catalogue-finish", {});
  await addRecords(db, UNTIDY, "Quillmoor", "How Quillmoor began");
  await runNow("dispatch", { takesBack: null });
  await runNow("market-run", { from: LAST_DAY - HISTORY_DAYS + 1, through: LAST_DAY, seed: SLUG });
  for (const key of SETS) {
    const made = READY_MADE.find((one) => one.key === key)!.make(info.goal);
    const saved = await saveShelfSet(db, made);
    if (!saved.ok) throw new Error(saved.error.message);
  }
  await recomputeAll(db);
  await runNow("alerts", {});
  console.log(`Made in ${plural(Math.round((Date.now() - began) / 1000), "second")}.`);
}

await main();
process.exit(0);
