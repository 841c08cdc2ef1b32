import { z } from "zod";
import { sameValue } from "../../kit/diff";
import type { RecordField, RecordKind } from "../record-kind";
import { adKind, adSchema } from "./ad";
import { adGroupKind, adGroupSchema } from "./ad-group";
import { assetsKind, assetsSchema } from "./assets";
import { campaignKind, campaignSchema } from "./campaign";
import { dayCapKind, dayCapSchema } from "./day-cap";
import { exclusionKind, exclusionSchema } from "./exclusion";
import { keywordKind, keywordSchema } from "./keyword";
import { labelsKind, labelsSchema } from "./labels";
import { listingTargetKind, listingTargetSchema } from "./listing-target";
import { negativeKind, negativeSchema } from "./negative";
import { poolKind, poolSchema } from "./pool";
import { productGroupKind, productGroupSchema } from "./product-group";
import { reachKind, reachSchema } from "./reach";

/** Every kind of record by its type. */
export const RECORD_KINDS = {
  campaign: campaignKind,
  pool: poolKind,
  dayCap: dayCapKind,
  adGroup: adGroupKind,
  assets: assetsKind,
  ad: adKind,
  exclusion: exclusionKind,
  negative: negativeKind,
  keyword: keywordKind,
  listingTarget: listingTargetKind,
  reach: reachKind,
  labels: labelsKind,
  productGroup: productGroupKind,
} as const;

export const recordSchema = z.discriminatedUnion("type", [
  campaignSchema,
  adGroupSchema,
  assetsSchema,
  adSchema,
  productGroupSchema,
  exclusionSchema,
  labelsSchema,
  keywordSchema,
  listingTargetSchema,
  reachSchema,
  negativeSchema,
  poolSchema,
  dayCapSchema,
]);

/** One record of an account, of any kind. */
export type AccountRecord = z.infer<typeof recordSchema>;
export type RecordType = AccountRecord["type"];
/** A record of one type. */
export type RecordOf<T extends RecordType> = Extract<AccountRecord, { type: T }>;

/** What is known of a record's kind. Each kind only ever sees records of its own. */
export function kindOf(type: RecordType): RecordKind<AccountRecord> {
  return RECORD_KINDS[type] as unknown as RecordKind<AccountRecord>;
}

/** What is known of a field of a record; undefined for one that its kind does not have. */
export function fieldOf(type: RecordType, field: string): RecordField | undefined {
  return (kindOf(type).fields as Record<string, RecordField | undefined>)[field];
}

/** Fields that people set by hand on what a planogram made, whether a record has them or not. */
export function fieldsByHand(type: RecordType): string[] {
  return Object.entries(kindOf(type).fields as Record<string, RecordField>).flatMap(([name, { byHand }]) =>
    byHand ? [name] : [],
  );
}

/** Fields that differ between two states of a record; all that either has where the other is another type. */
export function changedFields(from: AccountRecord, to: AccountRecord): string[] {
  return [...new Set([...Object.keys(from), ...Object.keys(to)])].filter(
    (field) => !sameValue(from[field as keyof AccountRecord], to[field as keyof AccountRecord]),
  );
}

/** Types in the order of their place in lists. */
export const RECORD_TYPES = (Object.keys(RECORD_KINDS) as RecordType[]).sort(
  (a, b) => kindOf(a).place - kindOf(b).place,
);

/** Types of what an ad group aims at. */
export const TARGET_TYPES = ["keyword", "listingTarget", "reach"] as const;
/** What an ad group aims at, beside the items it shows. */
export type Target = RecordOf<(typeof TARGET_TYPES)[number]>;
