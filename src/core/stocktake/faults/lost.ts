import type { Sums } from "../../kit/metrics";
import type { Between } from "../../moves/move";
import type { Found } from "../finding";
import type { Material, StockLine } from "../material";
import type { Ref, RefKind } from "../phrase";

/** Days of the month that money is told for. */
export const MONTH = 30;

/** Below this share of what is spent a month a finding is not worth a line. */
const LEAST_SHARE = 0.002;

/** Mills of the window as mills a month. */
export function aMonth(mills: number, { days }: Pick<Material, "days">): number {
  return days > 0 ? (mills / days) * MONTH : 0;
}

/** Whether an amount a month is worth telling beside all that is spent. */
export function isWorthTelling(month: number, material: Material): boolean {
  return month >= LEAST_SHARE * aMonth(material.total.cost, material);
}

/**
 * Cost above what its sales justify, a month: cost × (1 − return ÷ goal), at what its true return is believed to be
 * (`docs/formulas.md` 12).
 */
export function lostOn({ sums: { cost }, sure }: StockLine, material: Material): Between | null {
  if (!sure) return null;
  const at = (roas: number) => aMonth(cost * (1 - roas / material.goal), material);
  return { mean: at(sure.mean), low: at(sure.high), high: at(sure.low) };
}

/** What several lose together; how unsure they are is taken as not connected. */
export function sumOf(parts: readonly Between[]): Between {
  let [mean, below, above] = [0, 0, 0];
  for (const part of parts) {
    mean += part.mean;
    below += (part.mean - part.low) ** 2;
    above += (part.high - part.mean) ** 2;
  }
  return { mean, low: mean - Math.sqrt(below), high: mean + Math.sqrt(above) };
}

export function refOf(kind: RefKind, { key, name }: { key: string; name: string }): Ref {
  return { kind, key, name };
}

/** What lines stand on together. */
export function standsOn(lines: readonly StockLine[]): Found["stands"] {
  const sum = (of: (line: StockLine) => number) => lines.reduce((all, line) => all + of(line), 0);
  return {
    clicks: sum(({ sums }) => sums.clicks),
    orders: sum(({ sums }) => sums.orders),
    cost: sum(({ sums }) => sums.cost),
  };
}

/** Shares of a whole, which is all that is spent and all that ads sell unless a report tells another one. */
export function sharesOf(
  lines: readonly StockLine[],
  whole: Pick<Sums, "cost" | "revenue">,
): { spend: number; sales: number } {
  const sum = (of: "cost" | "revenue") => lines.reduce((all, { sums }) => all + sums[of], 0);
  return {
    spend: whole.cost > 0 ? sum("cost") / whole.cost : 0,
    sales: whole.revenue > 0 ? sum("revenue") / whole.revenue : 0,
  };
}
