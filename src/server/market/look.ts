import { formatDay } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { marketState } from "@/db/schema";
import { resultDays } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";

export interface MarketView {
  seed: string;
  /** The last day that was run, and the next one. */
  lastDay: string | null;
  nextDay: string | null;
  lateOrders: number;
}

/** How far the test market has run. What its world is like stays with it: an account is run by what a channel tells. */
export async function viewMarket(db: Database, info: WorkspaceInfo): Promise<MarketView> {
  const [state] = await db.select().from(marketState);
  const span = await resultDays(db);
  return {
    seed: info.marketSeed,
    lastDay: span && formatDay(span.to),
    nextDay: span && formatDay(span.to + 1),
    lateOrders: state?.state.late.reduce((sum, { orders }) => sum + orders, 0) ?? 0,
  };
}
