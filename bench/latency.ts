import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { serve, waitForHealth } from "../scripts/lib.mjs";
import { ask, send, upload } from "./ask";
import { writeBenchFeed } from "./feed";
import { figure, type Figure } from "./measure";

const PORT = "4377";

/** How long requests take while 100,000 items are being imported, through the real server and runner. */
export async function benchLatency(folder: string): Promise<Figure[]> {
  const file = path.join(folder, "latency.csv");
  await writeBenchFeed(file, 100_000);
  const env = { HOTSHELF_DATA_DIR: path.join(folder, "latency"), PORT, HOST: "127.0.0.1", LOG_LEVEL: "error" };
  const server = serve({ env });
  const base = `http://127.0.0.1:${PORT}/api/v1`;
  try {
    await waitForHealth(`http://127.0.0.1:${PORT}`);
    const body = { slug: "bench", name: "Bench", currency: "EUR", timeZone: "Europe/Berlin", goal: 3 };
    await send(`${base}/workspaces`, body);
    const first = await upload(base, file);
    const idle = await probe(base, first, false);
    // The refresh runs while the table of the first import is being looked at.
    const busy = await probe(base, await upload(base, file), true);
    const items = await timesOf(30, () => ask(`${base}/bench/items?sort=-price&limit=100&q=lamp`));
    return [
      figure(
        "request while importing, 95th percentile",
        "100k",
        percentile(idle, 0.95),
        "",
        null,
        "responsive",
        `median ${percentile(idle, 0.5).toFixed(0)} ms, worst ${Math.max(...idle).toFixed(0)} ms, ${idle.length} requests`,
      ),
      figure(
        "item table while refreshing, 95th percentile",
        "100k",
        percentile(busy, 0.95),
        "",
        null,
        "within 100 ms",
        `median ${percentile(busy, 0.5).toFixed(0)} ms, worst ${Math.max(...busy).toFixed(0)} ms, ${busy.length} requests`,
      ),
      figure(
        "item table: search and sort, 95th percentile",
        "100k",
        percentile(items, 0.95),
        "",
        null,
        "within 100 ms",
        `median ${percentile(items, 0.5).toFixed(0)} ms`,
      ),
    ];
  } finally {
    server.stop();
    await sleep(500);
  }
}

async function probe(base: string, job: string, withItems: boolean): Promise<number[]> {
  const times: number[] = [];
  for (let i = 0; i < 4000; i++) {
    const start = performance.now();
    if (withItems) await ask(`${base}/bench/items?sort=-price&limit=100`);
    const state = await ask<{ state: string }>(`${base}/bench/jobs/${job}`);
    times.push(performance.now() - start);
    if (state.state === "failed") throw new Error("the import failed");
    if (state.state === "done") return times;
    await sleep(20);
  }
  throw new Error("the import did not end");
}

async function timesOf(count: number, work: () => Promise<unknown>): Promise<number[]> {
  const times: number[] = [];
  for (let i = 0; i < count; i++) {
    const start = performance.now();
    await work();
    times.push(performance.now() - start);
  }
  return times;
}

function percentile(times: number[], p: number): number {
  const sorted = [...times].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(p * sorted.length))]!;
}
