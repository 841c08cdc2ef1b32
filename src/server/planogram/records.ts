import { z } from "zod";
import { checkDiff, type Check } from "@/core/dispatch/checks";
import { diffRecords } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { dependents, RECORD_LABEL, recordSchema, type Structure } from "@/core/planogram/structure";
import type { Database } from "@/db/client";
import { addToBasket, basketDiff, liveStructure, plannedStructure } from "../dispatch/structure";

/** Records of an account of any kind, for scripts and for what has no editing screen yet. */
export const recordsSchema = z.object({
  /** New records, and changed ones under their key. */
  put: z.array(recordSchema).max(20_000).default([]),
  /** Keys to remove, with all that hangs below them. */
  remove: z.array(z.string().min(1).max(600)).max(20_000).default([]),
  reason: z.string().trim().max(300).default(""),
});

/**
 * Puts records into the basket. Nothing goes in when one would change its type or appears twice.
 * @returns how many records change, and what the checks before sending would say now
 */
export async function putRecords(
  db: Database,
  { put, remove, reason }: z.output<typeof recordsSchema>,
  currency: string,
): Promise<Outcome<{ changes: number; checks: Check[] }>> {
  const planned = await plannedStructure(db);
  const after: Structure = { ...planned };
  for (const key of dependents(new Set(remove), Object.values(planned))) delete after[key];
  const seen = new Set<string>();
  for (const record of put) {
    const before = planned[record.key];
    if (seen.has(record.key))
      return fail("record-twice", `The key ${record.key} is given twice.`, "Nothing was taken in.");
    seen.add(record.key);
    if (before && before.type !== record.type) {
      const [is] = RECORD_LABEL[before.type];
      const [asked] = RECORD_LABEL[record.type];
      return fail("record-type", `${record.key} is a ${is}; a ${asked} can't take its place.`, "Nothing was taken in.");
    }
    after[record.key] = record;
  }
  const diff = diffRecords(planned, after);
  const changes = await addToBasket(
    db,
    diff,
    "records",
    reason || `${plural(put.length + remove.length, "record")} put in`,
  );
  const live = await liveStructure(db);
  return ok({ changes, checks: checkDiff(live, await basketDiff(db), currency) });
}
