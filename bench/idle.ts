import { spawn, type ChildProcess } from "node:child_process";
import { readFileSync } from "node:fs";
import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { createWorkspace, databaseOf } from "@/server/workspaces";
import { enqueueJob, findJob } from "@/server/jobs/jobs";
import { isRunnerAtWork } from "@/server/jobs/lock";
import { forgetSettings } from "@/server/settings";
import { built, ensurePrograms } from "../scripts/build.mjs";
import { figure, type Figure } from "./measure";

const WORKSPACES = 100;
const QUIET_SECONDS = 60;
/** Ticks of the processor's clock in a second, as Linux counts them for processes. */
const TICKS = 100;

/** Processor time that a process has used, ms, and the memory that it holds, bytes. */
function costOf(pid: number): { cpu: number; memory: number } {
  const stat = readFileSync(`/proc/${pid}/stat`, "utf8").split(") ")[1]!.split(" ");
  const rss = /VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))?.[1] ?? "0";
  return { cpu: ((Number(stat[11]) + Number(stat[12])) / TICKS) * 1000, memory: Number(rss) * 1024 };
}

const median = (list: number[]) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

/** What a runner costs over workspaces in which nothing happens, and how soon it takes up a job all the same. */
export async function benchIdle(folder: string): Promise<Figure[]> {
  const data = path.join(folder, "idle");
  process.env["HOTSHELF_DATA_DIR"] = data;
  process.env["HOTSHELF_KEY_FILE"] = `${data}.key`;
  forgetSettings();
  for (let i = 0; i < WORKSPACES; i++) {
    const made = await createWorkspace({ slug: `w${i}`, name: `W${i}`, currency: "EUR", timeZone: "Europe/Berlin" });
    if (!made.ok) throw new Error(made.error.message);
  }
  await ensurePrograms();
  const runner: ChildProcess = spawn(process.execPath, built("src/server/runner/main.ts"), {
    stdio: ["pipe", "ignore", "inherit"],
  });
  try {
    while (!(await isRunnerAtWork())) await sleep(200);
    // All workspaces are opened once.
    await sleep(20_000);
    const before = costOf(runner.pid!);
    await sleep(QUIET_SECONDS * 1000);
    const after = costOf(runner.pid!);
    const share = (after.cpu - before.cpu) / (QUIET_SECONDS * 10);
    const waits: number[] = [];
    const db = await databaseOf("w50");
    for (let i = 0; i < 15; i++) {
      const start = performance.now();
      const { id } = await enqueueJob(db, "shelves", {});
      while ((await findJob(db, id))!.state === "waiting") await sleep(2);
      waits.push(performance.now() - start);
      while (["waiting", "running"].includes((await findJob(db, id))!.state)) await sleep(20);
      await sleep(300);
    }
    const more = `${share.toFixed(2)} % of a core, ${Math.round(after.memory / 1e6)} MB in the runner`;
    return [
      figure("a job is taken up", `${WORKSPACES} idle workspaces`, median(waits), "–", null, "200 ms, 1 %", more),
    ];
  } finally {
    runner.kill("SIGTERM");
  }
}
