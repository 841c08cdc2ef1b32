import { z } from "zod";
import { keySchema } from "@/core/account/records/basics";
import { asText } from "@/core/kit/columns";
import { windowEnding } from "@/core/kit/days";
import { addSums, noSums, type AdMeasure, type Sums } from "@/core/kit/metrics";
import { addLine } from "@/core/results/cube";
import type { Database } from "@/db/client";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { loadCube } from "../results/cubes";
import { loadCodes, resultDays } from "../results/load";
import { PAST_DAYS } from "../results/past-terms";
import { missingMeasures } from "../results/reported";
import type { WorkspaceInfo } from "../workspaces";

export const itemsStoppedSchema = z.object({
  items: z.array(z.string().max(500)).min(1, "Nothing is chosen.").max(20_000),
  /** Key of the campaign that they are kept out of; null is all. */
  campaign: keySchema.nullable().default(null),
});

/** What items brought that are to get no ads any more. Money in mills. */
export interface ItemsStopped {
  days: number;
  sums: Pick<Sums, "clicks" | "cost" | "orders" | "revenue">;
  /** What no report tells: these sums are not known, though they stand as 0. */
  missing: AdMeasure[];
  /** Those with a return at or above the goal, the one that sold most first, and how many there are. */
  paying: { id: string; title: string; cost: number; revenue: number; orders: number }[];
  paid: number;
  goal: number;
}

/** Paying items that are named. */
const MOST_NAMED = 5;

/** What items brought over the last days, in one campaign or in all: what stops where they are excluded. */
export async function itemsStopped(
  db: Database,
  { goal }: Pick<WorkspaceInfo, "goal">,
  { items, campaign }: z.output<typeof itemsStoppedSchema>,
): Promise<ItemsStopped | null> {
  const span = await resultDays(db);
  if (!span) return null;
  const window = windowEnding(span.to, PAST_DAYS);
  const { ads } = await loadCube(db, "item", window, false);
  const { texts } = await loadCodes(db);
  const rows = await rowsById(db);
  const { columns } = await loadCatalogue(db, ["title"]);
  const title = columns["title"] ? asText(columns["title"]) : null;
  const itemNo = (await loadCatalogue(db, [])).columns["itemNo"];
  const byNo = new Map<number, { id: string; row: number; sums: Sums }>();
  for (const id of new Set(items)) {
    const row = rows.get(id);
    if (row !== undefined && itemNo?.kind === "number") byNo.set(itemNo.values[row]!, { id, row, sums: noSums() });
  }
  const { item, campaign: ofCampaign } = ads.dimensions;
  for (let line = 0; line < ads.length; line++) {
    const found = byNo.get(item![line]!);
    if (!found || (campaign !== null && texts.get(ofCampaign![line]!) !== campaign)) continue;
    addLine(found.sums, ads, line, false);
  }
  const all = noSums();
  for (const { sums } of byNo.values()) addSums(all, sums);
  const paying = [...byNo.values()]
    .filter(({ sums }) => sums.cost > 0 && sums.revenue >= goal * sums.cost)
    .sort((a, b) => b.sums.revenue - a.sums.revenue || (a.id < b.id ? -1 : 1));
  return {
    days: span.to - Math.max(window.from, span.from) + 1,
    missing: await missingMeasures(db, "item", window, ads),
    sums: { clicks: all.clicks, cost: all.cost, orders: all.orders, revenue: all.revenue },
    paying: paying.slice(0, MOST_NAMED).map(({ id, row, sums: { cost, revenue, orders } }) => ({
      ...{ id, title: (title && title.values[title.codes[row]!]) || id, cost, revenue, orders },
    })),
    ...{ paid: paying.length, goal },
  };
}
