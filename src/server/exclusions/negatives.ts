import { z } from "zod";
import { EXCLUSION_REASONS, keySchema, reviewOnSchema } from "@/core/account/records/basics";
import { negativeKey, type Negative } from "@/core/account/records/negative";
import {
  negativeFault,
  plainAddress,
  replayNegatives,
  stoppedKeywords,
  type Replay,
  type ThoughtOf,
} from "@/core/exclusions/replay";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { putRecords, recordsSchema } from "../account/put-records";
import { readAccount } from "../account/state";
import { pastIndex, recentPast } from "../results/past-terms";

export const negativesSchema = z.object({
  what: z.enum(["term", "listing", "placement"]),
  match: z.enum(["exact", "phrase"]).default("exact"),
  values: z.array(z.string().min(1).max(300)).min(1, "Nothing is chosen.").max(10_000),
  /** Key of a campaign or ad group; null is everywhere. */
  scope: keySchema.nullable().default(null),
  reason: z.enum(EXCLUSION_REASONS).default("wasteful"),
  reviewOn: reviewOnSchema.default(null),
});
type Asked = z.output<typeof negativesSchema>;

export interface NegativesPreview extends Replay {
  days: number;
  /** Our own keywords that would never show again. */
  keywords: string[];
  /** Of those asked for, how many are kept out already. */
  known: number;
}

function thoughtOf({ what, match, values, scope }: Asked): ThoughtOf[] {
  // Only terms are matched by words; a page or an address is itself.
  return values.map((value) => ({
    what,
    match: what === "term" ? match : "exact",
    value: what === "placement" ? plainAddress(value) : value.trim(),
    scope,
  }));
}

/** Why some values can't be kept out; null when they can. */
function faultOf(asked: Asked, exists: (key: string) => boolean): Outcome<never> | null {
  for (const negative of thoughtOf(asked)) {
    const fault = negativeFault(negative);
    if (fault) return fail("negative-unfit", fault, "Nothing was taken in; leave that one out.");
  }
  if (asked.scope !== null && !exists(asked.scope)) {
    return fail(
      "negative-scope-gone",
      "The campaign or ad group it should hold in is not there any more.",
      "Choose another scope.",
    );
  }
  return null;
}

/** What negatives would have stopped over the last days, and which of our own keywords they would silence. */
export async function previewNegatives(db: Database, asked: Asked): Promise<Outcome<NegativesPreview>> {
  const { planned } = await readAccount(db);
  const fault = faultOf(asked, (key) => planned.get(key) !== undefined);
  if (fault) return fault;
  const negatives = thoughtOf(asked);
  const source = asked.what === "placement" ? "placement" : "term";
  const found = await recentPast(db, source);
  const index = found && (await pastIndex(db, source, found));
  const replay =
    found && index
      ? replayNegatives(negatives, found.past, index)
      : { terms: 0, clicks: 0, cost: 0, orders: 0, revenue: 0, others: { terms: 0, sold: 0 }, also: [] };
  const campaigns = new Map(planned.all("adGroup").map(({ key, campaign }) => [key, campaign]));
  const keywords = stoppedKeywords(negatives, planned.all("keyword"), (adGroup) => campaigns.get(adGroup));
  return ok({
    ...replay,
    days: found?.days ?? 0,
    keywords: keywords.map(({ text, match }) => `${text} (${match})`),
    known: negatives.filter((negative) => planned.get(negativeKey(negative)) !== undefined).length,
  });
}

/** Puts negatives into the basket. */
export async function keepNegatives(db: Database, who: string, version: number | null, asked: Asked, currency: string) {
  const { planned } = await readAccount(db);
  const fault = faultOf(asked, (key) => planned.get(key) !== undefined);
  if (fault) return fault;
  const { reason, reviewOn } = asked;
  const records = thoughtOf(asked).map((negative): Negative => ({
    type: "negative",
    key: negativeKey(negative),
    ...negative,
    reason,
    reviewOn,
  }));
  // One value pasted twice is one negative.
  const put = [...new Map(records.map((record) => [record.key, record])).values()];
  const told = `Kept out as ${reason}: ${plural(put.length, asked.what)}`;
  return putRecords(db, who, version, recordsSchema.parse({ put, reason: told }), currency);
}
