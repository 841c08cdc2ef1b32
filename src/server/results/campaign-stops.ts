import { and, between, eq, isNotNull, sql } from "drizzle-orm";
import { STOP_DAYS } from "@/core/budgets/stop-days";
import { windowEnding } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { campaignDays } from "@/db/schema";
import { codeTexts, resultDays } from "./load";

/** How often a campaign ran out of money, and at what hour on average. */
export interface CampaignStop {
  days: number;
  hour: number;
}

/** When campaigns ran out of money lately. */
export interface CampaignStops {
  /** The last days with results, as many as there are of {@link STOP_DAYS}. */
  of: number;
  /** By the campaign's key; those that never did are left out. */
  stops: Map<string, CampaignStop>;
}

/** Days on which campaigns ran dry by the channel's own word, over the last days with results. */
export async function campaignStops(db: Database): Promise<CampaignStops> {
  const span = await resultDays(db);
  if (!span) return { of: 0, stops: new Map() };
  const window = windowEnding(span.to, STOP_DAYS);
  const names = await codeTexts(db, "campaign");
  const rows = await db
    .select({
      campaign: campaignDays.campaign,
      days: sql<number>`count(*)`,
      hour: sql<number>`avg(${campaignDays.dryAt})`,
    })
    .from(campaignDays)
    .where(and(between(campaignDays.day, window.from, window.to), isNotNull(campaignDays.dryAt)))
    .groupBy(campaignDays.campaign);
  const stops = new Map(rows.map(({ campaign, days, hour }) => [names.get(campaign) ?? "", { days, hour }]));
  return { of: Math.min(STOP_DAYS, span.to - span.from + 1), stops };
}

/** Keys of the campaigns that ran dry on one day. */
export async function dryOn(db: Database, day: number): Promise<ReadonlySet<string>> {
  const names = await codeTexts(db, "campaign");
  const rows = await db
    .select({ campaign: campaignDays.campaign })
    .from(campaignDays)
    .where(and(eq(campaignDays.day, day), isNotNull(campaignDays.dryAt)));
  return new Set(rows.map(({ campaign }) => names.get(campaign) ?? ""));
}

/** Mills that all campaigns might have spent on one day, as the channel had their budgets then; null where it did not say. */
export async function budgetOn(db: Database, day: number): Promise<number | null> {
  const [row] = await db
    .select({ budget: sql<number | null>`sum(${campaignDays.budget})` })
    .from(campaignDays)
    .where(eq(campaignDays.day, day));
  return row?.budget ?? null;
}
