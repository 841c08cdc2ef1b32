import { and, between, isNotNull, sql } from "drizzle-orm";
import type { Window } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { campaignDays } from "@/db/schema";
import { codeTexts } from "./load";

/** How often a campaign ran out of money in a window, and at what hour on average. */
export interface CampaignStop {
  days: number;
  hour: number;
}

/** Days on which campaigns ran dry by the channel's own word, by the campaign's key; those that never did are left out. */
export async function campaignStops(db: Database, window: Window): Promise<Map<string, CampaignStop>> {
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
  return new Map(rows.map(({ campaign, days, hour }) => [names.get(campaign) ?? "", { days, hour }]));
}
