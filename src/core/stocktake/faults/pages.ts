import { poissonTail, sureAmong } from "../../exclusions/false-alarms";
import { plural } from "../../kit/format";
import { groupBy } from "../../kit/group-by";
import type { Found } from "../finding";
import { tellsReturns, wholeOf, type Material, type StockLine } from "../material";
import { listOf, say, verb } from "../phrase";
import { aMonth, isWorthTelling, refOf, standsOn } from "./lost";

/** Clicks from which a page can be held against its category. */
const LEAST_CLICKS = 60;
/** An order rate below this share of the category's is told. */
const POOR = 0.5;

/**
 * Items that convert below their category: a lower bid does not mend a page. The category's rate is that of its other items; of an
 * item dearer than what is clicked there it is expected to fall with the root of the price.
 */
export function poorPages(material: Material): Found[] {
  if (!tellsReturns(wholeOf(material, "item"))) return [];
  const known = new Map(material.items.map((item) => [item.key, item]));
  const clicked = (material.levels.item ?? []).filter(({ key, sums }) => {
    const item = known.get(key);
    return item?.isBuyable && item.category !== "" && sums.clicks > 0;
  });
  const groups = groupBy(clicked, ({ key }) => known.get(key)!.category);
  const asked: { line: StockLine; expected: number }[] = [];
  for (const lines of groups.values()) {
    const sum = (of: "clicks" | "orders") => lines.reduce((all, { sums }) => all + sums[of], 0);
    const [clicks, orders] = [sum("clicks"), sum("orders")];
    const usual = meanPrice(lines, (key) => known.get(key)!.price);
    for (const line of lines) {
      const others = clicks - line.sums.clicks;
      if (line.sums.clicks < LEAST_CLICKS || others < 5 * LEAST_CLICKS) continue;
      const dear = known.get(line.key)!.price;
      const fall = dear && usual && dear > usual ? Math.sqrt(usual / dear) : 1;
      asked.push({ line, expected: line.sums.clicks * ((orders - line.sums.orders) / others) * fall });
    }
  }
  const sure = sureAmong(
    asked.map(({ line, expected }) => poissonTail(line.sums.orders, expected)),
    material.falseAlarms,
  );
  const poor = asked.filter(({ line, expected }, at) => sure[at] && line.sums.orders < POOR * expected);
  if (poor.length === 0) return [];
  const usual = material.total.orders > 0 ? material.total.revenue / material.total.orders : 0;
  const missed = ({ line, expected }: (typeof poor)[number]) =>
    (expected - line.sums.orders) * (known.get(line.key)!.price ?? usual);
  const ordered = poor.sort((a, b) => missed(b) - missed(a));
  const month = aMonth(
    ordered.reduce((sum, one) => sum + missed(one) / Math.max(1, material.goal), 0),
    material,
  );
  if (!isWorthTelling(month, material)) return [];
  const about = ordered.map(({ line }) => refOf("item", line));
  const orders = ordered.reduce((sum, { expected }) => sum + expected, 0);
  const unsure = 1.28 / Math.sqrt(Math.max(1, orders));
  return [
    {
      ...{ key: "page-work", fault: "page-work" as const, about },
      says: say`${listOf(about)} ${verb(about, "sells", "sell")} less than half as often a click as others of their category, price allowed for: ${plural(Math.round(ordered.reduce((sum, { line }) => sum + line.sums.orders, 0)), "order")} where ${String(Math.round(orders))} were to be expected. A lower bid does not mend a page.`,
      month: { mean: month, low: month * Math.max(0, 1 - unsure), high: month * (1 + unsure) },
      money: "to gain",
      stands: standsOn(ordered.map(({ line }) => line)),
      mend: { by: "others", who: "pages", words: "Look at picture, title, price and reviews of these pages" },
    },
  ];
}

function meanPrice(lines: readonly StockLine[], priceOf: (key: string) => number | null): number | null {
  let [sum, clicks] = [0, 0];
  for (const { key, sums } of lines) {
    const price = priceOf(key);
    if (!price) continue;
    sum += price * sums.clicks;
    clicks += sums.clicks;
  }
  return clicks > 0 ? sum / clicks : null;
}
