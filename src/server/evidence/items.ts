import { SOLD_OUT } from "@/core/account/walk";
import { paidPrices } from "@/core/catalogue/margins";
import { chanceOfGoal, type Evidence } from "@/core/evidence/evidence";
import type { Heat } from "@/core/evidence/heat";
import { itemEvidence } from "@/core/evidence/item-evidence";
import { heatOfLine } from "@/core/evidence/lines";
import { asText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { workspace } from "@/db/schema";
import { firstDays } from "../catalogue/first-days";
import { loadCatalogue, type Catalogue } from "../catalogue/load";
import { rememberReady } from "../read/ready";
import type { WindowResults } from "../results/load";
import { seenClicks } from "../results/told";

/** Windows whose evidence is kept beside each other. */
const MOST_EVIDENCE = 3;

/** The pooled evidence of a window, by catalogue row. Shared; must not be written to. */
export async function loadEvidence(db: Database, results: WindowResults): Promise<Evidence> {
  return rememberReady(db, "evidence of items", results.stamp, () => makeEvidence(db, results), MOST_EVIDENCE);
}

async function makeEvidence(db: Database, results: WindowResults): Promise<Evidence> {
  const names = ["category", "family", "price", "salePrice", "breakEven", "availability"];
  const catalogue = await loadCatalogue(db, names);
  const { columns, length } = catalogue;
  const text = (name: string) => (columns[name] ? asText(columns[name]) : null);
  const availability = text("availability");
  const soldOut = new Uint8Array(length);
  availability?.codes.forEach((code, row) => (soldOut[row] = availability.values[code] === SOLD_OUT ? 1 : 0));
  const evidence = itemEvidence(results.rows, {
    ...{ family: text("family"), category: text("category"), paid: paidPrices(catalogue), soldOut },
    newness: await newness(db, results.window.to, catalogue),
    seenClicks: await seenClicks(db, results),
  });
  return columns["breakEven"]?.kind === "number" ? { ...evidence, breakEven: columns["breakEven"].values } : evidence;
}

/** Days after which an item counts as having been there always. */
const NEW_DAYS = 60;

/** The day each row's item was first read; NaN for those of the first reading. */
export async function daysSeenFirst(db: Database, { columns, length, revision }: Catalogue): Promise<Float64Array> {
  const [workspaceRow] = await db.select({ timeZone: workspace.timeZone }).from(workspace);
  const timeZone = workspaceRow?.timeZone ?? "UTC";
  const numbers = columns["itemNo"]?.kind === "number" ? columns["itemNo"].values : new Float64Array(length);
  return rememberReady(db, "days seen first", [revision, timeZone], () => firstDays(db, timeZone, numbers));
}

/** How new each item is on a day: 1 for one of that day, 0 for one of the first reading or long there. */
async function newness(db: Database, day: number, catalogue: Catalogue): Promise<Float64Array> {
  const since = await daysSeenFirst(db, catalogue);
  return since.map((first) => (Number.isNaN(first) ? 0 : Math.max(0, 1 - Math.max(0, day - first) / NEW_DAYS)));
}

/** The heat of every row in a window against a goal. Shared; must not be written to. */
export function loadHeat(db: Database, results: WindowResults, goal: number): Promise<Heat[]> {
  return rememberReady(db, "heat", [...results.stamp, goal], () => makeHeat(db, results, goal), MOST_EVIDENCE);
}

async function makeHeat(db: Database, results: WindowResults, goal: number): Promise<Heat[]> {
  const evidence = await loadEvidence(db, results);
  const { clicks, orders } = results.rows;
  return Array.from(clicks, (count, row) =>
    heatOfLine(chanceOfGoal(evidence, row, goal), count, orders[row]!, evidence.expected[row]!),
  );
}
