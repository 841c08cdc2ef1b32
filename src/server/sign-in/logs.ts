import { and, count, desc, eq, like, or } from "drizzle-orm";
import type { SQLiteColumn } from "drizzle-orm/sqlite-core";
import { accessLog } from "@/db/accounts/schema";
import type { Database } from "@/db/client";
import { changeLog } from "@/db/schema";
import { accounts } from "../installation";

/** What is asked of a log: words, and which of the lines that have them. */
interface Asked {
  q: string;
  offset: number;
  limit: number;
}

/** That every word of a search stands in one of these columns. */
function containing(q: string, columns: SQLiteColumn[]) {
  return q
    .split(/\s+/)
    .filter(Boolean)
    .map((word) => or(...columns.map((column) => like(column, `%${word.replace(/[%_]/g, "_")}%`))));
}

/** Lines of a workspace's change log in which every word of a search stands, newest first, and how many there are. */
export async function changeLines(db: Database, { q, offset, limit }: Asked) {
  const { who, what, why, place } = changeLog;
  const found = and(...containing(q, [who, what, why, place]));
  const lines = await db.select().from(changeLog).where(found).orderBy(desc(changeLog.id)).limit(limit).offset(offset);
  const [total] = await db.select({ total: count() }).from(changeLog).where(found);
  return { total: total?.total ?? 0, lines };
}

/**
 * Lines of the access log in which every word of a search stands, newest first, and how many there are: those about a
 * workspace, and for founders those about none too.
 */
export async function accessLines(workspace: string, isFounder: boolean, { q, offset, limit }: Asked) {
  const db = await accounts();
  const { who, what, from } = accessLog;
  const found = and(isFounder ? undefined : eq(accessLog.workspace, workspace), ...containing(q, [who, what, from]));
  const lines = await db.select().from(accessLog).where(found).orderBy(desc(accessLog.id)).limit(limit).offset(offset);
  const [total] = await db.select({ total: count() }).from(accessLog).where(found);
  return { total: total?.total ?? 0, lines };
}
