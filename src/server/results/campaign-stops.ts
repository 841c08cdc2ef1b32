import { between } from "drizzle-orm";
import type { Window } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { campaignDays } from "@/db/schema";
import { loadCodes } from "./load";

/** How often a campaign ran out of money in a window, and at what hour on average. */
export interface CampaignStop {
  days: number;
  hour: number;
}

/** Days on which campaigns ran dry by the channel's own word, and the hour on average. */
export async function campaignStops(db: Database, window: Window): Promise<Map<string, CampaignStop>> {
  const { texts } = await loadCodes(db);
  const rows = await db
    .select()
    .from(campaignDays)
    .where(between(campaignDays.day, window.from, window.to));
  const stops = new Map<string, CampaignStop>();
  for (const { campaign, dryAt } of rows) {
    if (dryAt === null) continue;
    const key = texts.get(campaign) ?? "";
    const known = stops.get(key) ?? { days: 0, hour: 0 };
    stops.set(key, { days: known.days + 1, hour: (known.hour * known.days + dryAt) / (known.days + 1) });
  }
  return stops;
}
