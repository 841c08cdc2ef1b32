import { z } from "zod";
import { EXCLUSION_REASONS, keySchema, reviewOnSchema } from "@/core/account/records/basics";
import type { CampaignKind } from "@/core/account/records/campaign";
import { negativeKey, type Negative } from "@/core/account/records/negative";
import {
  negativeFault,
  replayNegatives,
  cutKeywords,
  silencedKeywords,
  stoppedTerms,
  type Replay,
  type ThoughtOf,
} from "@/core/exclusions/replay";
import { whyNotExcluded } from "@/core/dispatch/carries";
import { plainAddress } from "@/core/exclusions/placements/address";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { AdMeasure, Sums } from "@/core/kit/metrics";
import { PLACE_KINDS_TOLD } from "@/core/targets/place-kind";
import type { Database } from "@/db/client";
import { putRecords, recordsSchema } from "../account/put-records";
import { readAccount } from "../account/state";
import { carriedBy } from "../channel/carried";
import { placeTeller } from "../places/place-kinds";
import { recentPast } from "../results/past-terms";
import { pastIndex } from "../places/term-index";
import type { WorkspaceInfo } from "../workspaces";
import { loadMedia, summed } from "./placements/media";

export const negativesSchema = z.object({
  /** `told`: each value is what results, catalogue and channel say it is, a term or the page of a listing. */
  what: z.enum(["term", "listing", "placement", "told"]),
  /** What values are that nothing tells; left out, they are refused. */
  unsure: z.enum(PLACE_KINDS_TOLD).optional(),
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
  /** What no report tells: these sums are not known, though they stand as 0. */
  missing: AdMeasure[];
  /** Addresses where no ad of ours was shown. */
  unmatched: string[];
  /** Why the channel will not take some of them, and what it is called. */
  uncarried: string[];
  channel: string;
  /** Partner media as a whole over the same days, where its report tells what placements do not. */
  whole: Sums | null;
  /** Our own keywords that would never show again. */
  keywords: string[];
  /** Our own keywords that lose some of the terms they had of late, and go on with the rest. */
  cut: { keyword: string; stopped: number; of: number }[];
  /** Of those asked for, how many are kept out already. */
  known: number;
  /** Negatives for terms, and for pages of listings. */
  made: { terms: number; listings: number };
  /** Values given as terms that are known as pages of listings: a negative for a term does not stop these. */
  misread: string[];
}

async function thoughtOf(db: Database, { what, unsure, match, values, scope }: Asked): Promise<Outcome<ThoughtOf[]>> {
  const tell = what === "told" ? await placeTeller(db) : null;
  const thoughts: ThoughtOf[] = [];
  for (const given of values) {
    const value = what === "placement" ? plainAddress(given) : given.trim();
    const kind = what === "told" ? (tell!(value) ?? unsure) : what;
    if (!kind) {
      return fail(
        "place-unsure",
        `“${value}” could be a search term or the code of a listing.`,
        "Say which it is; nothing was taken in.",
      );
    }
    // Only terms are matched by words; a page or an address is itself.
    thoughts.push({ what: kind, match: kind === "term" ? match : "exact", value, scope });
  }
  return ok(thoughts);
}

/** Why some values can't be kept out; null when they can. */
function faultOf(
  negatives: ThoughtOf[],
  scope: string | null,
  exists: (key: string) => boolean,
): Outcome<never> | null {
  for (const negative of negatives) {
    const fault = negativeFault(negative);
    if (fault) return fail("negative-unfit", fault, "Nothing was taken in; leave that one out.");
  }
  if (scope !== null && !exists(scope)) {
    return fail(
      "negative-scope-gone",
      "The campaign or ad group it should hold in is not there any more.",
      "Choose another scope.",
    );
  }
  return null;
}

const NOTHING = { impressions: 0, clicks: 0, cost: 0, orders: 0, revenue: 0 };

/** What negatives would have stopped over the last days, and which of our own keywords they would silence. */
export async function previewNegatives(
  db: Database,
  info: Pick<WorkspaceInfo, "goal">,
  asked: Asked,
): Promise<Outcome<NegativesPreview>> {
  const { planned } = await readAccount(db);
  const thoughts = await thoughtOf(db, asked);
  if (!thoughts.ok) return thoughts;
  const negatives = thoughts.value;
  const fault = faultOf(negatives, asked.scope, (key) => planned.get(key) !== undefined);
  if (fault) return fault;
  const source = asked.what === "placement" ? "placement" : "term";
  const found = await recentPast(db, source);
  const index = found && (await pastIndex(db, source, found));
  const replay =
    found && index
      ? replayNegatives(negatives, found.past, index)
      : { terms: 0, ...NOTHING, others: { terms: 0, sold: 0 }, also: [] };
  const media = asked.what === "placement" ? await loadMedia(db, info) : null;
  const campaigns = new Map(planned.all("adGroup").map(({ key, campaign }) => [key, campaign]));
  const all = planned.all("keyword");
  const keywords = silencedKeywords(negatives, all, (adGroup) => campaigns.get(adGroup));
  const others = all.filter((keyword) => !keywords.includes(keyword));
  const cut = found && index ? cutKeywords(negatives, others, found.past, index) : [];
  return ok({
    ...replay,
    ...(await notCarried(db, negatives, planned.find("campaign", campaignKey(asked.scope, campaigns))?.kind)),
    days: found?.days ?? 0,
    missing: found?.missing ?? [],
    whole: media ? summed([...media.campaigns.values()].map((one) => one.media)) : null,
    unmatched:
      asked.what === "placement"
        ? negatives.filter((one) => !index || stoppedTerms(one, index).length === 0).map(({ value }) => value)
        : [],
    keywords: keywords.map(inWords),
    cut: cut.map(({ keyword, of, stopped }) => ({ keyword: inWords(keyword), of, stopped })),
    made: {
      terms: negatives.filter(({ what }) => what === "term").length,
      listings: negatives.filter(({ what }) => what === "listing").length,
    },
    misread: asked.what === "term" ? await pagesAmong(db, negatives) : [],
    known: negatives.filter((negative) => planned.get(negativeKey(negative)) !== undefined).length,
  });
}

/** The campaign of a scope, which is its key or that of an ad group in it. */
const campaignKey = (scope: string | null, campaigns: ReadonlyMap<string, string>) =>
  scope === null ? null : (campaigns.get(scope) ?? scope);

/** What the channel can't keep out where it is asked to, by its own words. */
async function notCarried(db: Database, negatives: ThoughtOf[], kind: CampaignKind | undefined) {
  const { name, carries } = await carriedBy(db);
  const whats = [...new Set(negatives.map(({ what }) => what))];
  return {
    channel: name,
    uncarried: whats.flatMap((what) => whyNotExcluded(what, kind ?? "workspace", carries) ?? []),
  };
}

const inWords = ({ text, match }: { text: string; match: string }) => `${text} (${match})`;

/** Values of terms that all the rest knows as pages of listings. */
async function pagesAmong(db: Database, negatives: ThoughtOf[]): Promise<string[]> {
  const tell = await placeTeller(db);
  return negatives.flatMap(({ value }) => (tell(value) === "listing" ? [value] : []));
}

/** Puts negatives into the basket. */
export async function keepNegatives(db: Database, who: string, version: number | null, asked: Asked, currency: string) {
  const { planned } = await readAccount(db);
  const thoughts = await thoughtOf(db, asked);
  if (!thoughts.ok) return thoughts;
  const fault = faultOf(thoughts.value, asked.scope, (key) => planned.get(key) !== undefined);
  if (fault) return fault;
  const { reason, reviewOn } = asked;
  const records = thoughts.value.map((negative): Negative => ({
    type: "negative",
    key: negativeKey(negative),
    ...negative,
    reason,
    reviewOn,
  }));
  // One value pasted twice is one negative.
  const put = [...new Map(records.map((record) => [record.key, record])).values()];
  const count = (what: Negative["what"]) => put.filter((one) => one.what === what).length;
  const counts = (["term", "listing", "placement"] as const).flatMap((what) =>
    count(what) > 0 ? [plural(count(what), what)] : [],
  );
  const told = `Kept out as ${reason}: ${counts.join(", ")}`;
  return putRecords(db, who, version, recordsSchema.parse({ put, reason: told }), currency);
}
