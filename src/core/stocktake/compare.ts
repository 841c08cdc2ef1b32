import type { Sums } from "../kit/metrics";
import { byMoney, type Finding } from "./finding";
import type { StocktakeHead } from "./report";

/** What became of a finding between two stocktakes. */
export const BECAME = ["new", "came back", "still there", "mended"] as const;
export type Became = (typeof BECAME)[number];

export interface ComparedFinding {
  finding: Finding;
  became: Became;
  /** Mills a month at the earlier one and at the later one; null where it was not there, or not told. */
  before: number | null;
  after: number | null;
  /** Of what it is about: how many are gone from it, and how many came; null where not all are kept by name. */
  gone: number | null;
  came: number | null;
}

/** The whole a month of thirty days, mills. */
export interface MonthOf {
  cost: number;
  revenue: number;
  orders: number;
  roas: number | null;
}

export interface Comparison {
  findings: ComparedFinding[];
  before: MonthOf;
  after: MonthOf;
}

const MONTH = 30;

function monthOf({ total, days }: { total: Sums; days: number }): MonthOf {
  const of = (value: number) => (days > 0 ? (value / days) * MONTH : 0);
  return {
    ...{ cost: of(total.cost), revenue: of(total.revenue), orders: of(total.orders) },
    roas: total.cost > 0 ? total.revenue / total.cost : null,
  };
}

/**
 * Two stocktakes beside each other: what was found and mended, what is still there, what is new.
 * @param earlier findings of all stocktakes before both: what was there once and was not at the earlier one has come back
 */
export function compareStocktakes(
  before: StocktakeHead,
  after: StocktakeHead,
  earlier: ReadonlySet<string> = new Set(),
): Comparison {
  const [was, is] = [before, after].map(({ findings }) => new Map(findings.map((one) => [one.key, one])));
  const keys = new Set([...was!.keys(), ...is!.keys()]);
  const compared = [...keys].map((key): ComparedFinding => {
    const [then, now] = [was!.get(key), is!.get(key)];
    const became = then && now ? "still there" : then ? "mended" : earlier.has(key) ? "came back" : "new";
    const names = (one: Finding | undefined) => new Set((one?.about ?? []).map((ref) => `${ref.kind}/${ref.key}`));
    const isWhole = [then, now].every((one) => !one || one.count === one.about.length);
    const [old, fresh] = [names(then), names(now)];
    return {
      ...{ finding: (now ?? then)!, became },
      ...{ before: then?.month?.mean ?? null, after: now?.month?.mean ?? null },
      gone: isWhole ? [...old].filter((name) => !fresh.has(name)).length : null,
      came: isWhole ? [...fresh].filter((name) => !old.has(name)).length : null,
    };
  });
  const order = new Map(byMoney(compared.map(({ finding }) => finding)).map(({ key }, at) => [key, at]));
  compared.sort((a, b) => order.get(a.finding.key)! - order.get(b.finding.key)!);
  return { findings: compared, before: monthOf(before), after: monthOf(after) };
}
