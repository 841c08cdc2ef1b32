import { createHash } from "node:crypto";
import { adPart, MEASURES, type MeasureKey } from "@/core/experiments/measures";
import type { Series } from "@/core/experiments/series";
import type { Window } from "@/core/kit/days";
import { windowLength } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { loadLag, seenOn } from "../results/lag";
import { forEachDay, loadCodes, resultsVersion } from "../results/load";

/** What is put into pairs: lists of item numbers, keys of campaigns, or all there is. */
export type Units =
  | { of: "items"; lists: readonly (readonly number[])[] }
  | { of: "campaigns"; keys: readonly string[] }
  /** All ads and sales as one unit. */
  | { of: "all" };

/** What units brought, with the days that may count. */
export interface Told extends Series {
  from: number;
  /** Days that a report told of, and of which enough is in to be completed. */
  counts: Uint8Array;
}

/** Days of which less than this share of orders has come in are not counted yet. */
const LEAST_SEEN = 0.8;
const KEPT = 24;

/** What units brought of a measure, a day each, orders and sales completed for lateness. Kept until results change. */
export async function loadSeries(
  db: Database,
  name: string,
  units: Units,
  measure: MeasureKey,
  window: Window,
): Promise<Told> {
  const { revision } = await loadCatalogue(db, []);
  // A name lists all units, which may be as long as the catalogue.
  const hash = createHash("sha256").update(name).digest("base64");
  const stamp = [await resultsVersion(db), revision, hash, measure, window.from, window.to];
  const read = async () => (await readSeries(db, units, [measure], window))[0]!;
  return remember(db, "experiment days", stamp, read, KEPT);
}

/** What units brought by several measures, read in one go: a list in the order of the measures. */
export async function readSeries(
  db: Database,
  units: Units,
  measures: readonly MeasureKey[],
  window: Window,
): Promise<Told[]> {
  const days = Math.max(0, windowLength(window));
  const count = units.of === "items" ? units.lists.length : units.of === "campaigns" ? units.keys.length : 1;
  const all = measures.map((measure) => ({ measure, values: new Float64Array(count * days) }));
  const counts = new Uint8Array(days);
  const { texts } = await loadCodes(db);
  const lag = await loadLag(db);
  const marginOf = await marginsByItem(db);
  const unitOfItem = new Map<number, number>();
  if (units.of === "items") units.lists.forEach((list, unit) => list.forEach((item) => unitOfItem.set(item, unit)));
  const unitOfCode = new Map<number, number>();
  if (units.of === "campaigns") {
    const unitOfKey = new Map(units.keys.map((key, unit) => [key, unit]));
    for (const [code, text] of texts) {
      const unit = unitOfKey.get(text);
      if (unit !== undefined) unitOfCode.set(code, unit);
    }
  }
  const unitOf = (item: number, campaign: number) =>
    units.of === "items" ? unitOfItem.get(item) : units.of === "all" ? 0 : unitOfCode.get(campaign);
  const line = { clicks: 0, cost: 0, orders: 0, revenue: 0 };
  const ofStore = units.of === "campaigns" ? [] : all.filter(({ measure }) => MEASURES[measure].isOfStore);
  await forEachDay(db, window, (day, ads, store) => {
    const seen = seenOn(lag, day);
    const at = day - window.from;
    counts[at] = seen >= LEAST_SEEN ? 1 : 0;
    for (let i = 0; i < ads.item.length; i++) {
      const item = ads.item[i]!;
      const unit = unitOf(item, ads.campaign[i]!);
      if (unit === undefined) continue;
      line.clicks = ads.clicks[i]!;
      line.cost = ads.cost[i]!;
      line.orders = ads.orders[i]! / seen;
      line.revenue = ads.revenue[i]! / seen;
      const margin = marginOf.get(item) ?? NaN;
      for (const { measure, values } of all) values[unit * days + at]! += adPart(measure, line, margin);
    }
    if (ofStore.length === 0) return;
    for (let i = 0; i < store.item.length; i++) {
      const item = store.item[i]!;
      const unit = unitOf(item, 0);
      const margin = marginOf.get(item) ?? NaN;
      if (unit === undefined || Number.isNaN(margin)) continue;
      for (const { values } of ofStore) values[unit * days + at]! += store.revenue[i]! * margin;
    }
  });
  return all.map(({ values }) => ({ units: count, days, values, from: window.from, counts }));
}

/** The margin of every item by its number; those without one are left out. */
export async function marginsByItem(db: Database): Promise<Map<number, number>> {
  const { columns } = await loadCatalogue(db, ["margin"]);
  const [numbers, margins] = [columns["itemNo"], columns["margin"]];
  const found = new Map<number, number>();
  if (numbers?.kind !== "number" || margins?.kind !== "number") return found;
  numbers.values.forEach((no, row) => {
    const margin = margins.values[row]!;
    if (Number.isFinite(margin)) found.set(no, margin);
  });
  return found;
}
