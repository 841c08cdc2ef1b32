import type { Transaction } from "@libsql/client";
import { z } from "zod";
import { simulateDay } from "@/core/market/day";
import type { DayResult } from "@/core/market/day-types";
import { nothingLearned } from "@/core/market/learning";
import { buildWorld } from "@/core/market/world";
import { dayAt, formatDay, type Day } from "@/core/kit/days";
import { fail, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import { servingGroups } from "@/core/planogram/homes";
import { decodeRollup, decodeStore, encodeRollup, encodeSpan, encodeStore } from "@/core/results/rollup";
import { rollUp, SPAN_DAYS, spanStart, storeColumns, sumSpan, sumStoreSpan } from "@/core/results/roll-up";
import type { Database } from "@/db/client";
import { campaignDays, codes, facts, marketState, placementFacts, storeSales } from "@/db/schema";
import { bulkInsert } from "../bulk";
import { loadCatalogue } from "../catalogue/load";
import { liveStructure } from "../dispatch/structure";
import { enqueueJob, type JobView } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import { structureColumns } from "../planogram/planograms";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";

export const marketRunSchema = z.object({
  days: z.int().min(1).max(366),
  /** Names the draws; the same seed on the same account gives the same days. */
  seed: z.string().min(1).max(60).optional(),
});

const runInputSchema = z.object({ from: z.int(), through: z.int(), seed: z.string() });

/** Queues a run of the test market from the day after the last results. */
export async function startMarketRun(
  db: Database,
  info: WorkspaceInfo,
  input: z.infer<typeof marketRunSchema>,
): Promise<Outcome<JobView>> {
  const catalogue = await loadCatalogue(db, []);
  if (catalogue.length === 0) {
    return fail("market-no-catalogue", "There is no catalogue to run the market on.", "Upload a feed first.");
  }
  const days = await resultDays(db);
  const from = days ? days.to + 1 : dayAt(Date.now(), info.timeZone);
  const run = { from, through: from + input.days - 1, seed: input.seed ?? info.marketSeed };
  return ok(await enqueueJob(db, "market-run", run));
}

/** The columns of the catalogue that the market's world is built from. */
const WORLD_COLUMNS = ["id", "title", "brand", "category", "price", "salePrice", "availability"];

async function run(context: JobContext, raw: unknown) {
  const { from, through, seed } = runInputSchema.parse(raw);
  const { db, info } = context;
  const catalogue = await loadCatalogue(db, WORLD_COLUMNS);
  if (catalogue.length === 0) giveUp("market-no-catalogue", "There is no catalogue to run the market on.");
  const world = buildWorld(catalogue, info.marketSeed);
  const structure = await liveStructure(db);
  const serving = servingGroups(structure, await structureColumns(db, structure));
  const coder = await Coder.load(db);
  const [state] = await db.select().from(marketState);
  let learned = state?.learned ?? nothingLearned();
  // Days are stored one by one, so a run that was broken off goes on after the last whole day.
  const first = state && state.day >= from ? state.day + 1 : from;
  for (let day = first; day <= through; day++) {
    await context.progress(day - from, through - from + 1, "days");
    const result = simulateDay(world, serving, day, learned, { noise: true, seed });
    learned = result.learned;
    const tx = await db.$client.transaction("write");
    try {
      await storeDay(tx, coder, day, result);
      await tx.commit();
    } finally {
      tx.close();
    }
    await new Promise((resolve) => setImmediate(resolve));
  }
  return { from: formatDay(from), to: formatDay(through), days: through - from + 1 };
}

/** Gives numbers to the texts that facts repeat, making new ones on the way. */
class Coder {
  private fresh: [no: number, kind: string, text: string][] = [];

  private constructor(
    private readonly known: Map<string, number>,
    private next: number,
  ) {}

  static async load(db: Database): Promise<Coder> {
    const rows = await db.select().from(codes);
    const known = new Map(rows.map((row) => [`${row.kind}\u001f${row.text}`, row.no]));
    return new Coder(known, rows.reduce((most, row) => Math.max(most, row.no), 0) + 1);
  }

  code(kind: (typeof codes.$inferSelect)["kind"], text: string): number {
    const key = `${kind}\u001f${text}`;
    let no = this.known.get(key);
    if (no === undefined) {
      no = this.next++;
      this.known.set(key, no);
      this.fresh.push([no, kind, text]);
    }
    return no;
  }

  async save(tx: Transaction): Promise<void> {
    await bulkInsert(tx, codes, ["no", "kind", "text"], this.fresh);
    this.fresh = [];
  }
}

async function storeDay(tx: Transaction, coder: Coder, day: Day, result: DayResult): Promise<void> {
  const coded = result.facts.map((fact) => ({
    ...fact,
    campaign: coder.code("campaign", fact.campaign),
    adGroup: coder.code("adGroup", fact.adGroup),
    target: coder.code("target", fact.target),
    term: coder.code("term", fact.term),
    cost: Math.round(fact.cost),
    revenue: Math.round(fact.revenue),
  }));
  const placements = result.placements.map((fact) => [
    day,
    coder.code("campaign", fact.campaign),
    coder.code("placement", fact.placement),
    fact.impressions,
  ]);
  const spent = new Map<number, number>();
  for (const fact of coded) spent.set(fact.campaign, (spent.get(fact.campaign) ?? 0) + fact.cost);
  const campaigns = result.campaigns.map(({ campaign, budget, dryAt }) => {
    const code = coder.code("campaign", campaign);
    return [day, code, budget, spent.get(code) ?? 0, dryAt];
  });
  await coder.save(tx);
  await bulkInsert(
    tx,
    facts,
    [
      "day",
      "campaign",
      "adGroup",
      "itemNo",
      "target",
      "term",
      "slot",
      "impressions",
      "clicks",
      "cost",
      "orders",
      "units",
      "revenue",
    ],
    coded.map((f) => [
      day,
      f.campaign,
      f.adGroup,
      f.itemNo,
      f.target,
      f.term,
      f.slot,
      f.impressions,
      f.clicks,
      f.cost,
      f.orders,
      f.units,
      f.revenue,
    ]),
  );
  await bulkInsert(tx, placementFacts, ["day", "campaign", "placement", "impressions"], placements);
  await bulkInsert(
    tx,
    storeSales,
    ["day", "itemNo", "orders", "units", "revenue"],
    result.store.map((s) => [day, s.itemNo, s.orders, s.units, Math.round(s.revenue)]),
  );
  await bulkInsert(tx, campaignDays, ["day", "campaign", "budget", "cost", "dryAt"], campaigns);
  await tx.execute({
    sql: "INSERT INTO day_rollups (day, ads, store) VALUES (?, ?, ?)",
    args: [day, encodeRollup(rollUp(coded)), encodeStore(storeColumns(result.store))],
  });
  if (spanStart(day + 1) === day + 1) await storeSpan(tx, spanStart(day));
  await tx.execute({
    sql: "INSERT INTO market_state (id, day, learned) VALUES (1, ?1, ?2) ON CONFLICT (id) DO UPDATE SET day = ?1, learned = ?2",
    args: [day, JSON.stringify(result.learned)],
  });
}

/** Sums the days of a span that is now whole. A span whose first days have no results is left to its days. */
async function storeSpan(tx: Transaction, from: Day): Promise<void> {
  const { rows } = await tx.execute({
    sql: "SELECT ads, store FROM day_rollups WHERE day BETWEEN ? AND ?",
    args: [from, from + SPAN_DAYS - 1],
  });
  if (rows.length < SPAN_DAYS) return;
  const ads = sumSpan(rows.map((row) => decodeRollup(row[0] as ArrayBuffer)));
  const store = sumStoreSpan(rows.map((row) => decodeStore(row[1] as ArrayBuffer)));
  await tx.execute({
    sql: "INSERT INTO span_rollups (from_day, ads, store) VALUES (?, ?, ?)",
    args: [from, encodeSpan(ads), encodeStore(store)],
  });
}

/** Whole days stay: each is one transaction, and a cancelled run keeps the days it has run. */
async function rollBack(): Promise<void> {}

export const marketRun: JobHandler = { run, rollBack };
