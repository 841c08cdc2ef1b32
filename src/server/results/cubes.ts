import { between } from "drizzle-orm";
import type { Window } from "@/core/kit/days";
import { CubeBuilder, type Cube, type CubeDimension, type CubeRows } from "@/core/results/cube";
import { SOURCES, type Source } from "@/core/results/levels";
import { decodeRollup, decodeStore, decodeTerms } from "@/core/results/day-columns";
import type { Database } from "@/db/client";
import { dayRollups, termRollups } from "@/db/schema";
import { type Stamp } from "../read/memo";
import { rememberReady } from "../read/ready";
import { loadLag, seenOn } from "./lag";
import { resultsVersion } from "./load";
import { readReport, reportColumns } from "./report-store";
import { windowRows } from "./window-rows";

/** A window's results of one report, with all store sales by item and day where the report is the item one. */
export interface WindowCube {
  /** What it is of; what is worked out from it holds as long. */
  stamp: Stamp;
  ads: Cube;
  store: Cube | null;
}

/** Days read by one statement. */
const DAYS_AT_ONCE = 8;
const KEPT = 10;

/**
 * The results of a window by what a report is divided by. Kept until results change.
 * @param byDay whether days stay apart, which few questions need and which costs memory
 */
export async function loadCube(db: Database, source: Source, window: Window, byDay: boolean): Promise<WindowCube> {
  const stamp = [await resultsVersion(db), source, window.from, window.to, byDay];
  return rememberReady(db, "cube", stamp, () => buildCube(db, source, window, byDay, stamp), KEPT);
}

async function buildCube(
  db: Database,
  source: Source,
  window: Window,
  byDay: boolean,
  stamp: Stamp,
): Promise<WindowCube> {
  const lag = await loadLag(db);
  const names = (SOURCES[source] as readonly CubeDimension[]).filter((name) => byDay || name !== "day");
  const ads = new CubeBuilder([...names]);
  const store = source === "item" ? new CubeBuilder(byDay ? ["day", "item"] : ["item"]) : null;
  const add = (day: number, rows: CubeRows) => ads.add(rows, { day }, seenOn(lag, day));
  for (let from = window.from; from <= window.to; from += DAYS_AT_ONCE) {
    const to = Math.min(window.to, from + DAYS_AT_ONCE - 1);
    if (source === "item") {
      for (const row of await db
        .select()
        .from(dayRollups)
        .where(between(dayRollups.day, from, to))) {
        add(row.day, decodeRollup(row.ads) as CubeRows);
        store?.add(decodeStore(row.store) as CubeRows, { day: row.day });
      }
    } else if (source === "term") {
      for (const row of await db
        .select()
        .from(termRollups)
        .where(between(termRollups.day, from, to))) {
        add(row.day, decodeTerms(row.terms) as unknown as CubeRows);
      }
    } else {
      for (let day = from; day <= to; day++) add(day, columnsOf(source, await readReport(db.$client, source, day)));
    }
    // Other requests get their turn between the pieces.
    await new Promise((resolve) => setImmediate(resolve));
  }
  if (!byDay) {
    ads.add(columnsOf(source, await windowRows(db, source, window), 1));
    store?.add(storeColumnsOf(await windowRows(db, "store", window)));
  }
  return { stamp, ads: ads.finish(), store: store?.finish() ?? null };
}

/** @param skip how many of a report's columns the rows do not have: the day, in sums over several */
function columnsOf(source: Source, rows: number[][], skip = 0): CubeRows {
  const names = reportColumns(source).slice(skip);
  return Object.fromEntries(names.map((name, at) => [name === "itemNo" ? "item" : name, rows.map((row) => row[at]!)]));
}

function storeColumnsOf(rows: number[][]): CubeRows {
  return Object.fromEntries(
    ["item", "orders", "units", "revenue"].map((name, at) => [name, rows.map((row) => row[at]!)]),
  );
}
