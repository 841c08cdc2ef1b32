import { z } from "zod";
import { fail, ok, type Outcome } from "../../kit/outcome";
import type { Draft } from "../draft";
import { kindOf, type AccountRecord } from "../records";
import type { Campaign } from "../records/campaign";

/** Keys of records, or IDs of items, that an act is about. */
export const keysSchema = z
  .array(z.string())
  .min(1, "Nothing is chosen.")
  .max(10_000, "At most 10,000 can be changed at once this way; more go as a job: account/edits/many.");

/** Changes each record; where it can't be changed so, nothing is. */
export function each(
  draft: Draft,
  keys: readonly string[],
  change: (record: AccountRecord) => AccountRecord | null,
): Outcome<Draft> {
  for (const key of keys) {
    const record = draft.get(key);
    if (!record) return fail("record-gone", "What you changed is no longer in the account.", "Reload and try again.");
    const changed = change(record);
    if (!changed) return fail("edit-unfit", `That can't be set on a ${kindOf(record.type).label[0]}.`);
    draft.put(changed);
  }
  return ok(draft);
}

/** Changes each campaign; what is none can't be changed so. */
export function eachCampaign(
  draft: Draft,
  keys: readonly string[],
  change: (campaign: Campaign) => Campaign,
): Outcome<Draft> {
  return each(draft, keys, (record) => (record.type === "campaign" ? change(record) : null));
}
