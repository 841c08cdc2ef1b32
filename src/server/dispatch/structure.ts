import { asc, sql } from "drizzle-orm";
import { applyDiff, composeDiffs, emptyDiff, sameValue, type Diff } from "@/core/kit/diff";
import type { Structure, StructureRecord } from "@/core/planogram/structure";
import type { Database } from "@/db/client";
import { basket, dispatches, records } from "@/db/schema";
import { bulkInsert } from "../bulk";

/** The structure is kept as a promise, so that requests that come at once wait for one reading instead of each doing it. */
interface KeptStructure {
  stamp: string;
  live: Promise<Structure>;
}

const cache = new WeakMap<Database, KeptStructure>();

/** The account as the channel has it. Kept until a dispatch changes it; must not be written to. */
export async function liveStructure(db: Database): Promise<Structure> {
  const [last] = await db
    .select({ id: sql<number>`max(${dispatches.id})`, sent: sql<number>`max(${dispatches.sentAt})` })
    .from(dispatches);
  const [count] = await db.select({ count: sql<number>`count(*)` }).from(records);
  const stamp = `${last?.id}/${last?.sent}/${count?.count}`;
  const kept = cache.get(db);
  if (kept?.stamp === stamp) return kept.live;
  const live = readRecords(db);
  cache.set(db, { stamp, live });
  live.catch(() => cache.delete(db));
  return live;
}

async function readRecords(db: Database): Promise<Structure> {
  const live: Structure = {};
  for await (const bodies of recordPages(db)) for (const record of bodies) live[record.key] = record;
  return live;
}

/** Rows a statement when reading JSON bodies: some 20 ms of work, so that other requests get their turn. */
const PAGE = 5000;

/** All records, a page a time, in the order they were stored. JSON of many at once is read far faster than row objects. */
async function* recordPages(db: Database): AsyncIterable<StructureRecord[]> {
  for (let after = 0; ;) {
    const { rows } = await db.$client.execute({
      sql: `SELECT max(id), count(*), '[' || group_concat(body, ',') || ']' FROM
            (SELECT rowid AS id, body FROM records WHERE rowid > ? ORDER BY rowid LIMIT ${PAGE})`,
      args: [after],
    });
    const count = Number(rows[0]![1]);
    if (count === 0) return;
    yield JSON.parse(String(rows[0]![2])) as StructureRecord[];
    if (count < PAGE) return;
    after = Number(rows[0]![0]);
    await new Promise((resolve) => setImmediate(resolve));
  }
}

/** What lies in the basket, as one diff. */
export async function basketDiff(db: Database): Promise<Diff<StructureRecord>> {
  return asDiff(await db.select().from(basket));
}

/** Rows with a before and an after as a diff. */
export function asDiff(
  rows: { key: string; before: StructureRecord | null; after: StructureRecord | null }[],
): Diff<StructureRecord> {
  const diff = emptyDiff<StructureRecord>();
  for (const { key, before, after } of rows) {
    if (before && after) diff.changed[key] = [before, after];
    else if (after) diff.added[key] = after;
    else if (before) diff.removed[key] = before;
  }
  return diff;
}

/** A diff as rows: key, before, after. */
export function diffRows(
  diff: Diff<StructureRecord>,
): [key: string, before: StructureRecord | null, after: StructureRecord | null][] {
  return [
    ...Object.entries(diff.added).map(([key, after]) => [key, null, after] as [string, null, StructureRecord]),
    ...Object.entries(diff.changed).map(
      ([key, [before, after]]) => [key, before, after] as [string, StructureRecord, StructureRecord],
    ),
    ...Object.entries(diff.removed).map(([key, before]) => [key, before, null] as [string, StructureRecord, null]),
  ];
}

const planned = new WeakMap<Database, { live: Structure; stamp: string; structure: Promise<Structure> }>();

/**
 * The account as it will be once the basket is sent: what decisions are made on. The same object while neither the
 * account nor the basket changed; must not be written to.
 */
export async function plannedStructure(db: Database): Promise<Structure> {
  const live = await liveStructure(db);
  const [row] = await db.select({ count: sql<number>`count(*)`, last: sql<number>`max(${basket.id})` }).from(basket);
  if (!row || row.count === 0) return live;
  const stamp = `${row.count}/${row.last}`;
  const kept = planned.get(db);
  if (kept?.live === live && kept.stamp === stamp) return kept.structure;
  const structure = basketDiff(db).then((diff) => applyDiff(live, diff));
  planned.set(db, { live, stamp, structure });
  structure.catch(() => planned.delete(db));
  return structure;
}

/** Most changes a person makes by hand touch few records; those are merged row by row, more are written anew. */
const FEW = 200;

/**
 * Adds a diff (made on the planned structure) to the basket. Changes of the same record become one, and changes that
 * cancel out vanish.
 */
export async function addToBasket(
  db: Database,
  diff: Diff<StructureRecord>,
  source: string,
  reason: string,
): Promise<number> {
  const rows = diffRows(diff);
  const at = Date.now();
  if (rows.length <= FEW) {
    await db.transaction(async (tx) => {
      for (const [key, before, after] of rows) {
        const [held] = await tx
          .select()
          .from(basket)
          .where(sql`${basket.key} = ${key}`);
        await tx.delete(basket).where(sql`${basket.key} = ${key}`);
        const start = held ? held.before : before;
        if (!sameValue(start, after)) {
          await tx.insert(basket).values({ key, before: start, after, source, reason, at });
        }
      }
    });
    return rows.length;
  }
  const held = await db.select().from(basket).orderBy(asc(basket.at));
  const told = new Map(held.map((row) => [row.key, row]));
  const merged = diffRows(composeDiffs(asDiff(held), diff));
  const touched = new Set(rows.map(([key]) => key));
  const tx = await db.$client.transaction("write");
  try {
    await tx.execute("DELETE FROM basket");
    await bulkInsert(
      tx,
      basket,
      ["key", "before", "after", "source", "reason", "at"],
      merged.map(([key, before, after]) => {
        const old = touched.has(key) ? undefined : told.get(key);
        const json = (value: unknown) => (value === null ? null : JSON.stringify(value));
        return [key, json(before), json(after), old?.source ?? source, old?.reason ?? reason, old?.at ?? at];
      }),
    );
    await tx.commit();
  } finally {
    tx.close();
  }
  return rows.length;
}
