import { z } from "zod";
import { daySchema } from "../../kit/day-schema";
import type { Switch } from "../record-kind";

/** The key of a record. Keys of planned records come from the path of split values, never from names or order. */
export const keySchema = z.string().min(1).max(600);
/** An amount of money in mills. */
export const amountSchema = z.int().min(0).max(1_000_000_000);
/** What campaigns and groups are called. */
export const nameSchema = z.string().trim().min(1).max(200);

export const STATUSES = ["on", "paused"] as const;
export const statusSchema = z.enum(STATUSES);

/** Why something is kept out. */
export const EXCLUSION_REASONS = [
  "unsafe",
  "off-topic",
  "wasteful",
  "out of stock",
  "season over",
  "no margin",
  "trial",
] as const;
export type ExclusionReason = (typeof EXCLUSION_REASONS)[number];

/**
 * Days after which something is looked at again by why it is kept out: stock comes back in weeks, a season in months, a trial is
 * over in one; what is unsafe stays so. Null is never.
 */
export const REVIEW_AFTER: Record<ExclusionReason, number | null> = {
  unsafe: null,
  "off-topic": 180,
  wasteful: 60,
  "out of stock": 21,
  "season over": 120,
  "no margin": 30,
  trial: 28,
};
export const exclusionReasonSchema = z.enum(EXCLUSION_REASONS);

/** `YYYY-MM-DD` when to look again, or null. */
export const reviewOnSchema = daySchema.nullable();

/** Why something is paused, in a person's own words; empty where nobody said. */
export const pausedForSchema = z.string().trim().max(200);

/** Switches what is paused without a reason of its own. */
export function switchedPlain<T extends { status: "on" | "paused" }>(record: T, { status }: Switch): T {
  return { ...record, status: status === "on" ? "on" : "paused" };
}

/** Switches what keeps why it is paused and when to look again; what runs again is paused for no reason any more. */
export function switchedWithReason<T extends { status: "on" | "paused"; pausedFor?: unknown; reviewOn?: unknown }>(
  record: T,
  { status, pausedFor, reviewOn }: Switch,
): T {
  const { pausedFor: _, reviewOn: __, ...plain } = record;
  if (status === "on") return { ...plain, status: "on" } as T;
  return { ...plain, status: "paused", ...(pausedFor && { pausedFor }), ...(reviewOn && { reviewOn }) } as T;
}
