import { spawnSync } from "node:child_process";
import { writeFileSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import Papa from "papaparse";
import { Account } from "@/core/account/account";
import { simulateDay } from "@/core/market/day";
import { firstState } from "@/core/market/day-types";
import { planAccount } from "@/core/market/running-account";
import { lightShop } from "@/core/market/seen-world";
import { testCampaign } from "@/core/market/test-shop";
import { buildWorld } from "@/core/market/world";
import { quillmoorFeed } from "../demo/quillmoor";
import { writeBenchFeed } from "./feed";
import { figure, timed, type Figure } from "./measure";

const DAYS = 30;

/** Runs the market in a process of its own, as the runner does, with storing. */
function runIn(folder: string, file: string, label: string): { ms: number; rows: number; mb: number } {
  const script = path.join(path.dirname(fileURLToPath(import.meta.url)), "market-once.ts");
  const done = spawnSync(process.execPath, ["--import", "tsx", script, file, String(DAYS)], {
    env: { ...process.env, HOTSHELF_DATA_DIR: path.join(folder, `market-${label}`), LOG_LEVEL: "warn" },
    encoding: "utf8",
    stdio: ["ignore", "pipe", "inherit"],
  });
  return JSON.parse(done.stdout) as { ms: number; rows: number; mb: number };
}

/** Thirty days of the test market, computed and stored, for the demo's catalogue and a large one. */
export async function benchMarket(folder: string): Promise<Figure[]> {
  const { headings, rows } = quillmoorFeed();
  const small = path.join(folder, "quillmoor.csv");
  writeFileSync(small, Papa.unparse([[...headings], ...rows]));
  const large = path.join(folder, "market.csv");
  await writeBenchFeed(large, 100_000);
  return [
    ["1,200 items", small, "under 5 s"],
    ["100k items", large, "under 90 s"],
  ]
    .map(([label, file, target]) => {
      const { ms, rows: lines, mb } = runIn(folder, file!, label!.replace(/\W/g, ""));
      return figure(
        "test market, 30 days, stored",
        label!,
        ms,
        "",
        null,
        target!,
        `${lines} lines, ${mb.toFixed(0)} MB`,
      );
    })
    .concat(await benchHours());
}

/** A day with different bids in every hour against one with the same all day. */
async function benchHours(): Promise<Figure[]> {
  const items = 600;
  const shop = lightShop(items, "hours");
  const world = buildWorld(shop, "hours");
  const ids = Array.from({ length: items }, (_, i) => `L${i}`);
  const dayWith = (hours: number[] | null) => {
    const account = Account.fromStructure(testCampaign("c", hours ? { hours } : {}, ids, 500));
    const plan = planAccount(world, account, shop);
    return () => simulateDay(world, plan, 20_500, firstState(), { noise: true, seed: "hours" });
  };
  const rounds = 15;
  const plain = await timed(rounds, dayWith(null));
  const many = await timed(rounds, dayWith(Array.from({ length: 24 }, (_, hour) => 0.4 + ((hour * 7) % 24) / 16)));
  return [figure("a day with 24 hour factors", `${items} items`, many, "the same day without", plain, "3")];
}
