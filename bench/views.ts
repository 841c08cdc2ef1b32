import path from "node:path";
import { setTimeout as sleep } from "node:timers/promises";
import { serve, waitForHealth } from "../scripts/lib.mjs";
import { ask, send, upload } from "./ask";
import { writeBenchFeed } from "./feed";
import { Looks, toldLooks, type Look } from "./looks";
import { figure, type Figure } from "./measure";

const PORT = "4387";
const REPEATS = 15;
const DAYS = 5;

/** Every view at its heaviest, by what it is called and what it asks of the API. */
const VIEWS: [name: string, paths: string[]][] = [
  ["today", ["till?days=30", "set-up", "jobs"]],
  ["catalogue", ["items?sort=-cost&limit=100&days=30", "fields"]],
  ["categories", ["categories?days=30"]],
  ["faults", ["feeds"]],
  ["shelves", ["shelf-sets/return-tiers"]],
  ["planogram", ["account?days=30", "split-fields", "planograms"]],
  ["bids", ["bids?kind=item&limit=200"]],
  ["budgets", ["budgets", "budgets/returns"]],
  ["moves", ["moves?limit=100"]],
  ["dispatch", ["basket", "dispatches"]],
  ["results by campaign", ["results?level=campaign&days=30"]],
  ["results by item", ["results?level=item&days=30&limit=100"]],
  ["market", ["market"]],
];

const PLAN = {
  key: "all",
  name: "All",
  ladder: [
    { by: "category1", largest: null },
    { by: "brand", largest: null },
    { by: "id", largest: null },
  ],
  campaignLine: 1,
  adGroupLine: 2,
  inStockOnly: true,
  campaignName: [{ kind: "field", field: "level-1" }],
  adGroupName: [{ kind: "field", field: "level-2" }],
  purpose: "scale",
  bidding: "fixed",
  goal: null,
  totalBudget: 900_000,
  shareBy: "items",
  startingBid: 300,
  serveOrder: 3,
  replaces: [],
};

/** A server over a catalogue of 100,000 items and an account with a product group for each in stock. */
class Shop {
  constructor(private readonly base: string) {}

  get<T>(path: string): Promise<T> {
    return ask(`${this.base}/bench/${path}`);
  }

  post<T>(path: string, body?: unknown): Promise<T> {
    return send(`${this.base}/bench/${path}`, body);
  }

  /** Waits for a job. @returns how long it took, in ms, from asking to its end */
  async job(start: () => Promise<{ job: string }>): Promise<number> {
    const began = performance.now();
    const { job } = await start();
    for (;;) {
      const { state, error } = await this.get<{ state: string; error: unknown }>(`jobs/${job}`);
      if (state === "done") return performance.now() - began;
      if (state === "failed") throw new Error(JSON.stringify(error));
      await sleep(20);
    }
  }

  /** Waits until no job waits or runs. */
  async idle(): Promise<void> {
    for (;;) {
      const jobs = await this.get<{ state: string }[]>("jobs");
      if (!jobs.some(({ state }) => state === "waiting" || state === "running")) return;
      await sleep(100);
    }
  }

  async timed(paths: string[]): Promise<number> {
    const began = performance.now();
    await Promise.all(paths.map((path) => this.get(path)));
    return performance.now() - began;
  }
}

