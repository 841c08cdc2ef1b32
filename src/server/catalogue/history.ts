import { and, asc, desc, eq, inArray, isNotNull, sql } from "drizzle-orm";
import { isBuyable, changeWords, fieldsInBits, SOLD_OUT, BACK_IN_STOCK } from "@/core/catalogue/field-changes";
import { FIELD } from "@/core/catalogue/fields";
import { mappingSchema, type Mapping } from "@/core/catalogue/mapping";
import { rowReader } from "@/core/catalogue/read-row";
import { cellText } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { items, refreshChanges, revisions, type RefreshCounts } from "@/db/schema";
import type { Account } from "@/core/account/account";
import { walkAccount } from "../account/serving";
import { liveAccount } from "../account/state";
import { loadWindow } from "../results/load";
import { windowOfDays } from "../results/window";
import { listShelfSets, viewShelfSet } from "../shelves/shelves";
import type { WorkspaceInfo } from "../workspaces";
import { loadCatalogue } from "./load";

export interface Refresh {
  id: number;
  at: number;
  /** Milliseconds it took. */
  took: number;
  counts: RefreshCounts;
  notices: string[];
  isFirst: boolean;
}

/** The readings of the feed, newest first. */
export async function listRefreshes(db: Database, most = 100): Promise<Refresh[]> {
  const rows = await db
    .select()
    .from(revisions)
    .where(and(isNotNull(revisions.finishedAt), isNotNull(revisions.counts)))
    .orderBy(desc(revisions.id))
    .limit(most + 1);
  return rows.slice(0, most).map(({ id, startedAt, finishedAt, counts, notices }, i) => ({
    id,
    at: finishedAt as number,
    took: (finishedAt as number) - startedAt,
    counts: counts as RefreshCounts,
    notices: notices ?? [],
    isFirst: i === rows.length - 1,
  }));
}

/** What can be asked of a refresh. */
export const CHANGE_KINDS = ["new", "changed", "sold-out", "back", "gone"] as const;
export type ChangeKind = (typeof CHANGE_KINDS)[number];

export interface ItemChange {
  id: string;
  title: string;
  kind: ChangeKind | "returned";
  words: string[];
  fields: { field: string; from: string; to: string }[];
}

/** Reads versions of items by the headings and mapping of the reading each came with. */
async function versionReader(db: Database, currency: string) {
  const rows = await db
    .select({ id: revisions.id, headings: revisions.headings, mapping: revisions.mapping })
    .from(revisions);
  const byRevision = new Map(rows.map((row) => [row.id, row]));
  return (version: { fromRev: number; cells: string }) => {
    const found = byRevision.get(version.fromRev);
    if (!found?.headings || !found.mapping) return null;
    const mapping: Mapping = mappingSchema.parse(found.mapping);
    const cells = JSON.parse(version.cells) as string[];
    const read = rowReader(found.headings, mapping, currency)(cells);
    const byName = new Map(found.headings.map((heading, i) => [heading, cells[i] ?? ""]));
    return { item: read.ok ? read.item : null, cells, headings: found.headings, byName };
  };
}

function filterOf(kind: ChangeKind | "all") {
  switch (kind) {
    case "all":
      return undefined;
    case "new":
      return inArray(refreshChanges.kind, ["new", "returned"]);
    case "sold-out":
      return sql`${refreshChanges.fields} & ${SOLD_OUT} <> 0`;
    case "back":
      return sql`(${refreshChanges.fields} & ${BACK_IN_STOCK} <> 0 OR ${refreshChanges.kind} = 'returned')`;
    default:
      return eq(refreshChanges.kind, kind);
  }
}

