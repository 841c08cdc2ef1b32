import { z } from "zod";
import { firstHomes } from "@/core/account/homes";
import { cellText } from "@/core/kit/columns";
import type { Window } from "@/core/kit/days";
import { METRICS, noSums, type Sums } from "@/core/kit/metrics";
import { addLine } from "@/core/results/cube";
import type { Database } from "@/db/client";
import { walkAccount } from "../account/serving";
import { plannedAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { loadCube } from "../results/cubes";
import { loadCodes } from "../results/load";

/** An item of a campaign or group, with what it did there. */
export interface GroupItem {
  id: string;
  title: string;
  image: string;
  sums: Sums;
  /** The campaign that serves it where this one does not; null for none. */
  next: string | null;
}

export interface ItemsOfGroup {
  total: number;
  items: GroupItem[];
}

const SORT_BY = {
  clicks: ({ clicks }: Sums) => clicks,
  cost: ({ cost }: Sums) => cost,
  orders: ({ orders }: Sums) => orders,
  roas: (sums: Sums) => METRICS.roas.of(sums) ?? -1,
};

export const groupItemsSchema = z.object({
  group: z.string().min(1).max(2000),
  sort: z
    .string()
    .regex(/^-?(clicks|cost|orders|roas)$/, "clicks, cost, orders or roas, with - for the most first")
    .default("-clicks"),
  limit: z.coerce.number().int().min(1).max(5000).default(500),
});

/** The items that a campaign, ad group or product group serves, with what they did in its campaign, and who would serve them without it. */
export async function itemsOfGroup(
  db: Database,
  { group: key, sort, limit }: z.output<typeof groupItemsSchema>,
  window: Window | null,
): Promise<ItemsOfGroup> {
  const { serving, aimed, catalogue } = await walkAccount(db, await plannedAccount(db));
  const own = [...serving, ...aimed].filter(
    ({ campaign, adGroup, group }) => campaign.key === key || adGroup.key === key || group.key === key,
  );
  const rows = [...new Set(own.flatMap(({ rows: held }) => [...held]))];
  const [first] = own;
  if (!first) return { total: 0, items: [] };
  const { columns } = await loadCatalogue(db, ["id", "title", "image"]);
  const itemNo = (await loadCatalogue(db, [])).columns["itemNo"];
  const rowOf = new Map(rows.map((row) => [itemNo?.kind === "number" ? itemNo.values[row]! : -1, row]));
  const sums = new Map(rows.map((row) => [row, noSums()]));
  if (window) {
    const { ads } = await loadCube(db, "item", window, false);
    const { byText } = await loadCodes(db);
    const isCampaign = first.campaign.key === key;
    const wanted = byText.get(isCampaign ? `campaign/${key}` : `adGroup/${first.adGroup.key}`) ?? -1;
    const codes = isCampaign ? ads.dimensions.campaign! : ads.dimensions.adGroup!;
    for (let line = 0; line < ads.length; line++) {
      const row = codes[line] === wanted ? rowOf.get(ads.dimensions.item![line]!) : undefined;
      if (row !== undefined) addLine(sums.get(row)!, ads, line, false);
    }
  }
  const isOwn = new Set(own);
  const others = serving.filter((home) => !isOwn.has(home) && home.campaign.key !== key);
  const next = firstHomes(others, catalogue.length);
  const text = (name: string, row: number) => (columns[name] ? cellText(columns[name], row) : "");
  const by = SORT_BY[sort.replace("-", "") as keyof typeof SORT_BY];
  const sign = sort.startsWith("-") ? -1 : 1;
  const items = rows
    .sort((a, b) => sign * (by(sums.get(a)!) - by(sums.get(b)!)) || a - b)
    .slice(0, limit)
    .map((row): GroupItem => ({
      ...{ id: text("id", row), title: text("title", row), image: text("image", row), sums: sums.get(row)! },
      next: others[next[row]!]?.campaign.name ?? null,
    }));
  return { total: rows.length, items };
}
