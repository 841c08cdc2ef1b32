import { windowBefore } from "@/core/kit/days";
import type { Sums } from "@/core/kit/metrics";
import { sumsByCode } from "@/core/results/window-sums";
import { mainMetric, shelvesOf, type ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { loadWindow, resultDays, type WindowResults } from "../results/load";
import { freshMembership } from "./compute";
import { loadShelfInputs } from "./inputs";

/** What the shelves of the window before went on to do in the window after it. */
export interface WentOn {
  days: number;
  /** One a shelf: its items' results in the window they were put on it for, and in the next. */
  shelves: { before: Sums; after: Sums }[];
}

/**
 * Puts items on the shelves of a raw set by the days before the window, and sums what they did in it: how much of a raw
 * return was luck. Null for sets by chance, and where the days before are not all known.
 */
export async function wentOn(db: Database, set: ShelfSet, results: WindowResults | null): Promise<WentOn | null> {
  const known = await resultDays(db);
  if (mainMetric(set) !== "roas" || !results || !known) return null;
  // Half the window each where the days before it are not known: a shorter look is better than none.
  const before = windowBefore(results.window);
  const [first, second] =
    before.from >= known.from
      ? [before, results.window]
      : halves({ from: Math.max(known.from, results.window.from), to: results.window.to });
  if (first.to < first.from) return null;
  const [then, now] = [await loadWindow(db, first), await loadWindow(db, second)];
  const shelf = await freshMembership(db, set, await loadShelfInputs(db, set, first));
  const count = shelvesOf(set).length;
  const [sumsThen, sumsNow] = [sumsByCode(then.rows, shelf, count), sumsByCode(now.rows, shelf, count)];
  return {
    days: first.to - first.from + 1,
    shelves: sumsThen.map((sums, i) => ({ before: sums, after: sumsNow[i]! })),
  };
}

function halves({ from, to }: { from: number; to: number }) {
  const middle = from + Math.floor((to - from + 1) / 2) - 1;
  return [
    { from, to: middle },
    { from: middle + 1, to },
  ] as const;
}
