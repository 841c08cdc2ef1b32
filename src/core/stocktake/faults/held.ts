import { formatCount } from "../../kit/format";
import type { Found } from "../finding";
import type { Material, StockHeld } from "../material";
import { listOf, say } from "../phrase";
import { isWorthTelling, MONTH } from "./lost";

/** A place where people look and we hold less than this share is left to others. */
const LEFT = 0.2;

/** Whether a place of our own is left to others: nothing aims at it, or we hardly stand there, and people look. */
export function isLeft({ share, isAimedAt, monthlyViews }: StockHeld): boolean {
  return (monthlyViews ?? 0) > 0 && share !== null && share < LEFT && !isAimedAt;
}

/**
 * Own pages and brand searches that are left to others. What they could bring is told by those of their kind that are held: sales
 * a view there, for the views that are not ours, less what clicks cost at the goal.
 */
export function undefended(material: Material): Found[] {
  const { held, goal, days } = material;
  if (!held || days <= 0) return [];
  return (["brand", "page"] as const).flatMap((what): Found[] => {
    const all = held.filter((one) => one.what === what && (one.monthlyViews ?? 0) > 0);
    const left = all.filter(isLeft).sort((a, b) => b.monthlyViews! - a.monthlyViews!);
    const own = all.filter((one) => !isLeft(one) && one.impressions > 0);
    const seen = own.reduce((sum, { impressions }) => sum + impressions, 0);
    const [sales, orders] = (["revenue", "orders"] as const).map((of) => own.reduce((sum, one) => sum + one[of], 0));
    if (left.length === 0) return [];
    const views = left.reduce(
      (sum, { monthlyViews, impressions }) => sum + Math.max(0, monthlyViews! - (impressions / days) * MONTH),
      0,
    );
    // A view of which half is won brings half of what a view brings where we stand; of its sales the goal leaves 1 − 1/goal.
    const gain = seen > 0 && orders! > 0 ? (views / 2) * (sales! / seen) * (1 - 1 / Math.max(1, goal)) : null;
    if (gain !== null && !isWorthTelling(gain, material)) return [];
    const unsure = 1.28 / Math.sqrt(Math.max(1, orders!));
    const about = left.map(({ place }) => ({
      kind: what === "brand" ? ("term" as const) : ("listing" as const),
      key: place,
      name: place,
    }));
    const places = what === "brand" ? "searches with own brands" : "own pages";
    return [
      {
        ...{ key: `undefended/${what}`, fault: "undefended" as const, about },
        says: say`${formatCount(left.length)} of ${formatCount(all.length)} ${places} are left to others: ${listOf(about)}. People look there ${formatCount(Math.round(left.reduce((sum, { monthlyViews }) => sum + monthlyViews!, 0)))} times a month.`,
        month: gain === null ? null : { mean: gain, low: gain * Math.max(0, 1 - unsure), high: gain * (1 + unsure) },
        ...{ money: "to gain" as const, stands: null },
        mend: { by: "place", path: "targets/defence", words: "Open Defence" },
      },
    ];
  });
}
