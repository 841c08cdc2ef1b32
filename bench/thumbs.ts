// Rules of thumb, as people run accounts by: what the decision bench holds moves against.
import type { Account } from "@/core/account/account";
import { Draft } from "@/core/account/draft";
import type { Ground } from "@/core/moves/ground";

const GOAL_FROM = 8;
const OFF_AFTER = 40;
const WASTE_CLICKS = 40;
const WINNER_ORDERS = 4;

/**
 * Every week: off after so many clicks without an order; a tenth up or down by the goal; winners to a campaign of their own
 * with half as much again for a bid; a quarter more money for what runs dry above its goal; terms that only cost kept out.
 */
export function thumbs(ground: Ground): Account {
  const { account, homes, first, sums, places, purses, margin } = ground;
  const draft = new Draft(account);
  for (let row = 0; row < ground.rows; row++) {
    const home = homes[first[row]!];
    if (!home) continue;
    const [clicks, orders, cost, revenue] = [sums.clicks[row]!, sums.orders[row]!, sums.cost[row]!, sums.revenue[row]!];
    const goal = 1.3 / margin[row]!;
    const group = draft.find("productGroup", home.group.key)!;
    if (orders === 0 && clicks >= OFF_AFTER) draft.put({ ...group, bid: 10 });
    else if (clicks >= GOAL_FROM)
      draft.put({ ...group, bid: Math.max(10, Math.round(home.bid * (revenue >= goal * cost ? 1.1 : 0.9))) });
  }
  winners(ground, draft);
  const dry = new Map<string, number>();
  for (const { campaign, dryAt } of purses) if (dryAt !== null) dry.set(campaign, (dry.get(campaign) ?? 0) + 1);
  for (const [key, days] of dry) {
    const campaign = draft.find("campaign", key);
    const rows = homes.filter((home) => home.campaign.key === key).flatMap(({ rows: of }) => [...of]);
    const of = (values: Float64Array) => rows.reduce((sum, row) => sum + values[row]!, 0);
    if (campaign && days >= 3 && of(sums.revenue) > 3 * of(sums.cost)) {
      draft.put({ ...campaign, dailyBudget: Math.round(campaign.dailyBudget * 1.25) });
    }
  }
  const byPlace = new Map<string, { clicks: number; orders: number }>();
  for (const { place, clicks, orders } of places) {
    const sum = byPlace.get(place) ?? { clicks: 0, orders: 0 };
    byPlace.set(place, { clicks: sum.clicks + clicks, orders: sum.orders + orders });
  }
  for (const [place, { clicks, orders }] of byPlace) {
    if (place === "" || orders > 0 || clicks < WASTE_CLICKS) continue;
    const what = ground.isListing(place) ? "listing" : "term";
    draft.put({
      type: "negative",
      key: `n:${place}`,
      scope: null,
      what,
      match: "exact",
      value: place,
      reason: "wasteful",
      reviewOn: null,
    });
  }
  return draft.after();
}

/** Items with some orders above the goal stand in a campaign of their own, served first. */
function winners({ account, homes, first, rows, sums, margin, idOf }: Ground, draft: Draft): void {
  for (let row = 0; row < rows; row++) {
    const home = homes[first[row]!];
    if (!home || sums.orders[row]! < WINNER_ORDERS || sums.revenue[row]! < (1.3 / margin[row]!) * sums.cost[row]!)
      continue;
    const key = `p:winners/${idOf(row)}`;
    if (draft.get(key)) continue;
    if (!draft.get("c:winners")) {
      const dailyBudget = Math.round(account.all("campaign").reduce((sum, one) => sum + one.dailyBudget, 0) / 5);
      draft.put({
        ...{ type: "campaign", key: "c:winners", name: "Winners", kind: "feed", purpose: "scale", bidding: "fixed" },
        ...{ goal: null, dailyBudget, status: "on", serveOrder: 1, inStockOnly: false, origin: null },
      } as const);
      draft.put({ type: "adGroup", key: "g:winners", campaign: "c:winners", name: "Winners", status: "on", bid: 300 });
      const tree = { type: "productGroup", adGroup: "g:winners", bid: null, status: "on" } as const;
      draft.put({ ...tree, key: "p:winners", parent: null, role: "split", value: null, by: "id" });
    }
    draft.put({
      ...{ type: "productGroup", key, adGroup: "g:winners", parent: "p:winners", role: "unit", by: null, status: "on" },
      ...{ value: idOf(row), bid: Math.round(home.bid * 1.5) },
    } as const);
  }
}
