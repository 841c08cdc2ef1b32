import { z } from "zod";
import { withDependents } from "@/core/account/account";
import { checkDiff, type Check } from "@/core/account/checks";
import { Draft } from "@/core/account/draft";
import { kindOf, recordSchema } from "@/core/account/records";
import { composeDiffs, diffSize } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { carriedBy } from "../channel/carried";
import { commit } from "./commit";

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
  who: string,
  stamp: number | null,
  { put, remove, reason }: z.output<typeof recordsSchema>,
  currency: string,
): Promise<Outcome<{ changes: number; checks: Check[] }>> {
  const { limits } = await carriedBy(db);
  return commit(db, who, stamp, ({ planned, live, held }) => {
    const draft = new Draft(planned);
    if (remove.length > 0) for (const key of withDependents(remove, planned.records())) draft.remove(key);
    const seen = new Set<string>();
    for (const record of put) {
      if (seen.has(record.key))
        return fail("record-twice", `The key ${record.key} is given twice.`, "Nothing was taken in.");
      seen.add(record.key);
      const before = planned.get(record.key);
      if (before && before.type !== record.type) {
        const [is] = kindOf(before.type).label;
        const [asked] = kindOf(record.type).label;
        return fail(
          "record-type",
          `${record.key} is a ${is}; a ${asked} can't take its place.`,
          "Nothing was taken in.",
        );
      }
      draft.put(record);
    }
    const diff = draft.diff();
    const told = reason || `${plural(put.length + remove.length, "record")} put in`;
    const checks = checkDiff(live, composeDiffs(held, diff), currency, limits);
    return ok({
      into: { draft, cause: { kind: "records", id: "" }, reason: told },
      told: null,
      value: { changes: diffSize(diff), checks },
    });
  });
}
