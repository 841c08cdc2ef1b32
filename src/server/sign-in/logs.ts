import { and, count, desc, eq, like, or } from "drizzle-orm";
import { accessLog } from "@/db/accounts/schema";
import type { Database } from "@/db/client";
import { changeLog } from "@/db/schema";
import { accounts } from "./accounts";

const MOST_LINES = 500;

/** Lines of a workspace's change log in which every word of a search stands, newest first, and how many there are. */
export async function changeLines(db: Database, { q, offset, limit }: { q: string; offset: number; limit: number }) {
  const words = q.split(/\s+/).filter(Boolean);
  const { who, what, why, place } = changeLog;
  const found = and(
    ...words.map((word) => {
      const pattern = `%${word.replace(/[%_]/g, "_")}%`;
      return or(like(who, pattern), like(what, pattern), like(why, pattern), like(place, pattern));
    }),
  );
  const lines = await db.select().from(changeLog).where(found).orderBy(desc(changeLog.id)).limit(limit).offset(offset);
  const [total] = await db.select({ total: count() }).from(changeLog).where(found);
  return { total: total?.total ?? 0, lines };
}

/** The last lines of the access log: those about a workspace, and for founders those about none too. */
export async function accessLines(workspace: string, isFounder: boolean) {
  const db = await accounts();
  return db
    .select()
    .from(accessLog)
    .where(isFounder ? undefined : eq(accessLog.workspace, workspace))
    .orderBy(desc(accessLog.id))
    .limit(MOST_LINES);
}
