import { dayAt } from "@/core/kit/days";
import type { Database } from "@/db/client";

/** The day each item came into the catalogue; NaN for those of the feed's first reading. */
export async function firstDays(db: Database, timeZone: string, itemNos: Float64Array): Promise<Float64Array> {
  const { rows } = await db.$client.execute(
    `SELECT i.item_no, r.started_at FROM (SELECT item_no, min(from_rev) AS rev FROM items GROUP BY item_no) i
     JOIN revisions r ON r.id = i.rev WHERE i.rev > (SELECT min(from_rev) FROM items)`,
  );
  // Items come by thousands with one reading, and to find a moment's day in a time zone takes a while.
  const dayOf = new Map<number, number>();
  const day = new Map<number, number>();
  for (const row of rows) {
    const at = Number(row[1]);
    let found = dayOf.get(at);
    if (found === undefined) dayOf.set(at, (found = dayAt(at, timeZone)));
    day.set(Number(row[0]), found);
  }
  return itemNos.map((no) => day.get(no) ?? NaN);
}
