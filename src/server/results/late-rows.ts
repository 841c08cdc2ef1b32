import type { Transaction } from "@libsql/client";
import { decodeRollup, decodeTerms, encodeRollup, encodeTerms, type Numbers } from "@/core/results/day-columns";
import { rollDay } from "./report-store";

/** An order that came in after its day's reports, by codes. */
export interface LateRow {
  day: number;
  campaign: number;
  adGroup: number;
  target: number;
  itemNo: number;
  term: number;
  slot: number;
  hour: number;
  orders: number;
  units: number;
  revenue: number;
}

const SALES = ["orders", "units", "revenue"] as const;

/**
 * Adds orders to the rollups of their day, so that few orders need not roll up a whole day again. A day whose rollups
 * lack one of the lines is rolled up from its rows.
 */
export async function addToRollups(tx: Transaction, day: number, rows: LateRow[]): Promise<void> {
  const [day_, terms_] = await Promise.all([
    tx.execute({ sql: "SELECT ads FROM day_rollups WHERE day = ?", args: [day] }),
    tx.execute({ sql: "SELECT terms FROM term_rollups WHERE day = ?", args: [day] }),
  ]);
  const [ads, terms] = [day_.rows[0]?.[0], terms_.rows[0]?.[0]];
  if (!ads || !terms) return rollDay(tx, day);
  const rollup = decodeRollup(ads as ArrayBuffer);
  const termRollup = decodeTerms(terms as ArrayBuffer);
  const isWhole =
    add(
      rollup as unknown as Record<string, Numbers>,
      ["campaign", "adGroup", "item"],
      rows.map((row) => ({ keys: [row.campaign, row.adGroup, row.itemNo], row })),
    ) &&
    add(
      termRollup as unknown as Record<string, Numbers>,
      ["campaign", "adGroup", "target", "term"],
      rows.map((row) => ({ keys: [row.campaign, row.adGroup, row.target, row.term], row })),
    );
  if (!isWhole) return rollDay(tx, day);
  await tx.execute({ sql: "UPDATE day_rollups SET ads = ? WHERE day = ?", args: [encodeRollup(rollup), day] });
  await tx.execute({ sql: "UPDATE term_rollups SET terms = ? WHERE day = ?", args: [encodeTerms(termRollup), day] });
}

/** Adds sales to the lines with the same keys. @returns whether all had a line */
function add(table: Record<string, Numbers>, names: string[], rows: { keys: number[]; row: LateRow }[]): boolean {
  const wanted = new Map<string, LateRow[]>();
  for (const { keys, row } of rows) {
    const key = keys.join("/");
    wanted.set(key, [...(wanted.get(key) ?? []), row]);
  }
  // Only lines of an item or term that sold something are looked at by their whole key.
  const last = table[names.at(-1) as string]!;
  const sold = new Set(rows.map(({ keys }) => keys.at(-1) as number));
  // Sums may outgrow the narrow arrays that counts are stored in.
  for (const name of SALES) table[name] = Float64Array.from(table[name]!);
  let found = 0;
  for (let i = 0; i < last.length; i++) {
    if (!sold.has(last[i]!)) continue;
    const more = wanted.get(names.map((name) => table[name]![i]).join("/"));
    if (!more) continue;
    found++;
    for (const row of more) for (const name of SALES) table[name]![i] = table[name]![i]! + row[name];
  }
  return found === wanted.size;
}
