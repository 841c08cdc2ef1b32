import { z } from "zod";
import { BID_TOWARDS } from "../goals/click-worth";
import type { Edit } from "../account/acts";
import { flexSchema, flexWords } from "../account/records/campaign";
import { negativeSchema } from "../account/records/negative";
import { factorSchema } from "../account/acts/factors";
import { SLOT_KEYS, SLOT_LABEL } from "../kit/slots";
import { plural } from "../kit/format";

/** What can be set apart: items, campaigns, or days of the same campaigns. */
export const DESIGNS = ["items", "campaigns", "days"] as const;
export type Design = (typeof DESIGNS)[number];

/** Days of evidence that change hands: an act of the account for those that go with it, and nothing for the others. */
const schemas = {
  exclude: z.object({ kind: z.literal("exclude") }),
  "item-bid": z.object({
    kind: z.literal("item-bid"),
    percent: z
      .number()
      .min(-90)
      .max(400)
      .refine((percent) => percent !== 0, "Another bid, not the same."),
  }),
  "worth-bid": z.object({ kind: z.literal("worth-bid"), towards: z.enum(BID_TOWARDS) }),
  pause: z.object({ kind: z.literal("pause") }),
  flex: z.object({ kind: z.literal("flex"), flex: flexSchema }),
  slot: z.object({ kind: z.literal("slot"), slot: z.enum(SLOT_KEYS), factor: factorSchema }),
  budget: z.object({
    kind: z.literal("budget"),
    percent: z
      .number()
      .min(-90)
      .max(400)
      .refine((percent) => percent !== 0, "Another budget, not the same."),
  }),
  "keep-out": z.object({
    kind: z.literal("keep-out"),
    values: z
      .array(negativeSchema.pick({ what: true, match: true, value: true }))
      .min(1, "Nothing is given to keep out of.")
      .max(10_000),
  }),
} as const;

export const changeSchema = z.discriminatedUnion("kind", [
  schemas.exclude,
  schemas["item-bid"],
  schemas["worth-bid"],
  schemas.pause,
  schemas.flex,
  schemas.slot,
  schemas.budget,
  schemas["keep-out"],
]);
export type Change = z.output<typeof changeSchema>;
export type ChangeKind = Change["kind"];

/** Each change with what it is called and what it can be tried on. */
export const CHANGES: Record<ChangeKind, { label: string; designs: readonly Design[]; about: string }> = {
  exclude: {
    ...{ label: "Exclude items", designs: ["items"] },
    about: "Half of the items get no ads. Measures what their ads bring that would not have come anyway.",
  },
  "item-bid": {
    ...{ label: "Another bid for items", designs: ["items"] },
    about: "Half of the items get another bid in the home that serves them first.",
  },
  "worth-bid": {
    ...{ label: "Bids by what a click is worth", designs: ["items"] },
    about: "Half of the items get the bid that evidence says a click is worth; the others keep theirs.",
  },
  pause: {
    ...{ label: "Pause campaigns", designs: ["campaigns", "days"] },
    about: "Days without these ads tell how much would have come anyway, such as from ads for one’s own brand.",
  },
  flex: {
    ...{ label: "Another auction flex", designs: ["campaigns", "days"] },
    about: "What the channel may do to a bid, one range against the one that is set.",
  },
  slot: {
    ...{ label: "Another slot factor", designs: ["campaigns", "days"] },
    about: "A factor on bids in one slot, against the one that is set.",
  },
  budget: {
    ...{ label: "Another budget", designs: ["campaigns"] },
    about:
      "More or less money a day, against what is set. Budgets are set for a day, so days can’t be set against each other.",
  },
  "keep-out": {
    ...{ label: "Keep out of terms, listings or placements", designs: ["campaigns", "days"] },
    about: "A trial of an exclusion: half of the campaigns, or half of the days, go without.",
  },
};

/** Who goes with the change: items by their ID, or campaigns by their key. */
export interface Arm {
  items: string[];
  campaigns: string[];
}

/** Why items and places are excluded that a trial keeps out. */
const REASON = "trial";

/**
 * The acts that make a change for one arm.
 * @param reviewOn the last day of the experiment, on which what it keeps out is looked at again
 */
export function actsOf(change: Change, { items, campaigns }: Arm, reviewOn: string, name: string): Edit[] {
  switch (change.kind) {
    case "exclude":
      return [{ action: "exclude", items, reason: REASON, reviewOn, campaign: null }];
    case "item-bid":
      return [{ action: "item-bid", items, op: { how: "percent", percent: change.percent } }];
    case "worth-bid":
      return [{ action: "worth-bid", items, towards: change.towards, most: 400 }];
    case "pause":
      return [{ action: "status", keys: campaigns, status: "paused", pausedFor: `Experiment: ${name}`.slice(0, 200) }];
    case "flex":
      return [{ action: "flex", keys: campaigns, flex: change.flex }];
    case "slot":
      return [{ action: "slot-factor", keys: campaigns, slot: change.slot, factor: change.factor }];
    case "budget":
      return [{ action: "budget", keys: campaigns, op: { how: "percent", percent: change.percent } }];
    case "keep-out":
      return campaigns.map((scope) => ({
        ...{ action: "keep-out" as const, scope, values: change.values, reason: REASON, reviewOn },
      }));
  }
}

/** A change in a few words, such as “Bid −20 %”. */
export function changeInWords(change: Change): string {
  const percent = (value: number) => `${value > 0 ? "+" : "−"}${Math.abs(value)} %`;
  switch (change.kind) {
    case "exclude":
      return "No ads";
    case "item-bid":
      return `Bid ${percent(change.percent)}`;
    case "worth-bid":
      return "Bid by worth";
    case "pause":
      return "Paused";
    case "flex":
      return `Flex ${flexWords(change.flex)}`;
    case "slot":
      return `Bids × ${change.factor} in ${SLOT_LABEL[change.slot].toLowerCase()}`;
    case "budget":
      return `Budget ${percent(change.percent)}`;
    case "keep-out":
      return change.values.length === 1
        ? `Kept out of “${change.values[0]!.value}”`
        : `Kept out of ${plural(change.values.length, "place")}`;
  }
}
