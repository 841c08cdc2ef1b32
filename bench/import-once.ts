import { copyFileSync } from "node:fs";
import { jobHandlers } from "@/server/runner/handlers";
import { enqueueJob, findJob } from "@/server/jobs/jobs";
import { claimJob, runJob } from "@/server/jobs/work";
import { createWorkspace, findWorkspace } from "@/server/workspaces";

/** Reads a feed into the workspace `bench` as the runner does, and prints time, peak memory and counts. */
const source = process.argv[2]!;
const file = `${source}.copy`;
copyFileSync(source, file);
await createWorkspace({ slug: "bench", name: "Bench", currency: "EUR", timeZone: "Europe/Berlin", goal: 3 });
const { db, info } = (await findWorkspace("bench"))!;
const start = performance.now();
const { id } = await enqueueJob(db, "feed-import", {
  feed: "main",
  file,
  fileName: "bench.csv",
  mapping: null,
  acceptLoss: false,
});
await runJob(db, info, jobHandlers, (await claimJob(db, "bench"))!);
const ms = performance.now() - start;
const job = await findJob(db, id);
if (job?.state !== "done") throw new Error(JSON.stringify(job?.error));
console.log(JSON.stringify({ ms, mb: process.resourceUsage().maxRSS / 1024, result: job.result }));
