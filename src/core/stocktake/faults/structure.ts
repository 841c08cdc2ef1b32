import { nameClash } from "../../account/name-clash";
import type { Keyword } from "../../account/records/keyword";
import { comparedWords } from "../../channel/matching";
import { formatCount, plural } from "../../kit/format";
import { groupBy } from "../../kit/group-by";
import { LEAST_ORDERS } from "../../planogram/enough";
import type { Found } from "../finding";
import { wholeOf, type Material, type StockItem, type StockLine } from "../material";
import { listOf, say, verb } from "../phrase";
import { aMonth, MONTH, refOf } from "./lost";

const STRUCTURE = { by: "place", path: "planogram", words: "Open the workbench" } as const;

/** Groups that serve whatever no other takes, and what they cost. */
export function leaks({ leaks: open, days }: Material): Found[] {
  if (!open || open.length === 0) return [];
  const about = open.map(({ campaign, name }) => ({ kind: "campaign" as const, key: campaign, name }));
  const sum = (of: "cost" | "revenue" | "items") => open.reduce((all, one) => all + one[of], 0);
  const month = days > 0 ? (sum("cost") / days) * MONTH : 0;
  return [
    {
      ...{ key: "leak", fault: "leak" as const, about },
      says: say`${listOf(about)} ${verb(about, "has", "have")} an open remainder: ${plural(sum("items"), "item")} get ads there that nobody chose, and every new one will. It cost ${{ money: month }} a month.`,
      month: { mean: month, low: month, high: month },
      money: "spent",
      stands: { clicks: 0, orders: 0, cost: sum("cost") },
      mend: { by: "place", path: "planogram", words: "Close them" },
    },
  ];
}

/** Items that the shop sells and that no campaign serves, by nobody's choice. */
export function homeless(material: Material): Found[] {
  const bySales = salesOf(material);
  const lost = material.items.filter(({ isForgotten, isBuyable }) => isForgotten && isBuyable);
  if (lost.length === 0) return [];
  const sales = (item: StockItem) => bySales.get(item.key) ?? 0;
  const ordered = [...lost].sort((a, b) => sales(b) - sales(a));
  const sold = ordered.filter((item) => sales(item) > 0);
  const month = aMonth(
    sold.reduce((sum, item) => sum + sales(item), 0),
    material,
  );
  const about = (sold.length > 0 ? sold : ordered).map((item) => refOf("item", item));
  const all = [...bySales.values()].reduce((sum, one) => sum + one, 0);
  return [
    {
      ...{ key: "homeless", fault: "homeless" as const, about },
      says:
        sold.length > 0
          ? say`${plural(lost.length, "item has", "items have")} no home by nobody’s choice. ${formatCount(sold.length)} of them sold ${{ money: month }} a month in the shop, ${{ share: all > 0 ? ((month / MONTH) * material.days) / all : 0, of: "store sales" }}: ${listOf(about)}.`
          : say`${plural(lost.length, "item has", "items have")} no home by nobody’s choice: ${listOf(about)}.`,
      // What ads for them would bring is not known before they run.
      ...{ month: null, money: "to gain" as const, stands: null },
      mend: { by: "place", path: "catalogue", words: "See them" },
    },
  ];
}

/** Store sales of the window by item; where no report of the shop is there, what ads sold. */
function salesOf(material: Material): Map<string, number> {
  const { levels } = material;
  const of = wholeOf(material, "item").missing.includes("storeRevenue") ? "revenue" : "storeRevenue";
  return new Map((levels.item ?? []).map(({ key, sums }) => [key, sums[of]]));
}

