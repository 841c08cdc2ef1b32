import { inArray, lt } from "drizzle-orm";
import type { Push } from "@/core/moves/ground";
import type { Database } from "@/db/client";
import { bidPushes } from "@/db/schema";

const AT_ONCE = 500;

/** Keeps bids that are pushed until a day, with what they go back to. A push of what is pushed already keeps what it was before. */
export async function keepPushes(
  db: Database,
  who: string,
  of: "bid" | "item-bid",
  until: string,
  pushes: readonly { key: string; bid: number; back: number }[],
): Promise<void> {
  const at = Date.now();
  await db.transaction(async (tx) => {
    for (let from = 0; from < pushes.length; from += AT_ONCE) {
      const part = pushes.slice(from, from + AT_ONCE);
      const keys = part.map(({ key }) => key);
      const before = new Map(
        (await tx.select().from(bidPushes).where(inArray(bidPushes.key, keys))).map((row) => [row.key, row]),
      );
      await tx.delete(bidPushes).where(inArray(bidPushes.key, keys));
      await tx.insert(bidPushes).values(
        part.map(({ key, bid, back }) => {
          const known = before.get(key);
          return { ...{ key, of, bid, until, who, at }, back: known && known.bid === back ? known.back : back };
        }),
      );
    }
  });
}

/** Pushes whose last day is over. @param today `YYYY-MM-DD` */
export async function endedPushes(db: Database, today: string): Promise<Push[]> {
  const rows = await db.select().from(bidPushes).where(lt(bidPushes.until, today));
  return rows.map(({ key, of, bid, back, until }) => ({ key, of, bid, back, until }));
}
