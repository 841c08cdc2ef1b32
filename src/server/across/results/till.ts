import { formatDay, type Window } from "@/core/kit/days";
import { SOURCES, type Source } from "@/core/results/levels";
import { addSums, type Sums } from "@/core/kit/metrics";
import { totalOf } from "@/core/results/window-sums";
import { isNotNull } from "drizzle-orm";
import type { Database } from "@/db/client";
import { stocktakes } from "@/db/schema";
import { listFeeds } from "../../catalogue/feeds";
import { loadCatalogue } from "../../catalogue/load";
import { countLeaks, forgottenItems } from "../catalogue/standings";
import { readAccount } from "../../account/state";
import { listShelfSets } from "../../shelves/sets";
import type { WorkspaceInfo } from "../../workspaces";
import { loadWindow, resultDays } from "../../results/load";
import { budgetOn } from "../../results/campaign-stops";
import { loadCube } from "../../results/cubes";
import { sourceWithRows } from "../../results/reported";
import { windowOfDays } from "../../results/window";

export interface TillStrip {
  goal: number;
  /** Return over the window, or null. */
  roas: number | null;
  cost: number;
  /** Mills a day over all running campaigns. */
  budget: number;
  /** Spend of the last day with results; null where no report tells it. */
  lastDayCost: number | null;
  /** Budgets of that day, as the channel had them then; null where it did not say. */
  lastDayBudget: number | null;
  /** The report the figures come from, where it is not the item report. */
  source: Source | null;
  /** Items that nothing serves and nobody chose to leave out. */
  withoutHome: number;
  items: number;
  leaks: number;
  feedReadAt: number | null;
  resultsTo: string | null;
  /** Changes that wait, and the account's version that has them: an estimate of another version is not theirs. */
  basket: number;
  version: number;
}

/** What the till strip shows. Homes and leaks are of the account as the channel has it. */
export async function tillStrip(db: Database, info: WorkspaceInfo, days: number): Promise<TillStrip> {
  const window = await windowOfDays(db, days);
  const catalogue = await loadCatalogue(db, []);
  const at = await readAccount(db);
  const forgotten = await forgottenItems(db);
  const [feed] = await listFeeds(db);
  const span = await resultDays(db);
  const source = await sourceWithRows(db, Object.keys(SOURCES) as Source[], window);
  const total = await adTotal(db, source, window);
  const last = span ? await adTotal(db, source, { from: span.to, to: span.to }) : null;
  const running = at.live.all("campaign").filter((campaign) => campaign.status === "on");
  return {
    goal: info.goal,
    roas: total.cost > 0 ? total.revenue / total.cost : null,
    cost: total.cost,
    budget: running.reduce((sum, campaign) => sum + campaign.dailyBudget, 0),
    lastDayCost: last && (last.cost > 0 || last.impressions > 0) ? last.cost : null,
    lastDayBudget: span ? await budgetOn(db, span.to) : null,
    source: source === "item" ? null : source,
    withoutHome: forgotten.total,
    items: catalogue.length,
    leaks: await countLeaks(db),
    feedReadAt: feed?.readAt ?? null,
    resultsTo: span ? formatDay(span.to) : null,
    basket: at.waiting,
    version: at.version,
  };
}

/** Ad results of a window by one report. */
async function adTotal(
  db: Database,
  source: Source,
  window: Window,
): Promise<{ cost: number; revenue: number; impressions: number }> {
  if (source === "item") return windowTotal(db, window);
  const { ads } = await loadCube(db, source, window, false);
  const sum = (key: "cost" | "revenue" | "impressions") => ads.sums[key].reduce((total, value) => total + value, 0);
  return { cost: sum("cost"), revenue: sum("revenue"), impressions: sum("impressions") };
}

/** All results of a window, items that left the catalogue included. */
export async function windowTotal(db: Database, window: Window): Promise<Sums> {
  const { rows, gone } = await loadWindow(db, window);
  const total = totalOf(rows);
  addSums(total, gone);
  return total;
}

/** What is still missing on the way round the loop. */
export async function setUpSteps(db: Database) {
  const catalogue = await loadCatalogue(db, []);
  const span = await resultDays(db);
  const at = await readAccount(db);
  const sets = await listShelfSets(db);
  return {
    catalogue: catalogue.length > 0,
    shelves: sets.some((set) => set.computedAt !== null),
    campaigns: at.live.all("campaign").length > 0,
    basket: at.waiting,
    results: span !== null,
    stocktake: await hasTakenStock(db),
  };
}

async function hasTakenStock(db: Database): Promise<boolean> {
  const taken = await db.select({ id: stocktakes.id }).from(stocktakes).where(isNotNull(stocktakes.head)).limit(1);
  return taken.length > 0;
}
