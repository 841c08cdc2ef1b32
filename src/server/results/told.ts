import type { Window } from "@/core/kit/days";
import { addRollupByCode, rowIndex, type LineSums } from "@/core/results/window-sums";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { loadLag, openDays, seenOn } from "./lag";
import { codeTexts, forEachDay, type WindowResults } from "./load";

/** Sums of a window by the key of a campaign or ad group, with what they tell. */
export async function sumsByKey(
  db: Database,
  window: Window,
  level: "campaign" | "adGroup",
): Promise<Map<string, LineSums>> {
  const lag = await loadLag(db);
  const byCode = new Map<number, LineSums>();
  await forEachDay(db, window, (day, ads) => addRollupByCode(byCode, ads, level, seenOn(lag, day)));
  const names = await codeTexts(db, level);
  return new Map([...byCode].map(([code, sums]) => [names.get(code) ?? "", sums]));
}

/** Clicks of a window whose orders have come in, by catalogue row: those of days that are not complete count in part. */
export async function seenClicks(db: Database, { window, rows }: WindowResults): Promise<Float64Array> {
  const lag = await loadLag(db);
  const seen = rows.clicks.slice();
  const open = openDays(lag, window);
  if (!open) return seen;
  const { columns } = await loadCatalogue(db, []);
  const index = rowIndex(columns["itemNo"]?.kind === "number" ? columns["itemNo"].values : []);
  await forEachDay(db, open, (day, ads) => {
    const missing = 1 - seenOn(lag, day);
    ads.item.forEach((no, i) => {
      const row = no < index.length ? index[no]! : -1;
      if (row >= 0) seen[row] = seen[row]! - missing * ads.clicks[i]!;
    });
  });
  return seen;
}
