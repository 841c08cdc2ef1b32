import type { Transaction } from "@libsql/client";
import { getTableColumns, getTableName } from "drizzle-orm";
import { COUNT_FIELDS, type ReportKind } from "@/core/results/reports/report-kinds";
import {
  decodeRollup,
  decodeStore,
  encodeRollup,
  encodeSpan,
  encodeStore,
  encodeTerms,
  type DayRollup,
  type DayStore,
} from "@/core/results/day-columns";
import {
  rollUp,
  rollUpTerms,
  SPAN_DAYS,
  spanStart,
  storeColumns,
  sumSpan,
  sumStoreSpan,
} from "@/core/results/roll-up-days";
import { hourFacts, itemFacts, placementFacts, slotFacts, storeSales, termFacts } from "@/db/schema";
import { bulkInsert, BULK_ROWS } from "../bulk";

/** The table of each kind of report and what its rows are told apart by, behind the day. */
export const REPORT_TABLES = {
  item: { table: itemFacts, keys: ["campaign", "adGroup", "target", "itemNo"] },
  term: { table: termFacts, keys: ["campaign", "adGroup", "target", "term"] },
  slot: { table: slotFacts, keys: ["campaign", "adGroup", "slot"] },
  hour: { table: hourFacts, keys: ["campaign", "hour"] },
  placement: { table: placementFacts, keys: ["campaign", "placement"] },
  store: { table: storeSales, keys: ["itemNo"] },
} as const satisfies Record<ReportKind, { table: unknown; keys: string[] }>;

/** The columns of a kind's rows, in the order in which rows are passed around: day, keys, counts. */
export function reportColumns(kind: ReportKind): string[] {
  const counts = kind === "store" ? ["orders", "units", "revenue"] : [...COUNT_FIELDS];
  return ["day", ...REPORT_TABLES[kind].keys, ...counts];
}

/** The same as they are called in the database. */
function sqlColumns(kind: ReportKind): string[] {
  const all = getTableColumns(REPORT_TABLES[kind].table) as Record<string, { name: string }>;
  return reportColumns(kind).map((name) => `"${all[name]!.name}"`);
}

const tableOf = (kind: ReportKind) => getTableName(REPORT_TABLES[kind].table);

/** Stores rows of a report whose days are not there yet. */
export async function insertReport(tx: Transaction, kind: ReportKind, rows: number[][]): Promise<void> {
  await bulkInsert(tx, REPORT_TABLES[kind].table, reportColumns(kind) as never, rows);
}

/** Adds to rows of a report, by their keys; those that are not there are made. */
export async function addToReport(tx: Transaction, kind: ReportKind, rows: number[][]): Promise<void> {
  const columns = sqlColumns(kind);
  const keys = 1 + REPORT_TABLES[kind].keys.length;
  const values = columns.map((_, i) => `value ->> ${i}`).join(", ");
  const adds = columns.slice(keys).map((name) => `${name} = ${name} + excluded.${name}`);
  const sql = `INSERT INTO ${tableOf(kind)} (${columns.join(", ")}) SELECT ${values} FROM json_each(?) WHERE true
    ON CONFLICT (${columns.slice(0, keys).join(", ")}) DO UPDATE SET ${adds.join(", ")}`;
  for (let from = 0; from < rows.length; from += BULK_ROWS) {
    await tx.execute({ sql, args: [JSON.stringify(rows.slice(from, from + BULK_ROWS))] });
  }
}

/** The rows of a day, of one campaign or of all, as `reportColumns` orders them. */
export async function readReport(
  tx: Pick<Transaction, "execute">,
  kind: ReportKind,
  day: number,
  campaign: number | null = null,
): Promise<number[][]> {
  const { rows } = await tx.execute({
    sql: `SELECT ${sqlColumns(kind).join(", ")} FROM ${tableOf(kind)} WHERE day = ?${campaign === null ? "" : " AND campaign = ?"}`,
    args: campaign === null ? [day] : [day, campaign],
  });
  const width = sqlColumns(kind).length;
  return rows.map((row) => Array.from({ length: width }, (_, i) => Number(row[i])));
}

