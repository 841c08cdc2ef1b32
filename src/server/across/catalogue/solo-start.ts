import { z } from "zod";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { cellText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { walkAccount } from "../../account/serving";
import { plannedAccount } from "../../account/state";
import { namerOfItems } from "../../catalogue/called";
import { rowsById } from "../../catalogue/item-rows";
import { loadCatalogue } from "../../catalogue/load";
import { windowOfDays, windowSchema } from "../../results/window";
import type { WorkspaceInfo } from "../../workspaces";
import { findItemIds, itemsQuerySchema } from "./items";

/** The items that a campaign of their own is for: named one by one, or all that the item table finds. */
export const soloStartSchema = z.object({
  items: z.union([
    z.array(z.string().max(500)).min(1).max(500_000),
    z.object({ query: itemsQuerySchema, days: windowSchema }),
  ]),
});

/** What a campaign of their own begins with, by house rule. Money in mills. */
export interface SoloStart {
  /** What it is called; "" where its items have nothing in common that could be its name. */
  name: string;
  /** The campaign that serves most of them first now, with how many; null where none does. */
  from: { name: string; items: number } | null;
  dailyBudget: number;
  bid: number;
}

/** House rule: it begins with this share of the budget of the campaign that serves its items now. */
const SHARE = 0.25;
/** What it begins with where nothing serves them. */
const USUAL_BUDGET = 5_000;
const USUAL_BID = 400;
/** Characters of a proposed name: a campaign's name is read in narrow columns. */
const NAME_LENGTH = 80;

/** A proposed amount stands in a field as people write amounts: with two decimals. */
const wholeCents = (mills: number) => Math.round(mills / 10) * 10;

/** What a campaign of their own for some items would begin with: a share of what serves them now, at the bid they have. */
export async function soloStart(
  db: Database,
  info: WorkspaceInfo,
  { items: asked }: z.output<typeof soloStartSchema>,
): Promise<SoloStart> {
  const items = Array.isArray(asked)
    ? asked
    : await findItemIds(db, info, asked.query, await windowOfDays(db, asked.days));
  const byId = await rowsById(db);
  const rows = items.flatMap((item) => byId.get(item) ?? []);
  const { serving, first } = await walkAccount(db, await plannedAccount(db));
  const byCampaign = new Map<string, { name: string; dailyBudget: number; items: number }>();
  const byBid = new Map<number, number>();
  for (const row of rows) {
    const home = serving[first[row] ?? -1];
    if (!home) continue;
    const { key, name, dailyBudget } = home.campaign;
    const one = byCampaign.get(key) ?? { name, dailyBudget, items: 0 };
    one.items++;
    byCampaign.set(key, one);
    byBid.set(home.bid, (byBid.get(home.bid) ?? 0) + 1);
  }
  const [most] = [...byCampaign.values()].sort((a, b) => b.items - a.items);
  const [bid] = [...byBid].sort((a, b) => b[1] - a[1] || a[0] - b[0]);
  return {
    name: (await nameFor(db, rows)).slice(0, NAME_LENGTH),
    from: most ? { name: most.name, items: most.items } : null,
    dailyBudget: most ? Math.max(CHANNEL_LIMITS.lowestDailyBudget, wholeCents(most.dailyBudget * SHARE)) : USUAL_BUDGET,
    bid: bid?.[0] ?? USUAL_BID,
  };
}

/** The words that their titles begin with, else the deepest category that all of them lie in. */
async function nameFor(db: Database, rows: number[]): Promise<string> {
  const called = (await namerOfItems(db))(rows);
  if (called !== "" || rows.length === 0) return called;
  const { category } = (await loadCatalogue(db, ["category"])).columns;
  if (!category) return "";
  const paths = rows.map((row) => cellText(category, row).split(" > ").filter(Boolean));
  const shared = paths.reduce((known, path) => known.slice(0, known.filter((part, i) => path[i] === part).length));
  return shared.at(-1) ?? "";
}
