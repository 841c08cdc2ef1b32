import { createHash } from "node:crypto";
import { eq, notInArray } from "drizzle-orm";
import { encodeColumn } from "@/core/kit/column-bytes";
import type { Column } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { catalogueColumns, feeds, revisions } from "@/db/schema";

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
 * @returns which revision's column serves each name
 */
export async function storeColumns(
  db: Database,
  rev: number,
  made: Record<string, Column>,
  before: Record<string, number>,
  known: Record<string, Column> = {},
): Promise<Record<string, number>> {
  const digests = await db
    .select({ name: catalogueColumns.name, revision: catalogueColumns.revision, digest: catalogueColumns.digest })
    .from(catalogueColumns);
  const digestOf = new Map(digests.map((row) => [`${row.revision}/${row.name}`, row.digest]));
  const serving: Record<string, number> = {};
  for (const [name, column] of Object.entries(made)) {
    const last = before[name];
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

/**
 * Drops stored columns that none of the given revisions serves: those in force, and the one before, which stays a while
 * for readers that have just looked up which is in force.
 */
export async function dropOldColumns(db: Database, ...serving: Record<string, number>[]): Promise<void> {
  const needed = new Set(serving.flatMap((columns) => Object.values(columns)));
  await db.delete(catalogueColumns).where(notInArray(catalogueColumns.revision, [...needed]));
}
