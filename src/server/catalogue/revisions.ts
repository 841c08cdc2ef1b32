import { createHash } from "node:crypto";
import { and, asc, between, eq, notInArray } from "drizzle-orm";
import { encodeColumn, isOwnTexts } from "@/core/kit/column-bytes";
import type { SunkTexts } from "@/core/catalogue/text-sink";
import type { Column } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { catalogueColumns, feeds, revisions } from "@/db/schema";
import { collectGarbageFully } from "../memory";

export type Revision = typeof revisions.$inferSelect;

/** The feed with the revision in force and the reading whose rows it shows; null before a first reading. */
export async function inForce(
  db: Database,
): Promise<{ feed: typeof feeds.$inferSelect; revision: Revision; reading: Revision } | null> {
  const [feed] = await db.select().from(feeds);
  if (!feed?.currentRevision) return null;
  const [revision] = await db.select().from(revisions).where(eq(revisions.id, feed.currentRevision));
  if (!revision) return null;
  if (revision.reading === null || revision.reading === revision.id) return { feed, revision, reading: revision };
  const [reading] = await db.select().from(revisions).where(eq(revisions.id, revision.reading));
  return { feed, revision, reading: reading ?? revision };
}

/** Whether two columns hold the same; texts that are the very same objects compare at once. */
function sameColumn(a: Column, b: Column): boolean {
  if (a.kind === "number") {
    if (b.kind !== "number" || a.values.length !== b.values.length) return false;
    return Buffer.from(a.values.buffer, a.values.byteOffset, a.values.byteLength).equals(
      Buffer.from(b.values.buffer, b.values.byteOffset, b.values.byteLength),
    );
  }
  if (b.kind !== "text" || a.codes.length !== b.codes.length || a.values.length !== b.values.length) return false;
  for (let i = 0; i < a.codes.length; i++) if (a.codes[i] !== b.codes[i]) return false;
  return a.values.every((value, code) => value === b.values[code]);
}

/**
 * Stores the columns that differ from those served before.
 * @param known columns served before that are at hand, so that equal ones need not be written out to be told
 * @param sunk columns that are kept outside the memory
 * @returns which revision's column serves each name
 */
export async function storeColumns(
  db: Database,
  rev: number,
  made: Record<string, Column>,
  before: Record<string, number>,
  known: Record<string, Column> = {},
  sunk: Record<string, SunkTexts> = {},
): Promise<Record<string, number>> {
  const digests = await db
    .select({ name: catalogueColumns.name, revision: catalogueColumns.revision, digest: catalogueColumns.digest })
    .from(catalogueColumns);
  const digestOf = new Map(digests.map((row) => [`${row.revision}/${row.name}`, row.digest]));
  const serving: Record<string, number> = {};
  for (const name of Object.keys(made)) {
    if (Object.keys(sunk).length > 0) await collectGarbageFully();
    const last = before[name];
    if (sunk[name]) {
      const digest = digestOfPieces(sunk[name]);
      if (last !== undefined && digestOf.get(`${last}/${name}`) === digest) serving[name] = last;
      else {
        await storePieces(db, rev, name, digest, sunk[name]);
        serving[name] = rev;
      }
      continue;
    }
    const column = made[name]!;
    if (last !== undefined && known[name] && sameColumn(known[name], column)) {
      serving[name] = last;
      continue;
    }
    const data = Buffer.from(encodeColumn(column).buffer);
    const digest = createHash("sha1").update(data).digest("hex");
    if (last !== undefined && digestOf.get(`${last}/${name}`) === digest) {
      serving[name] = last;
      continue;
    }
    await db.insert(catalogueColumns).values({ revision: rev, name, digest, data });
    serving[name] = rev;
  }
  return serving;
}

function digestOfPieces(texts: SunkTexts): string {
  const hash = createHash("sha1");
  for (const piece of texts.pieces()) hash.update(piece);
  return hash.digest("hex");
}

/** The name of a later piece of a column that is too large for one blob; such names sort behind the column's own. */
function pieceName(name: string, no: number): string {
  return no === 0 ? name : `${name}#${String(no).padStart(5, "0")}`;
}

async function storePieces(db: Database, rev: number, name: string, digest: string, texts: SunkTexts): Promise<void> {
  let no = 0;
  for (const piece of texts.pieces()) {
    const row = {
      revision: rev,
      name: pieceName(name, no++),
      digest,
      data: Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength),
    };
    await db.insert(catalogueColumns).values(row);
    // The client holds what a statement was given until the engine drops the statement.
    if (no % 4 === 0) await collectGarbageFully();
  }
}

/** The stored bytes of a column, its pieces put together; null when it is not there. */
export async function loadBytes(db: Database, rev: number, name: string): Promise<Uint8Array | null> {
  // Later pieces have names that sort between the column's own with a hash and its last number.
  const isOf = (from: string, to: string) =>
    and(eq(catalogueColumns.revision, rev), between(catalogueColumns.name, from, to));
  const read = (from: string, to: string) =>
    db
      .select({ data: catalogueColumns.data })
      .from(catalogueColumns)
      .where(isOf(from, to))
      .orderBy(asc(catalogueColumns.name));
  const [first] = await read(name, name);
  if (!first) return null;
  if (!isOwnTexts(first.data)) return first.data;
  const more = await read(pieceName(name, 1), pieceName(name, 99_999));
  return more.length === 0 ? first.data : Buffer.concat([first.data, ...more.map(({ data }) => data)]);
}

/**
 * Drops stored columns that none of the given revisions serves: those in force, and the one before, which stays a while
 * for readers that have just looked up which is in force.
 */
export async function dropOldColumns(db: Database, ...serving: Record<string, number>[]): Promise<void> {
  const needed = new Set(serving.flatMap((columns) => Object.values(columns)));
  await db.delete(catalogueColumns).where(notInArray(catalogueColumns.revision, [...needed]));
}