/** The items that a refresh changed, with what each field was and became. */
export async function refreshItems(
  db: Database,
  info: WorkspaceInfo,
  revision: number,
  kind: ChangeKind | "all",
  offset: number,
  limit: number,
): Promise<{ total: number; changes: ItemChange[] }> {
  const where = and(eq(refreshChanges.revision, revision), filterOf(kind));
  const [count] = await db
    .select({ total: sql<number>`count(*)` })
    .from(refreshChanges)
    .where(where);
  const rows = await db
    .select()
    .from(refreshChanges)
    .where(where)
    .orderBy(asc(refreshChanges.itemNo))
    .limit(limit)
    .offset(offset);
  const numbers = rows.map(({ itemNo }) => itemNo);
  const versions = await db.select().from(items).where(inArray(items.itemNo, numbers)).orderBy(asc(items.fromRev));
  const read = await versionReader(db, info.currency);
  const changes = rows.map((row): ItemChange => {
    const own = versions.filter(({ itemNo }) => itemNo === row.itemNo);
    const after = own.find(({ fromRev }) => fromRev === revision);
    const before = own.find(({ toRev }) => toRev === revision);
    const shown = after ?? before;
    const was = before ? read(before) : null;
    const is = after ? read(after) : null;
    const fields = row.kind === "changed" && was && is ? changedFields(row.fields, was, is) : [];
    const isSoldOut = row.fields & SOLD_OUT;
    const isBack = row.fields & BACK_IN_STOCK;
    return {
      id: shown?.itemId ?? "",
      title: shown?.title ?? "",
      kind: isSoldOut ? "sold-out" : isBack ? "back" : row.kind,
      words: changeWords(row.fields),
      fields,
    };
  });
  return { total: count?.total ?? 0, changes };
}

type ReadVersion = NonNullable<ReturnType<Awaited<ReturnType<typeof versionReader>>>>;

function changedFields(bits: number, was: ReadVersion, is: ReadVersion): ItemChange["fields"] {
  const known = fieldsInBits(bits).map((key) => {
    const text = (version: ReadVersion) => {
      const value = version.item?.[key] ?? "";
      return FIELD[key].kind === "money" && typeof value === "number" ? (value / 1000).toFixed(2) : String(value);
    };
    return { field: FIELD[key].label, from: text(was), to: text(is) };
  });
  if (known.length > 0) return known;
  const names = [...new Set([...was.headings, ...is.headings])];
  return names
    .map((name) => ({ field: name, from: was.byName.get(name) ?? "", to: is.byName.get(name) ?? "" }))
    .filter(({ from, to }) => from !== to)
    .slice(0, 10);
}

export interface ItemMoment {
  at: number;
  /** Mills. */
  price: number | null;
  salePrice: number | null;
  stock: number | null;
  availability: string;
  isGone: boolean;
}

/** An item's price, stock and availability over time, one moment for each version that changed one of them. */
export async function itemHistory(db: Database, info: WorkspaceInfo, itemNo: number): Promise<ItemMoment[]> {
  const versions = await db.select().from(items).where(eq(items.itemNo, itemNo)).orderBy(asc(items.fromRev));
  const read = await versionReader(db, info.currency);
  const times = new Map(
    (await db.select({ id: revisions.id, at: revisions.finishedAt }).from(revisions)).map(({ id, at }) => [id, at]),
  );
  const moments: ItemMoment[] = [];
  for (const [i, version] of versions.entries()) {
    const item = read(version)?.item;
    const at = times.get(version.fromRev);
    if (at == null) continue;
    const moment = {
      at,
      price: item?.price ?? version.price,
      salePrice: item?.salePrice ?? null,
      stock: item?.stock ?? null,
      availability: item?.availability ?? "",
      isGone: false,
    };
    const last = moments.at(-1);
    const isSame =
      last &&
      !last.isGone &&
      last.price === moment.price &&
      last.salePrice === moment.salePrice &&
      last.stock === moment.stock &&
      last.availability === moment.availability;
    if (!isSame) moments.push(moment);
    const next = versions[i + 1];
    const ended = version.toRev === null ? null : times.get(version.toRev);
    if (ended != null && next?.fromRev !== version.toRev) moments.push({ ...moment, at: ended, isGone: true });
  }
  return moments;
}

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
      const shelf = view.value.shelfOf[row] as number;
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
