import { worthsOf, type PlaceWorth } from "../bids/worths";
import { wasteChances } from "../exclusions/waste";
import type { Ground } from "../moves/ground";
import { ledgerKey, type LedgerEntry } from "./ledger";
import type { TermOrListing } from "./place-kind";

/** What results say should become of a term or page. */
export const VERDICTS = {
  harvest: "sold often enough, and within what it may cost",
  single: "sold too seldom to be sure of it",
  waste: "only costs, and hardly by accident",
  open: "nothing to decide yet",
} as const;
export type Verdict = keyof typeof VERDICTS;

/** A term or page with what it did and what should become of it. Money in mills, of the ground's window. */
export interface JudgedPlace {
  place: string;
  /** Null where nobody knows whether it is a term or a page. */
  what: TermOrListing | null;
  clicks: number;
  cost: number;
  orders: number;
  revenue: number;
  /** Ad cost over ad sales, and up to where it pays by the margins of the items clicked there; null where one can't be told. */
  acos: number | null;
  ceiling: number | null;
  /** Orders there over those that the items clicked usually bring, by pooled evidence. */
  factor: number;
  /** What it is expected to bring a month after costs, by pooled evidence; null where margins or clicks don't tell. */
  aMonth: number | null;
  verdict: Verdict;
  /** Its place in the ledger, which keeps it from being proposed again. */
  ledger: LedgerEntry | null;
}

const MONTH = 30;

/**
 * Judges every term and page with clicks (`docs/formulas.md` 7): to be harvested with as many orders as the house rule asks for and
 * an ACOS up to its ceiling, waste by its Poisson tail with false alarms held, else open. What the ledger knows as used, blocked,
 * dismissed or used elsewhere is judged as open: nothing is proposed twice.
 */
export function judgePlaces(ground: Ground, ledger: ReadonlyMap<string, LedgerEntry>): JudgedPlace[] {
  const worths = worthsOf(ground);
  const wasted = new Map(wasteChances(ground).map((one) => [one.place.place, one]));
  return [...worths.places.values()].map((place): JudgedPlace => {
    const { place: text, clicks, cost, orders, revenue } = place;
    const isListing = ground.isListing(text);
    const what = isListing === null ? null : isListing ? ("listing" as const) : ("term" as const);
    const entry = what === null ? null : (ledger.get(ledgerKey(what, text)) ?? null);
    const ceiling = ceilingOf(ground, place);
    const acos = revenue > 0 ? cost / revenue : null;
    const left = place.clicksOf.size > 0 ? meanLeft(worths.left, place) * place.factor : NaN;
    const aMonth = Number.isFinite(left) ? ((clicks * left - cost) * MONTH) / ground.days : null;
    const isKnown = entry !== null && entry.state !== "retired";
    return {
      ...{
        place: text,
        what,
        clicks,
        cost,
        orders,
        revenue,
        acos,
        ceiling,
        aMonth,
        factor: place.factor,
        ledger: entry,
      },
      verdict:
        isKnown || what === null || ground.isOwnPage(text)
          ? "open"
          : verdictOf(ground, orders, acos, ceiling, wasted.get(text)?.isSure),
    };
  });
}

function verdictOf(
  { rules }: Ground,
  orders: number,
  acos: number | null,
  ceiling: number | null,
  isWaste: boolean | undefined,
): Verdict {
  if (isWaste) return "waste";
  if (orders <= 0 || acos === null || ceiling === null || acos > ceiling) return "open";
  return orders >= rules.harvestOrders ? "harvest" : "single";
}

/** The ACOS up to which a place pays: the share of sales left after costs of the items clicked there, or one over the goal. */
function ceilingOf(ground: Ground, { clicksOf }: PlaceWorth): number | null {
  let [sum, weights] = [0, 0];
  for (const [row, clicks] of clicksOf) {
    const margin = ground.margin[row]!;
    sum += clicks * (Number.isNaN(margin) ? 1 / ground.goalOf(row).goal : Math.max(0, margin));
    weights += clicks;
  }
  return weights > 0 ? sum / weights : null;
}

function meanLeft(left: Float64Array, { clicksOf }: PlaceWorth): number {
  let [sum, weights] = [0, 0];
  for (const [row, clicks] of clicksOf) {
    if (Number.isNaN(left[row]!)) continue;
    sum += clicks * left[row]!;
    weights += clicks;
  }
  return weights > 0 ? sum / weights : NaN;
}
