import { mappingFrom, proposeMapping } from "@/core/catalogue/mapping";
import { CatalogueColumnsBuilder } from "@/core/catalogue/catalogue-columns";
import { rowReader } from "@/core/catalogue/read-row";
import { simulateDay } from "@/core/market/day";
import { nothingLearned } from "@/core/market/learning";
import { buildWorld } from "@/core/market/world";
import { servingGroups } from "@/core/planogram/homes";
import type { Structure } from "@/core/planogram/structure";
import { quillmoorFeed } from "../demo/quillmoor";
import { BENCH_HEADINGS, benchRow } from "./feed";
import { figure, type Figure } from "./measure";

const DAYS = 30;

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

function simulate(headings: string[], rows: string[][], days: number): number {
  const mapping = mappingFrom(proposeMapping(headings, rows.slice(0, 200)), headings, rows.slice(0, 200));
  const read = rowReader(headings, mapping, "EUR");
  const builder = new CatalogueColumnsBuilder(headings, mapping);
  rows.forEach((cells, i) => {
    const result = read(cells);
    if (result.ok) builder.push(i + 1, 0, result.item, cells);
  });
  const catalogue = builder.finish();
  const start = performance.now();
  const world = buildWorld(catalogue, "bench");
  const serving = servingGroups(ACCOUNT, catalogue);
  let learned = nothingLearned();
  for (let day = 0; day < days; day++)
    learned = simulateDay(world, serving, 20_600 + day, learned, { noise: true, seed: "bench" }).learned;
  return performance.now() - start;
}

/** The test market's computation alone, without storing. */
export function benchMarket(): Figure[] {
  const demo = quillmoorFeed();
  const large = Array.from({ length: 100_000 }, (_, i) => benchRow(i, false));
  return [
    figure("test market, 30 days", "1,200 items", simulate([...demo.headings], demo.rows, DAYS), "", null, "under 5 s"),
    figure("test market, 30 days", "100k items", simulate(BENCH_HEADINGS, large, DAYS), "", null, "under 90 s"),
  ];
}
