import { desc, gt, lt } from "drizzle-orm";
import type { Database } from "@/db/client";
import { firstAsks } from "@/db/schema";

/** A header with which a page says that it asks this before it is drawn. */
export const FIRST_ASK = "x-hot-shelf-first";

/** Kept for so long, ms, and no more than so many: what nobody looks at any more is not made ready. */
const KEPT_MS = 14 * 24 * 60 * 60_000;
const MOST = 60;
/** Noted anew after so long, ms; a longer path is somebody's own question and not a view that others open. */
const NOTED_ANEW_MS = 60 * 60_000;
const LONGEST = 2000;

/** When this process noted a path last, by database. */
const noted = new WeakMap<Database, Map<string, number>>();

/** Notes what a page asked first. @param path within the workspace, with its query */
export async function noteFirstAsk(db: Database, path: string, now = Date.now()): Promise<void> {
  let known = noted.get(db);
  if (!known) noted.set(db, (known = new Map()));
  if (path.length > LONGEST || now - (known.get(path) ?? 0) < NOTED_ANEW_MS) return;
  known.set(path, now);
  await db
    .insert(firstAsks)
    .values({ path, at: now })
    .onConflictDoUpdate({ target: firstAsks.path, set: { at: now } });
  await db.delete(firstAsks).where(lt(firstAsks.at, now - KEPT_MS));
}

/** What pages asked first lately, last asked first. */
export async function listFirstAsks(db: Database, now = Date.now()): Promise<string[]> {
  const rows = await db
    .select()
    .from(firstAsks)
    .where(gt(firstAsks.at, now - KEPT_MS))
    .orderBy(desc(firstAsks.at))
    .limit(MOST);
  return rows.map(({ path }) => path);
}
