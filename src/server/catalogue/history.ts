import { and, asc, desc, eq, inArray, isNotNull, sql } from "drizzle-orm";
import { changeWords, fieldsInBits, SOLD_OUT, BACK_IN_STOCK } from "@/core/catalogue/field-changes";
import { FIELD } from "@/core/catalogue/fields";
import { mappingSchema, type Mapping } from "@/core/catalogue/mapping";
import { rowReader } from "@/core/catalogue/read-row";
import type { Database } from "@/db/client";
import { items, refreshChanges, revisions, type RefreshCounts } from "@/db/schema";
import type { WorkspaceInfo } from "../workspaces";

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
export async function versionReader(db: Database, currency: string) {
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
    return { item: read.ok ? read.item : null, cells, headings: found.headings, byName, mapping };
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
