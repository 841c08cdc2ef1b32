import type { ClickWorth } from "@/core/goals/click-worth";
import { goalInForce } from "@/core/goals/goals";
import { windowEnding } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { workspace } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { loadWindow, resultDays } from "../results/load";
import { loadEvidence } from "../evidence/items";
import { shelfGoals } from "./shelf-goals";

/** Days of results that bids look back on: fewer cost a tenth of what bids can bring. */
const BID_DAYS = 90;

/**
 * What a click on each catalogue row is worth, by the evidence of the last 90 days; null where there are no results, or
 * nothing is known of the row.
 */
export async function clickWorths(
  db: Database,
): Promise<(row: number, campaignGoal: number | null) => ClickWorth | null> {
  const days = await resultDays(db);
  if (!days) return () => null;
  const [settings] = await db.select({ goal: workspace.goal }).from(workspace);
  const { orderRate, orderValue } = await loadEvidence(db, await loadWindow(db, windowEnding(days.to, BID_DAYS)));
  const { columns } = await loadCatalogue(db, ["margin", "breakEven"]);
  const numbers = (name: string) => (columns[name]?.kind === "number" ? columns[name].values : null);
  const [margins, breakEvens] = [numbers("margin"), numbers("breakEven")];
  const ofShelf = await shelfGoals(db);
  return (row, campaignGoal) => {
    const sales = orderRate[row]! * orderValue[row]!;
    if (!Number.isFinite(sales)) return null;
    const margin = margins?.[row] ?? NaN;
    const { goal } = goalInForce({
      ...{ workspace: settings!.goal, shelf: ofShelf.of(row), campaign: campaignGoal },
      breakEven: breakEvens?.[row],
    });
    return { sales, margin: Number.isFinite(margin) ? margin : null, goal };
  };
}
