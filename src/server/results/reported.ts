import { and, isNotNull, isNull } from "drizzle-orm";
import type { Window } from "@/core/kit/days";
import { AD_MEASURES, type AdMeasure } from "@/core/kit/metrics";
import type { Cube } from "@/core/results/cube";
import type { Source } from "@/core/results/levels";
import { REPORT_TABLES } from "./report-store";
import { hasWindowRows } from "./window-rows";
import { getTableName } from "drizzle-orm";
import type { Database } from "@/db/client";
import { marketState, reportImports } from "@/db/schema";

/** The first of some reports that says anything of a window; the first of all when none does. */
export async function sourceWithRows(db: Database, sources: Source[], window: Window): Promise<Source> {
  for (const source of sources) {
    const { rows } = await db.$client.execute({
      sql: `SELECT 1 FROM ${getTableName(REPORT_TABLES[source].table)} WHERE day BETWEEN ? AND ? LIMIT 1`,
      args: [window.from, window.to],
    });
    if (rows.length > 0 || (await hasWindowRows(db, source, window))) return source;
  }
  return sources[0]!;
}

/** What the placement report of the test market tells; its other reports tell all. */
const OF_PLACEMENTS: readonly AdMeasure[] = ["impressions"];

/**
 * What a report does not tell of a window, so that it is not taken for nought: a measure that is nought everywhere, that no
 * report file read in had a column for, and that the test market does not report.
 */
export async function missingMeasures(
  db: Database,
  source: Source,
  window: Window,
  { length, sums }: Cube,
): Promise<AdMeasure[]> {
  const silent = AD_MEASURES.filter((key) => !sums[key].some((value) => value !== 0));
  if (silent.length === 0) return [];
  const told = new Set<string>();
  const [market] = await db.select({ day: marketState.day }).from(marketState);
  if (market && length > 0) for (const key of source === "placement" ? OF_PLACEMENTS : AD_MEASURES) told.add(key);
  const files = await db
    .select({
      kind: reportImports.kind,
      from: reportImports.fromDay,
      to: reportImports.toDay,
      mapping: reportImports.mapping,
    })
    .from(reportImports)
    .where(and(isNotNull(reportImports.finishedAt), isNull(reportImports.undoneAt)));
  for (const { kind, from, to, mapping } of files) {
    if (kind !== source || from === null || to === null || from > window.to || to < window.from) continue;
    for (const [field, heading] of Object.entries(mapping.columns)) if (heading) told.add(field);
  }
  return silent.filter((key) => !told.has(key));
}
