import { type Column, type Columns, type TextColumn } from "@/core/kit/columns";
import { METRIC_KEYS, METRICS, type MetricKey } from "@/core/kit/metrics";
import { ownRecord } from "@/core/kit/own-record";
import { sumsOfRow } from "@/core/results/window-sums";
import { HEATS } from "@/core/evidence/heat";
import type { Database } from "@/db/client";
import { rememberReady } from "../../read/ready";
import type { WindowResults } from "../../results/load";
import { loadHeat } from "../../evidence/items";
import { shelfColumns } from "../../shelves/view";
import { loadCatalogue, type Catalogue } from "../../catalogue/load";
import { FAULT_PREFIX, faultColumn, noteColumn } from "../../catalogue/made-columns";
import { standingColumn } from "./standings";

/** Metrics kept as columns beside each other. */
const MOST_METRICS = 12;

/** A metric of every row as a column, worked from its sums. */
function metricColumn(db: Database, results: WindowResults, key: MetricKey): Promise<Column> {
  const make = (): Column => {
    const { of } = METRICS[key];
    const values = Float64Array.from(results.rows.clicks, (_, row) => of(sumsOfRow(results.rows, row)) ?? NaN);
    return { kind: "number", values };
  };
  return rememberReady(db, "metric column", [...results.stamp, key], make, MOST_METRICS);
}

/**
 * The catalogue with any columns a table, filter or order can name: fields, derived fields, metrics of the window,
 * `heat`, `home`, `note`, `shelf:<set>`, and `fault:<code>`.
 */
export async function loadTable(
  db: Database,
  goal: number,
  results: WindowResults,
  names: string[],
): Promise<Catalogue & Columns> {
  const catalogue = await loadCatalogue(db, names);
  const columns = ownRecord({ ...catalogue.columns });
  for (const name of new Set(names)) {
    // A metric's name wins: `cost` is the spend; an item's cost is `unitCost`.
    if ((METRIC_KEYS as readonly string[]).includes(name))
      columns[name] = await metricColumn(db, results, name as MetricKey);
    else if (name in columns) continue;
    else if (name === "heat") {
      const heat = await loadHeat(db, results, goal);
      const values = ["", ...HEATS];
      columns[name] = { kind: "text", values, codes: Uint32Array.from(heat, (step) => values.indexOf(step)) };
    } else if (name === "home") columns[name] = await standingColumn(db);
    else if (name === "note") columns[name] = await noteColumn(db);
    else if (name.startsWith("shelf:")) Object.assign(columns, named(await shelfColumns(db)));
    else if (name.startsWith(FAULT_PREFIX)) {
      columns[name] = await faultColumn(db, name.slice(FAULT_PREFIX.length), results.rows);
    }
  }
  return { ...catalogue, columns };
}

/** Shelves as people call them. */
function named(shelves: Record<string, TextColumn>): Record<string, TextColumn> {
  const columns = Object.entries(shelves).map(([name, { labels, ...column }]) => [
    name,
    { ...column, values: labels ?? column.values },
  ]);
  return Object.fromEntries(columns) as Record<string, TextColumn>;
}