/** Money that still goes to what nobody can buy. */
export function soldOut({ items }: Material): Found[] {
  const paid = items.filter(({ isBuyable, lateCost }) => !isBuyable && lateCost > 0);
  if (paid.length === 0) return [];
  const ordered = paid.sort((a, b) => b.lateCost - a.lateCost);
  const week = ordered.reduce((sum, { lateCost }) => sum + lateCost, 0);
  const month = (week / 7) * MONTH;
  const about = ordered.map((item) => refOf("item", item));
  return [
    {
      ...{ key: "sold-out", fault: "sold-out" as const, about },
      says: say`${listOf(about)} can’t be bought and ${verb(about, "costs", "cost")} ${{ money: week }} in the last seven days.`,
      month: { mean: month, low: month, high: month },
      money: "lost",
      stands: null,
      mend: { by: "place", path: "exclusions", words: "Keep them out until they are back" },
    },
  ];
}

/** Of all items those that sell most, as a share of them. */
const BEST = 0.05;

/** Best sellers that are gone: what they sold a month is what the shop loses, whatever ads do. */
export function soldOutSellers(material: Material): Found[] {
  const bySales = salesOf(material);
  const ordered = material.items
    .filter(({ key }) => (bySales.get(key) ?? 0) > 0)
    .sort((a, b) => bySales.get(b.key)! - bySales.get(a.key)!);
  const gone = ordered.slice(0, Math.ceil(BEST * ordered.length)).filter(({ isBuyable }) => !isBuyable);
  if (gone.length === 0) return [];
  const about = gone.map((item) => refOf("item", item));
  const month = aMonth(
    gone.reduce((sum, { key }) => sum + bySales.get(key)!, 0),
    material,
  );
  return [
    {
      ...{ key: "sold-out-sellers", fault: "sold-out-sellers" as const, about },
      says: say`${listOf(about)} ${verb(about, "is", "are")} among the best sellers and can’t be bought. While they could, they sold ${{ money: month }} a month.`,
      ...{ month: null, money: "to gain" as const, stands: null },
      mend: { by: "others", who: "stock", words: "Order them again, or tell when they come back" },
    },
  ];
}

/** Names that say another purpose or kind than the settings do. */
export function nameClashes({ account }: Material): Found[] {
  if (!account) return [];
  const wrong = account.all("campaign").flatMap((campaign) => {
    const clash = campaign.status === "on" ? nameClash(campaign) : null;
    return clash ? [{ ref: refOf("campaign", campaign), clash }] : [];
  });
  if (wrong.length === 0) return [];
  const about = wrong.map(({ ref }) => ref);
  return [
    {
      ...{ key: "name-clash", fault: "name-clash" as const, about },
      says: say`${plural(wrong.length, "name says", "names say")} something else than the settings: ${{ ref: wrong[0]!.ref }} (${wrong[0]!.clash})${wrong.length > 1 ? say`, ${listOf(about.slice(1))}` : ""}. Whoever reads the name decides on what is not so.`,
      ...{ month: null, money: "lost" as const, stands: null },
      mend: { ...STRUCTURE, words: "Put the names right" },
    },
  ];
}

/** Keywords that stand in several ad groups with the same words and match type: one sets the bid, another pays. */
export function sameKeywords({ account, levels, ...material }: Material): Found[] {
  if (!account) return [];
  const running = account.all("keyword").filter((keyword) => {
    const adGroup = account.find("adGroup", keyword.adGroup);
    const campaign = adGroup && account.find("campaign", adGroup.campaign);
    return keyword.status === "on" && adGroup?.status === "on" && campaign?.status === "on";
  });
  const byWords = groupBy(running, ({ match, text }) => `${match}/${[...comparedWords(text)].join(" ")}`);
  const twice = [...byWords.values()].filter((all) => new Set(all.map(({ adGroup }) => adGroup)).size > 1);
  if (twice.length === 0) return [];
  const costs = new Map((levels.target ?? []).map(({ key, sums }) => [key, sums.cost as number]));
  const cost = (all: Keyword[]) => all.reduce((sum, { key }) => sum + (costs.get(key) ?? 0), 0);
  const ordered = twice.sort((a, b) => cost(b) - cost(a));
  const about = ordered.map(([first]) => ({ kind: "term" as const, key: first!.text, name: first!.text }));
  const month = aMonth(
    ordered.reduce((sum, all) => sum + cost(all), 0),
    { days: material.days },
  );
  return [
    {
      ...{ key: "same-keyword", fault: "same-keyword" as const, about },
      says: say`${plural(twice.length, "keyword stands", "keywords stand")} in several ad groups with the same match type: ${listOf(about)}. They cost ${{ money: month }} a month, and which of them serves is left to chance.`,
      month: month > 0 ? { mean: month, low: month, high: month } : null,
      ...{ money: "spent" as const, stands: null },
      mend: { by: "place", path: "targets/keywords", words: "Open Keywords" },
    },
  ];
}

