import { LINK_STATE_LABEL } from "@/core/catalogue/check-page";
import { FAULTS, faultBits, type FaultCode } from "@/core/catalogue/faults";
import { FINDING, hasFinding, type FindingCode } from "@/core/catalogue/findings/finding";
import { isBuyable } from "@/core/catalogue/field-changes";
import { cellText, type Column, type Columns, type TextColumn } from "@/core/kit/columns";
import { METRIC_KEYS, METRICS, type MetricKey } from "@/core/kit/metrics";
import { ownRecord } from "@/core/kit/own-record";
import { sumsOfRow } from "@/core/results/window-sums";
import { HEATS } from "@/core/evidence/heat";
import type { Database } from "@/db/client";
import { remember } from "../../read/memo";
import type { WindowResults } from "../../results/load";
import { loadHeat, shelfColumns } from "../../shelves/shelves";
import { linkFaults } from "./link-check";
import { loadCatalogue, type Catalogue } from "../../catalogue/load";
import { latestNotes } from "../../catalogue/notes";
import { standingColumn } from "./standings";

/** Prefix of the columns that mark the items with a fault or finding. */
export const FAULT_PREFIX = "fault:";

/** Metrics kept as columns beside each other. */
const MOST_METRICS = 12;

/** A metric of every row as a column, worked from its sums. */
function metricColumn(db: Database, results: WindowResults, key: MetricKey): Promise<Column> {
  const make = (): Column => {
    const { of } = METRICS[key];
    const values = Float64Array.from(results.rows.clicks, (_, row) => of(sumsOfRow(results.rows, row)) ?? NaN);
    return { kind: "number", values };
  };
  return remember(db, "metric column", [...results.stamp, key], make, MOST_METRICS);
}

/** Which rows have a fault, finding or link fault, as a column of ones. */
async function faultColumn(db: Database, code: string, results: WindowResults): Promise<Column> {
  const { columns, length } = await loadCatalogue(db, ["warnings", "findings", "id", "availability"]);
  const values = new Float64Array(length).fill(NaN);
  const mark = (holds: (row: number) => boolean) => {
    for (let row = 0; row < length; row++) if (holds(row)) values[row] = 1;
  };
  const { warnings, findings, id, availability } = columns;
  if (code === "soldout-spend") {
    mark((row) => !isBuyable(availability ? cellText(availability, row) : "") && results.rows.cost[row]! > 0);
  } else if (code.startsWith("link-") && code.slice(5) in LINK_STATE_LABEL) {
    const faults = await linkFaults(db);
    mark((row) => faults.get(id ? cellText(id, row) : "")?.state === code.slice(5));
  } else if (code in FINDING && findings?.kind === "number") {
    mark((row) => hasFinding(findings.values[row]!, code as FindingCode));
  } else if (FAULTS.some((fault) => fault.code === code) && warnings?.kind === "number") {
    const bit = faultBits([code as FaultCode]);
    mark((row) => (warnings.values[row]! & bit) !== 0);
  }
  return { kind: "number", values };
}

async function noteColumn(db: Database): Promise<Column> {
  const { columns, length } = await loadCatalogue(db, ["id", "family"]);
  const { items, families } = await latestNotes(db);
  const { id, family } = columns;
  const values = [""];
  const codes = new Uint32Array(length);
  if (items.size + families.size > 0) {
    for (let row = 0; row < length; row++) {
      const text = items.get(id ? cellText(id, row) : "") ?? (family ? families.get(cellText(family, row)) : undefined);
      if (text) codes[row] = values.push(text) - 1;
    }
  }
  return { kind: "text", codes, values };
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
      columns[name] = await faultColumn(db, name.slice(FAULT_PREFIX.length), results);
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
