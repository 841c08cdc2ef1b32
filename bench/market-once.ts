import type { Structure } from "@/core/account/account";
import { addRecords } from "@/server/account/commit";
import { jobHandlers } from "@/server/runner/handlers";
import { enqueueJob, findJob, type JobKind } from "@/server/jobs/jobs";
import { claimJob, runJob } from "@/server/jobs/work";
import { loadWindow } from "@/server/results/load";
import { createWorkspace, findWorkspace } from "@/server/workspaces";

/**
 * Reads a feed (first argument) into a workspace, sends an account that advertises everything, and lets the market run
 * as many days as the second argument says, all by the runner's own jobs. Prints the time of the market's job.
 */
const [file, days = "30"] = process.argv.slice(2);

const ACCOUNT: Structure = {
  c: {
    type: "campaign",
    key: "c",
    name: "All",
    kind: "feed",
    purpose: "catch-all",
    bidding: "fixed",
    goal: null,
    dailyBudget: 500_000_000,
    status: "on",
    serveOrder: 1,
    inStockOnly: true,
    origin: null,
  },
  g: { type: "adGroup", key: "g", campaign: "c", name: "All", status: "on", bid: 450 },
  p: {
    type: "productGroup",
    key: "p",
    adGroup: "g",
    parent: null,
    role: "unit",
    value: null,
    by: null,
    status: "on",
    bid: null,
  },
};

await createWorkspace({ slug: "market", name: "M", currency: "EUR", timeZone: "Europe/Berlin", goal: 3 });
const { db, info } = (await findWorkspace("market"))!;

async function runNow(kind: JobKind, input: unknown): Promise<number> {
  const { id } = await enqueueJob(db, kind, input);
  const start = performance.now();
  await runJob(db, info, jobHandlers, (await claimJob(db, "bench"))!);
  const job = await findJob(db, id);
  if (job?.state !== "done") throw new Error(JSON.stringify(job?.error));
  return performance.now() - start;
}

await runNow("feed-import", { feed: "main", file, fileName: "bench.csv", mapping: null, acceptLoss: false });
await addRecords(db, ACCOUNT, "bench", "bench");
await runNow("dispatch", { takesBack: null });
const ms = await runNow("market-run", { from: 20_600, through: 20_600 + Number(days) - 1, seed: "bench" });
const { rows } = await db.$client.execute("SELECT count(*), sum(cost) FROM item_facts");
const start = performance.now();
await loadWindow(db, { from: 20_600, to: 20_600 + Number(days) - 1 });
const load = performance.now() - start;
console.log(JSON.stringify({ ms, load, rows: Number(rows[0]![0]), mb: process.resourceUsage().maxRSS / 1024 }));
process.exit(0);
