import { and, gte, lte, sql } from "drizzle-orm";
import { type Window } from "@/core/kit/days";
import { noSums, type Sums } from "@/core/kit/metrics";
import type { Group } from "@/core/results/cube";
import { toldNothing } from "@/core/results/told";
import type { Database } from "@/db/client";
import { campaignDays } from "@/db/schema";
import { liveAccount } from "../../account/state";
import { type Divided } from "./divide";
import { type LevelCodes } from "./level-codes";
import { codeTexts } from "../../results/load";
import { windowTotal } from "./till";
import { type SliceQuery } from "./slice-query";

/** What runs and had no result is shown too: nothing at all is a result. */
export async function idleGroups(db: Database, query: SliceQuery, level: LevelCodes, now: Divided): Promise<Group[]> {
  if ((query.level !== "campaign" && query.level !== "adGroup") || query.split !== "" || query.within.length > 0)
    return [];
  const idle: Group[] = [];
  for (const record of (await liveAccount(db)).all(query.level)) {
    if (record.status !== "on") continue;
    const code = level.codeOfKey(record.key);
    if (code < 0 || now.find(code, 0) === null)
      idle.push({ key: level.codeFor!(record.key), split: 0, sums: noSums(), told: toldNothing() });
  }
  return idle;
}

/** Days on which each campaign ran dry, and at what hour on average. */
export async function dryDays(db: Database, window: Window): Promise<Map<string, { days: number; hour: number }>> {
  const names = await codeTexts(db, "campaign");
  const rows = await db
    .select({
      campaign: campaignDays.campaign,
      days: sql<number>`count(*)`,
      hour: sql<number>`avg(${campaignDays.dryAt})`,
    })
    .from(campaignDays)
    .where(
      and(gte(campaignDays.day, window.from), lte(campaignDays.day, window.to), sql`${campaignDays.dryAt} IS NOT NULL`),
    )
    .groupBy(campaignDays.campaign);
  return new Map(rows.map((row) => [names.get(row.campaign) ?? "", { days: row.days, hour: row.hour }]));
}

/** The shop's sales of a window, beside ad results that are not divided by items. */
export async function addStoreTotal(db: Database, total: Sums, window: Window): Promise<void> {
  const { storeOrders, storeRevenue } = await windowTotal(db, window);
  Object.assign(total, { storeOrders, storeRevenue });
}