/** How long each view takes, first and later, after a change, and whether requests wait for each other. */
export async function benchViews(folder: string): Promise<Figure[]> {
  const file = path.join(folder, "views.csv");
  await writeBenchFeed(file, 100_000);
  const env = { HOTSHELF_DATA_DIR: path.join(folder, "views"), PORT, HOST: "127.0.0.1", LOG_LEVEL: "error" };
  const server = serve({ env });
  const base = `http://127.0.0.1:${PORT}/api/v1`;
  const shop = new Shop(base);
  const figures: Figure[] = [];
  const put = (name: string, ms: number, wanted: string, note = "") =>
    figures.push(figure(name, "100k", ms, "", null, wanted, note));
  try {
    await waitForHealth(`http://127.0.0.1:${PORT}`);
    const workspace = { slug: "bench", name: "Bench", currency: "EUR", timeZone: "Europe/Berlin", goal: 3 };
    await send(`${base}/workspaces`, workspace);
    await shop.job(async () => ({ job: await upload(base, file) }));
    await shop.post("planograms", PLAN);
    put("apply a planogram of an item a group", await shop.job(() => shop.post("planograms/all/apply")), "10 s");
    put("send it", await shop.job(() => shop.post("dispatches")), "10 s");
    await shop.job(() => shop.post("market/run", { days: DAYS }));

    const later: number[] = [];
    const firsts: string[] = [];
    for (const [name, paths] of VIEWS) {
      const first = await shop.timed(paths);
      const times = await repeat(() => shop.timed(paths));
      later.push(...times);
      firsts.push(`${name} ${first.toFixed(0)} → ${percentile(times, 0.95).toFixed(0)}`);
    }
    put("every view after the first, 95th percentile", percentile(later, 0.95), "within 300 ms", firsts.join(", "));

    const { lines } = await shop.get<{ lines: { key: string; level: string }[] }>("account?days=30");
    const campaigns = lines.filter(({ level }) => level === "campaign");
    const oneEdit = async (i: number) => {
      const began = performance.now();
      const { key } = campaigns[i % campaigns.length]!;
      await shop.post("account/edits", { action: "budget", keys: [key], op: { how: "set", mills: 100_000 + i } });
      await shop.timed(["account?days=30", "basket", "till?days=30"]);
      return performance.now() - began;
    };
    // The first ones meet a counter that has not read the account yet; they are not what a person meets all day.
    await repeat(oneEdit, 3);
    const edits = await repeat((i) => oneEdit(i + 3));
    put(
      "an edit, then the workbench, the basket and the till strip, 95th percentile",
      percentile(edits, 0.95),
      "within 300 ms",
    );

    const alone = await repeat(() => shop.timed(["jobs"]));
    let busy = true;
    const heavy = (async () => {
      while (busy)
        await Promise.all([shop.post("planograms/preview", PLAN), shop.timed(["results?level=item&days=7&limit=100"])]);
    })();
    const beside = await repeat(() => shop.timed(["jobs"]), 60);
    busy = false;
    await heavy;
    const waited = percentile(beside, 0.95) - percentile(alone, 0.5);
    put(
      "wait of a quick request for heavy ones, 95th percentile",
      waited,
      "within 100 ms",
      `worst ${Math.max(...beside).toFixed(0)} ms`,
    );

    const looks = new Looks(`http://127.0.0.1:${PORT}/w/bench`);
    // Whoever works here has looked at these before.
    await looks.all();
    await shop.idle();
    await shop.job(() => shop.post("market/run", { days: 1 }));
    await shop.idle();
    const afterDay = await looks.all();
    put(
      "first look at every view after a market day, 95th percentile",
      p95(afterDay),
      "within 500 ms",
      toldLooks(afterDay),
    );
    await writeBenchFeed(file, 100_000, 20);
    await shop.job(async () => ({ job: await upload(base, file) }));
    await shop.idle();
    const afterReading = await looks.all();
    put(
      "first look at every view after a reading, 95th percentile",
      p95(afterReading),
      "within 500 ms",
      toldLooks(afterReading),
    );
    const paints = await looks.paints();
    put(
      "first paint with rows in the browser, slowest view",
      Math.max(...paints.map(({ ms }) => ms)),
      "within 800 ms, shift under 0.02",
      `shift at most ${Math.max(...paints.map(({ shift }) => shift)).toFixed(4)}; ${paints.map(({ page, ms }) => `${page} ${ms.toFixed(0)}`).join(", ")}`,
    );
    return figures;
  } finally {
    server.stop();
    await sleep(500);
  }
}

async function repeat(work: (i: number) => Promise<number>, times = REPEATS): Promise<number[]> {
  const found: number[] = [];
  for (let i = 0; i < times; i++) found.push(await work(i));
  return found;
}

const p95 = (looks: Look[]) =>
  percentile(
    looks.map(({ ms }) => ms),
    0.95,
  );

function percentile(times: number[], p: number): number {
  const sorted = [...times].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(p * sorted.length))]!;
}
