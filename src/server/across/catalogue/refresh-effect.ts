import { eq } from "drizzle-orm";
import { isBuyable, fieldsInBits, SOLD_OUT } from "@/core/catalogue/field-changes";
import { FIELD } from "@/core/catalogue/fields";
import { cellText } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { refreshChanges, revisions } from "@/db/schema";
import type { Account } from "@/core/account/account";
import { walkAccount } from "../../account/serving";
import { liveAccount } from "../../account/state";
import { loadWindow } from "../../results/load";
import { windowOfDays } from "../../results/window";
import { listShelfSets } from "../../shelves/sets";
import { viewShelfSet } from "../../shelves/view";
import { loadCatalogue } from "../../catalogue/load";

export interface RefreshEffect {
  /** New items by where they stand now. */
  newItems: { total: number; withoutHome: number; byShelf: { set: string; shelf: string; items: number }[] };
  soldOut: { total: number; stillServed: number; /** Mills over the last 30 days. */ spend: number };
  gone: { total: number; namedInStructure: number };
  /** Items whose value of a field that the structure splits by has changed. */
  movedBySplit: { field: string; items: number }[];
}

/** What a refresh does to shelves and structure, seen from today. */
export async function refreshEffect(db: Database, revision: number): Promise<Outcome<RefreshEffect>> {
  const [found] = await db.select().from(revisions).where(eq(revisions.id, revision));
  if (!found?.counts) return fail("refresh-unknown", "There is no such refresh.");
  const changes = await db.select().from(refreshChanges).where(eq(refreshChanges.revision, revision));
  const { columns, length } = await loadCatalogue(db, ["id", "availability"]);
  const itemNo = columns["itemNo"];
  const rowOf = new Map<number, number>();
  if (itemNo?.kind === "number") itemNo.values.forEach((no, row) => rowOf.set(no, row));
  const account = await liveAccount(db);
  const { serving } = await walkAccount(db, account);
  const served = new Uint8Array(length);
  for (const { rows } of serving) for (const row of rows) served[row] = 1;
  const rowsOf = (kind: (change: (typeof changes)[number]) => boolean) =>
    changes.filter(kind).flatMap((change) => {
      const row = rowOf.get(change.itemNo);
      return row === undefined ? [] : [row];
    });
  const added = rowsOf(({ kind }) => kind === "new" || kind === "returned");
  const soldOut = rowsOf(({ fields }) => (fields & SOLD_OUT) !== 0).filter((row) => {
    const availability = columns["availability"];
    return availability ? !isBuyable(cellText(availability, row)) : false;
  });
  const { rows: sums } = await loadWindow(db, await windowOfDays(db, 30));
  const gone = changes.filter(({ kind }) => kind === "gone").map((change) => change.itemNo);
  const goneIds = await idsOf(db, gone);
  const groups = account.all("productGroup").filter(({ value }) => value !== null && goneIds.has(value));
  const exclusions = account.all("exclusion").filter(({ item }) => goneIds.has(item));
  return ok({
    newItems: {
      total: added.length,
      withoutHome: added.filter((row) => !served[row]).length,
      byShelf: await shelvesOfRows(db, added),
    },
    soldOut: {
      total: soldOut.length,
      stillServed: soldOut.filter((row) => served[row]).length,
      spend: soldOut.reduce((sum, row) => sum + (sums.cost[row] ?? 0), 0),
    },
    gone: { total: gone.length, namedInStructure: groups.length + exclusions.length },
    movedBySplit: movedBySplit(changes, account),
  });
}

async function idsOf(db: Database, numbers: number[]): Promise<Set<string>> {
  const { rows } = await db.$client.execute({
    sql: "SELECT DISTINCT item_id FROM items WHERE item_no IN (SELECT value FROM json_each(?))",
    args: [JSON.stringify(numbers)],
  });
  return new Set(rows.map((row) => String(row[0])));
}

async function shelvesOfRows(db: Database, rows: number[]): Promise<RefreshEffect["newItems"]["byShelf"]> {
  const found: RefreshEffect["newItems"]["byShelf"] = [];
  for (const { definition } of await listShelfSets(db)) {
    const view = await viewShelfSet(db, definition.key);
    if (!view.ok) continue;
    const counts = new Map<number, number>();
    for (const row of rows) {
      const shelf = view.value.shelfOf[row]!;
      counts.set(shelf, (counts.get(shelf) ?? 0) + 1);
    }
    for (const [shelf, count] of counts) {
      found.push({ set: definition.name, shelf: view.value.shelves[shelf]!.name, items: count });
    }
  }
  return found;
}

function movedBySplit(
  changes: (typeof refreshChanges.$inferSelect)[],
  account: Account,
): RefreshEffect["movedBySplit"] {
  const splits = new Set<string>();
  for (const { by } of account.all("productGroup")) if (by) splits.add(by.replace(/^category\d$/, "category"));
  const counts = new Map<string, number>();
  for (const { kind, fields } of changes) {
    if (kind !== "changed") continue;
    for (const key of fieldsInBits(fields)) {
      if (splits.has(key)) counts.set(FIELD[key].label, (counts.get(FIELD[key].label) ?? 0) + 1);
    }
  }
  return [...counts].map(([field, count]) => ({ field, items: count })).sort((a, b) => b.items - a.items);
}
