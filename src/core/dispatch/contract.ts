import { z } from "zod";
import { CAMPAIGN_KINDS } from "../account/records/campaign";
import { recordSchema, RECORD_TYPES, type AccountRecord, type RecordType } from "../account/records";
import { MATCH_TYPES } from "../channel/match-types";
import { placeSchema, type Place } from "../channel/place";

/**
 * What Hot Shelf asks of a channel, whoever fulfils it: the test market, files, or a program of somebody else's over HTTP.
 * `docs/channel.md` describes it for those who write one.
 */

/** The version of this contract. */
export const CONTRACT = 1;

const recordType = z.enum(RECORD_TYPES as [RecordType, ...RecordType[]]);
const campaignKind = z.enum(CAMPAIGN_KINDS);
const count = z.int().min(0).optional();

/** What a channel can carry. What is left out is not limited. */
export const carriesSchema = z.object({
  /** Kinds of records. */
  types: z.array(recordType).optional(),
  campaignKinds: z.array(campaignKind).optional(),
  matchTypes: z.array(z.enum(MATCH_TYPES)).optional(),
  /** Fields that it has no place for, by kind of record: a value in them would not arrive. */
  without: z.partialRecord(recordType, z.array(z.string())).optional(),
  /** What can be excluded in campaigns of a kind; `workspace` for what holds everywhere. */
  exclusions: z
    .partialRecord(z.enum([...CAMPAIGN_KINDS, "workspace"]), z.array(z.enum(["item", "term", "listing", "placement"])))
    .optional(),
  /** Characters. */
  nameLength: count,
  keywordLength: count,
  keywordWords: count,
  /** How many there may be in all. */
  campaigns: count,
  adGroupsInCampaign: count,
  productGroupsInAdGroup: count,
  /** Mills. */
  lowestBid: count,
  highestBid: count,
  lowestDailyBudget: count,
  /** How much more than its daily budget a campaign may spend on a day, as a share of it. */
  overspend: z.number().min(0).max(10).optional(),
});
export type Carries = z.infer<typeof carriesSchema>;

export const aboutSchema = z.object({
  contract: z.literal(CONTRACT),
  name: z.string().min(1).max(80),
  /** Whether it tells of places, and the kinds of reports it gives. */
  tellsPlaces: z.boolean(),
  reports: z.array(z.enum(["item", "term", "slot", "hour", "placement"])),
  carries: carriesSchema,
});
export type ChannelAbout = z.infer<typeof aboutSchema>;

/** One change: from what is thought to stand, null where there is nothing, to what shall stand, null for nothing. */
export interface Change {
  key: string;
  before: AccountRecord | null;
  after: AccountRecord | null;
}

export const changeSchema = z.object({
  key: z.string().min(1),
  before: recordSchema.nullable(),
  after: recordSchema.nullable(),
});

/** Changes of one message; a larger dispatch is several, each under a key of its own. */
export const MOST_CHANGES = 2000;

export const takeSchema = z.object({
  /** The same message comes under the same key, however often it is sent. */
  key: z.string().min(1).max(200),
  changes: z.array(changeSchema).min(1).max(MOST_CHANGES),
});

/**
 * What became of one change.
 * - taken: what was meant stands now
 * - changed: something else stands now, which `stands` has
 * - refused: nothing was done; `reason` says why, and `stands` has what is there
 */
export const answerSchema = z.discriminatedUnion("state", [
  z.object({ key: z.string(), state: z.literal("taken") }),
  z.object({
    key: z.string(),
    state: z.literal("changed"),
    stands: recordSchema.nullable(),
    reason: z.string().max(500).default(""),
  }),
  z.object({
    key: z.string(),
    state: z.literal("refused"),
    stands: recordSchema.nullable(),
    reason: z.string().min(1).max(500),
  }),
]);
export type Answer = z.infer<typeof answerSchema>;

/** The answers to a message: one for each change, or null while the channel still works on it. */
export const answersSchema = z.object({ answers: z.array(answerSchema).nullable() });

/** What stands under keys that were asked for. */
export const lookSchema = z.object({ keys: z.array(z.string().min(1)).min(1).max(MOST_CHANGES) });
export const stoodSchema = z.object({
  stands: z.array(z.object({ key: z.string(), record: recordSchema.nullable() })).max(MOST_CHANGES),
});

/** A page of records, and where the next one begins; null after the last. */
export const recordPageSchema = z.object({ records: z.array(recordSchema).max(10_000), next: z.string().nullable() });
/** A page of places. */
export const placePageSchema = z.object({ places: z.array(placeSchema).max(10_000), next: z.string().nullable() });

export type RecordPage = z.infer<typeof recordPageSchema>;
export interface PlacePage {
  places: Place[];
  next: string | null;
}

/** Kinds of reports that a channel may give. */
export type ReportKind = ChannelAbout["reports"][number];

/** A channel. Whatever it can't do at the moment it throws. */
export interface Channel {
  about(): Promise<ChannelAbout>;
  /** Takes changes; answers for each, or null while it still works on them. */
  take(key: string, changes: Change[]): Promise<Answer[] | null>;
  /** What became of changes that were sent under a key; null while it still works on them, undefined where it never got them. */
  answersTo(key: string): Promise<Answer[] | null | undefined>;
  /** What stands under some keys; null where nothing does. */
  look(keys: string[]): Promise<Map<string, AccountRecord | null>>;
  /** What stands, a page a time. */
  records(after: string | null): Promise<RecordPage>;
  /** What it tells of places, a page a time. */
  places(after: string | null): Promise<PlacePage>;
  /** A report of some days as CSV with the headings of `docs/channel.md`, a line at a time or in larger pieces. */
  report(kind: ReportKind, from: string, to: string): AsyncIterable<Uint8Array>;
}
