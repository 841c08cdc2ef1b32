import { poissonTail, sureAmong } from "../../exclusions/false-alarms";
import { plural } from "../../kit/format";
import type { FaultKey, Found, Mend } from "../finding";
import { tellsReturns, wholeOf, type Material, type StockLine } from "../material";
import { listOf, say, verb } from "../phrase";
import { aMonth, isWorthTelling, refOf, sharesOf, standsOn } from "./lost";

/**
 * Lines that only cost: so few orders for so much money would be a rare accident if they reached the goal (Poisson tail of
 * `maths` 6, with the account's own value of an order where nothing better is known). Of all that were looked at as many are
 * named as keeps false alarms within the house rule.
 * @param valueOf sales that one order of a line brings, mills
 */
export function wastedLines(
  lines: readonly StockLine[],
  { goal, falseAlarms }: Pick<Material, "goal" | "falseAlarms">,
  valueOf: (line: StockLine) => number | null,
): StockLine[] {
  const asked = lines.filter((line) => line.sums.clicks > 0 && line.sums.cost > 0 && (valueOf(line) ?? 0) > 0);
  const chances = asked.map((line) => poissonTail(line.sums.orders, (line.sums.cost * goal) / valueOf(line)!));
  const sure = sureAmong(chances, falseAlarms);
  return asked
    .filter((line, at) => sure[at] && line.sums.revenue < line.sums.cost * goal)
    .sort((a, b) => overPaid(b, goal) - overPaid(a, goal));
}

/** Cost above what sales justify, mills of the window. */
const overPaid = ({ sums }: StockLine, goal: number) => sums.cost - sums.revenue / goal;

interface Waste {
  fault: FaultKey;
  kind: "term" | "item" | "placement";
  mend: Mend;
  lines: readonly StockLine[] | undefined;
}

/** Terms, items and placements that only cost. */
export function wasteFindings(material: Material): Found[] {
  const { total, goal, levels } = material;
  const usual = total.orders > 0 ? total.revenue / total.orders : null;
  const price = new Map(material.items.map((item) => [item.key, item.price]));
  const all: Waste[] = [
    // Where proposals are made, they say it, with what each place's own items are worth.
    ...(material.moves === null
      ? [
          {
            ...({ fault: "waste-terms", kind: "term" } as const),
            mend: { by: "place", path: "results?level=term", words: "Open in Results" } as const,
            // One's own pages are kept from others by ads there, which their own results don't tell.
            lines: levels.term?.filter(({ key }) => key !== "" && !price.has(key)),
          },
        ]
      : []),
    {
      ...({ fault: "waste-items", kind: "item" } as const),
      mend: { by: "place", path: "catalogue", words: "Open in the catalogue" },
      lines: levels.item,
    },
    {
      ...({ fault: "waste-placements", kind: "placement" } as const),
      mend: { by: "place", path: "exclusions/placements", words: "Review placements" },
      lines: total.orders > 0 ? levels.placement : undefined,
    },
  ];
  return all.flatMap(({ fault, kind, mend, lines }): Found[] => {
    // Where sales are not told, nothing that costs can be said to bring none.
    if (!lines || lines.length === 0 || !tellsReturns(wholeOf(material, kind))) return [];
    const wasted = wastedLines(lines, material, (line) =>
      // What sold has its own value, which a single dear order must not set alone.
      kind === "item" ? (price.get(line.key) ?? usual) : usual,
    );
    const lost = aMonth(
      wasted.reduce((sum, line) => sum + overPaid(line, goal), 0),
      material,
    );
    if (wasted.length === 0 || !isWorthTelling(lost, material)) return [];
    const whole = wholeOf(material, kind);
    const about = wasted.map((line) => refOf(line.placeKind === "listing" ? "listing" : kind, line));
    const { spend, sales } = sharesOf(wasted, whole.sums);
    const orders = wasted.reduce((sum, { sums }) => sum + sums.orders, 0);
    const cost = aMonth(
      wasted.reduce((sum, { sums }) => sum + sums.cost, 0),
      material,
    );
    // By luck alone the orders could be as few as theirs or more: one more order for each two of them.
    const spread = orders > 0 ? Math.min(1, 1.28 / Math.sqrt(orders)) : 0;
    return [
      {
        ...{ key: fault, fault, about, mend },
        says: say`${listOf(about)} ${verb(about, "costs", "cost")} ${{ money: cost }} a month for ${plural(Math.round(orders), "order")} in ${plural(material.days, "day")}: ${{ share: spend, of: whole.spend }}, ${{ share: sales, of: whole.sales }}. If they paid, so few would be a rare accident.`,
        month: {
          mean: lost,
          low: Math.max(0, lost - (cost - lost) * spread),
          high: Math.min(cost, lost + (cost - lost) * spread),
        },
        money: "lost",
        stands: standsOn(wasted),
      },
    ];
  });
}
