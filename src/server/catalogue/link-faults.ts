import { inArray } from "drizzle-orm";
import type { LinkState } from "@/core/catalogue/check-page";
import type { Database } from "@/db/client";
import { linkChecks } from "@/db/schema";

/** What the last checks found, by item ID; those that are fine are left out. */
export async function linkFaults(db: Database): Promise<Map<string, { state: LinkState; detail: string; at: number }>> {
  const rows = await db
    .select()
    .from(linkChecks)
    .where(inArray(linkChecks.state, ["gone", "sold-out", "variant", "price", "moved", "unreachable"]));
  return new Map(
    rows.map(({ itemId, state, detail, checkedAt }) => [itemId, { state: state as LinkState, detail, at: checkedAt }]),
  );
}