/** Removes the rows of a day, of one campaign or of all. */
export async function clearReport(
  tx: Transaction,
  kind: ReportKind,
  day: number,
  campaign: number | null,
): Promise<void> {
  await tx.execute({
    sql: `DELETE FROM ${tableOf(kind)} WHERE day = ?${campaign === null ? "" : " AND campaign = ?"}`,
    args: campaign === null ? [day] : [day, campaign],
  });
}

/** Says that results changed, so that nothing kept of them is used again. */
export async function noteResults(tx: Transaction): Promise<void> {
  await tx.execute("UPDATE workspace SET results_version = results_version + 1");
}

const named = (row: number[]) => ({
  campaign: row[1]!,
  adGroup: row[2]!,
  target: row[3]!,
  itemNo: row[4]!,
  term: row[4]!,
  impressions: row[5]!,
  clicks: row[6]!,
  cost: row[7]!,
  orders: row[8]!,
  units: row[9]!,
  revenue: row[10]!,
});

const namedStore = (row: number[]) => ({
  itemNo: row[1]!,
  orders: row[2]!,
  units: row[3]!,
  revenue: row[4]!,
});

/** Rolls a day up anew from its rows, as screens read it. Spans that hold the day are dropped and made again. */
export async function rollDay(
  tx: Transaction,
  day: number,
  given?: { item: number[][]; term: number[][]; store: number[][] },
): Promise<void> {
  const item = given?.item ?? (await readReport(tx, "item", day));
  const term = given?.term ?? (await readReport(tx, "term", day));
  const store = given?.store ?? (await readReport(tx, "store", day));
  if (item.length + term.length + store.length === 0) {
    await tx.execute({ sql: "DELETE FROM day_rollups WHERE day = ?", args: [day] });
    await tx.execute({ sql: "DELETE FROM term_rollups WHERE day = ?", args: [day] });
  } else {
    await storeRollups(tx, day, rollUp(item.map(named)), storeColumns(store.map(namedStore)));
    await tx.execute({
      sql: "INSERT INTO term_rollups (day, terms) VALUES (?1, ?2) ON CONFLICT (day) DO UPDATE SET terms = ?2",
      args: [day, encodeTerms(rollUpTerms(term.map(named)))],
    });
  }
  if (given) return;
  const from = spanStart(day);
  const { rowsAffected } = await tx.execute({ sql: "DELETE FROM span_rollups WHERE from_day = ?", args: [from] });
  if (rowsAffected > 0) await storeSpan(tx, from);
}

async function storeRollups(tx: Transaction, day: number, ads: DayRollup, store: DayStore): Promise<void> {
  await tx.execute({
    sql: "INSERT INTO day_rollups (day, ads, store) VALUES (?1, ?2, ?3) ON CONFLICT (day) DO UPDATE SET ads = ?2, store = ?3",
    args: [day, encodeRollup(ads), encodeStore(store)],
  });
}

/** Sums the days of a span that is whole. A span some of whose days have no results is left to its days. */
export async function storeSpan(tx: Transaction, from: number): Promise<void> {
  const { rows } = await tx.execute({
    sql: "SELECT ads, store FROM day_rollups WHERE day BETWEEN ? AND ?",
    args: [from, from + SPAN_DAYS - 1],
  });
  if (rows.length < SPAN_DAYS) return;
  const ads = sumSpan(rows.map((row) => decodeRollup(row[0] as ArrayBuffer)));
  const store = sumStoreSpan(rows.map((row) => decodeStore(row[1] as ArrayBuffer)));
  await tx.execute({
    sql: "INSERT INTO span_rollups (from_day, ads, store) VALUES (?, ?, ?)",
    args: [from, encodeSpan(ads), encodeStore(store)],
  });
}
