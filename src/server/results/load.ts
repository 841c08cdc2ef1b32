import { and, asc, gte, lte, sql } from "drizzle-orm";
import type { Window } from "@/core/kit/days";
import { noSums, type Sums } from "@/core/kit/metrics";
import { decodeRollup, decodeStore, type DayRollup } from "@/core/results/rollup";
import { addRollup, addRollupByCode, addStore, emptyRowSums, rowIndex, type RowSums } from "@/core/results/window-sums";
import type { Database } from "@/db/client";
import { codes, dayRollups } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";

/** The first and last day with results, or null when there are none. */
export async function resultDays(db: Database): Promise<Window | null> {
  const [row] = await db
    .select({ from: sql<number | null>`min(${dayRollups.day})`, to: sql<number | null>`max(${dayRollups.day})` })
    .from(dayRollups);
  return row?.from == null || row.to == null ? null : { from: row.from, to: row.to };
}

export interface WindowResults {
  window: Window;
  rows: RowSums;
  /** Results of items that are no longer in the catalogue. */
  gone: Sums;
}

interface Kept {
  key: string;
  results: WindowResults;
}

/** The last few windows of each database; days are only ever added, so the last day tells whether one still holds. */
const cache = new WeakMap<Database, Kept[]>();
const KEPT_WINDOWS = 6;

/** The results of a window for every row of the catalogue in force. Shared; must not be written to. */
export async function loadWindow(db: Database, window: Window): Promise<WindowResults> {
  const catalogue = await loadCatalogue(db, []);
  const days = await resultDays(db);
  const key = [catalogue.revision, days?.to, window.from, window.to].join("/");
  const kept = cache.get(db) ?? [];
  const found = kept.find((entry) => entry.key === key);
  if (found) return found.results;
  const itemNo = catalogue.columns["itemNo"];
  const index = rowIndex(itemNo?.kind === "number" ? itemNo.values : []);
  const results: WindowResults = { window, rows: emptyRowSums(catalogue.length), gone: noSums() };
  for (let day = window.from; day <= window.to; day++) {
    const [row] = await db
      .select()
      .from(dayRollups)
      .where(sql`${dayRollups.day} = ${day}`);
    if (!row) continue;
    addRollup(results.rows, results.gone, decodeRollup(row.ads), index);
    addStore(results.rows, results.gone, decodeStore(row.store), index);
  }
  cache.set(db, [{ key, results }, ...kept].slice(0, KEPT_WINDOWS));
  return results;
}

/** Runs over the ad rollups of a window, day by day. */
export async function forEachDay(
  db: Database,
  window: Window,
  visit: (day: number, ads: DayRollup, store: ReturnType<typeof decodeStore>) => void,
): Promise<void> {
  const days = await db
    .select({ day: dayRollups.day })
    .from(dayRollups)
    .where(and(gte(dayRollups.day, window.from), lte(dayRollups.day, window.to)))
    .orderBy(asc(dayRollups.day));
  for (const { day } of days) {
    const [row] = await db
      .select()
      .from(dayRollups)
      .where(sql`${dayRollups.day} = ${day}`);
    if (row) visit(day, decodeRollup(row.ads), decodeStore(row.store));
  }
}

/** Sums of a window by the key of a campaign or ad group. */
export async function sumsByKey(
  db: Database,
  window: Window,
  level: "campaign" | "adGroup",
): Promise<Map<string, Sums>> {
  const byCode = new Map<number, Sums>();
  await forEachDay(db, window, (_, ads) => addRollupByCode(byCode, ads, level));
  const names = await codeTexts(db, level);
  return new Map([...byCode].map(([code, sums]) => [names.get(code) ?? "", sums]));
}

/** The texts of all codes of a kind. */
export async function codeTexts(db: Database, kind: "campaign" | "adGroup" | "target" | "term" | "placement") {
  const rows = await db
    .select()
    .from(codes)
    .where(sql`${codes.kind} = ${kind}`);
  return new Map(rows.map((row) => [row.no, row.text]));
}
