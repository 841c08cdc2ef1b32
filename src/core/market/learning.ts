/**
 * What the channel has learned about the value of a click, per campaign and per item in it: clicks and sales, fading
 * with time. A thin campaign learns slowly and so bids worse than a pooled one, for the same reason as on real channels.
 */
export interface Learned {
  /** Clicks and sales (mills), fading. */
  campaigns: Record<string, [clicks: number, revenue: number]>;
  /** By campaign key, then item number. */
  items: Record<string, Record<number, [clicks: number, revenue: number]>>;
}

export function nothingLearned(): Learned {
  return { campaigns: {}, items: {} };
}

/** Share of yesterday's evidence that still counts today. */
const MEMORY = 0.97;
/** Clicks that the starting bid counts for against a campaign's own data, and the campaign's for an item's. */
const START_CLICKS = 40;
const CAMPAIGN_CLICKS = 25;
/** The channel moves a bid no further than this from the starting bid, up or down. */
const WIDEST_STEP = 4;

/**
 * The bid of a return-goal campaign for one item: what a click is believed to bring, over the goal.
 * @param start mills a click the advertiser began with
 * @param goal sales per unit of cost
 */
export function learnedBid(learned: Learned, campaign: string, itemNo: number, start: number, goal: number): number {
  const [clicks, revenue] = learned.campaigns[campaign] ?? [0, 0];
  const campaignValue = (start * goal * START_CLICKS + revenue) / (START_CLICKS + clicks);
  const [itemClicks, itemRevenue] = learned.items[campaign]?.[itemNo] ?? [0, 0];
  const value = (campaignValue * CAMPAIGN_CLICKS + itemRevenue) / (CAMPAIGN_CLICKS + itemClicks);
  const bid = Math.round(value / goal);
  return Math.max(Math.ceil(start / WIDEST_STEP), Math.min(start * WIDEST_STEP, bid));
}

/** Fades what is known and adds a day's results. */
export function learn(
  learned: Learned,
  results: { campaign: string; itemNo: number; clicks: number; revenue: number }[],
): Learned {
  const next = nothingLearned();
  for (const [key, [clicks, revenue]] of Object.entries(learned.campaigns)) {
    next.campaigns[key] = [clicks * MEMORY, revenue * MEMORY];
  }
  for (const [key, items] of Object.entries(learned.items)) {
    const faded: Record<number, [number, number]> = {};
    for (const [no, [clicks, revenue]] of Object.entries(items)) {
      if (clicks > 0.05) faded[Number(no)] = [clicks * MEMORY, revenue * MEMORY];
    }
    next.items[key] = faded;
  }
  for (const { campaign, itemNo, clicks, revenue } of results) {
    // Orders that come in late bring sales without a click: the click was learned from on its own day.
    if (clicks === 0 && revenue === 0) continue;
    const total = (next.campaigns[campaign] ??= [0, 0]);
    total[0] += clicks;
    total[1] += revenue;
    const item = ((next.items[campaign] ??= {})[itemNo] ??= [0, 0]);
    item[0] += clicks;
    item[1] += revenue;
  }
  return next;
}