/** Items in several campaigns are worth a line from so many on. */
const LEAST_SHARED = 5;

/** Items that lie in several campaigns of which only one serves them, where no proposal says so already. */
export function sharedHomes({ items, account, moves, levels, days }: Material): Found[] {
  if (!account || moves?.some(({ proposer }) => proposer === "overlap")) return [];
  const shared = items.filter(({ homes }) => (homes?.length ?? 0) > 1);
  if (shared.length < LEAST_SHARED) return [];
  const counts = new Map<string, number>();
  for (const { homes } of shared) for (const key of homes!) counts.set(key, (counts.get(key) ?? 0) + 1);
  const about = [...counts]
    .sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))
    .map(([key]) => refOf("campaign", { key, name: account.find("campaign", key)?.name ?? key }));
  const keys = new Set(shared.map(({ key }) => key));
  const month = aMonth(
    (levels.item ?? []).reduce((sum, line) => sum + (keys.has(line.key) ? line.sums.cost : 0), 0),
    { days },
  );
  return [
    {
      ...{ key: "overlap", fault: "overlap" as const, about },
      says: say`${plural(shared.length, "item lies", "items lie")} in several campaigns: ${listOf(about)}. The first in serve order takes the clicks, so budgets, bids and results of the others say little of them. They cost ${{ money: month }} a month.`,
      month: month > 0 ? { mean: month, low: month, high: month } : null,
      ...{ money: "spent" as const, stands: null },
      mend: { ...STRUCTURE, words: "Give each one home" },
    },
  ];
}

/** So many campaigns, and such a share of all, are too many that learn nothing. */
const MANY = 5;
const MUCH = 0.5;

/** Campaigns that can't learn because each gets too few orders, though together they would. */
export function tooSmall(material: Material): Found[] {
  const { account, levels } = material;
  if (!account || material.days < 14) return [];
  const orders = new Map((levels.campaign ?? []).map((line) => [line.key, line]));
  const running = account.all("campaign").filter(({ status }) => status === "on");
  const monthly = ({ key }: { key: string }) => aMonth(orders.get(key)?.sums.orders ?? 0, material);
  const small = running.filter((campaign) => monthly(campaign) < LEAST_ORDERS);
  const together = small.reduce((sum, campaign) => sum + monthly(campaign), 0);
  // Those that got nothing together have another fault than being too many.
  if (small.length < MANY || small.length < MUCH * running.length || together < LEAST_ORDERS) return [];
  const lines = small.flatMap(({ key }): StockLine[] => (orders.has(key) ? [orders.get(key)!] : []));
  const cost = aMonth(
    lines.reduce((sum, { sums }) => sum + sums.cost, 0),
    material,
  );
  const about = [...small].sort((a, b) => monthly(a) - monthly(b)).map((campaign) => refOf("campaign", campaign));
  return [
    {
      ...{ key: "too-small", fault: "too-small" as const, about },
      says: say`${formatCount(small.length)} of ${plural(running.length, "campaign")} bring fewer than ${LEAST_ORDERS} orders a month each, ${String(Math.round(together))} together, for ${{ money: cost }}: nothing can be learned or steered in any of them. Fewer campaigns learn faster.`,
      month: { mean: cost, low: cost, high: cost },
      ...{ money: "spent" as const, stands: null },
      mend: { by: "place", path: "planogram", words: "Plan fewer" },
    },
  ];
}
