import { encodeRollup, encodeStore } from "@/core/results/day-columns";
import { rollUp, storeColumns } from "@/core/results/roll-up-days";
import type { Database } from "@/db/client";
import { dayRollups } from "@/db/schema";

/** For tests: a day of ad results as items had them, an order each where something was sold. Money in mills. */
export async function storeAdDay(
  { db }: { db: Database },
  at: number,
  lines: [itemNo: number, clicks: number, cost: number, revenue: number][],
) {
  const facts = lines.map(([itemNo, clicks, cost, revenue]) => ({
    campaign: 1,
    adGroup: 2,
    itemNo,
    impressions: clicks * 20,
    clicks,
    cost,
    orders: revenue > 0 ? 1 : 0,
    units: 1,
    revenue,
  }));
  const ads = Buffer.from(encodeRollup(rollUp(facts)).buffer);
  await db.insert(dayRollups).values({ day: at, ads, store: Buffer.from(encodeStore(storeColumns([])).buffer) });
}
