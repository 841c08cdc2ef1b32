import { z } from "zod";
import { millsToDecimal } from "../../kit/money";
import { defineKind } from "../record-kind";
import { readAmount, readStatus } from "./read-cells";
import { amountSchema, keySchema, statusSchema, switchedPlain } from "./basics";

/** Where automatic reach shows items. */
export const GROUNDS = { searches: "searches", pages: "item pages" } as const;
export type Ground = keyof typeof GROUNDS;

/** How far from the item it goes there. */
export const RINGS = {
  alike: "the item's own deepest category and words",
  beside: "what goes with it",
  around: "the department around it",
} as const;
export type Ring = keyof typeof RINGS;

export const REACHES = [
  "searches-alike",
  "searches-beside",
  "searches-around",
  "pages-alike",
  "pages-beside",
  "pages-around",
] as const satisfies `${Ground}-${Ring}`[];
export type ReachName = (typeof REACHES)[number];

/** The ground and the ring of a reach. */
export function partsOfReach(reach: ReachName): { ground: Ground; ring: Ring } {
  const [ground, ring] = reach.split("-") as [Ground, Ring];
  return { ground, ring };
}

/** A reach in words: "searches, alike". */
export function reachInWords(reach: ReachName): string {
  const { ground, ring } = partsOfReach(reach);
  return `${GROUNDS[ground]}, ${ring}`;
}

/** What reaches were called before they had grounds and rings; the others were not there. */
export const OLD_REACHES: Partial<Record<ReachName, string>> = {
  "searches-alike": "tight-terms",
  "searches-around": "wide-terms",
  "pages-alike": "rival-pages",
  "pages-beside": "companion-pages",
};

/** One automatic reach of an ad group in a discovery campaign, priced and stopped by itself. */
export const reachSchema = z.object({
  type: z.literal("reach"),
  key: keySchema,
  adGroup: keySchema,
  kind: z.enum(REACHES),
  status: statusSchema,
  /** Mills a click, or null for the ad group's bid. */
  bid: amountSchema.nullable(),
});

export type Reach = z.infer<typeof reachSchema>;

export const reachKind = defineKind<Reach>({
  schema: reachSchema,
  label: ["reach", "reaches"],
  place: 62,
  parents: ({ adGroup }) => [{ key: adGroup, types: ["adGroup"], bond: "hangs below" }],
  fields: {
    adGroup: { label: "ad group", decides: "serving" },
    kind: { label: "ground and ring", decides: "serving" },
    status: { label: "status", byHand: true, decides: "serving" },
    bid: { label: "bid", money: true, byHand: true, decides: "spending" },
  },
  name: ({ kind }) => reachInWords(kind),
  reads: { product_group_status: readStatus(), bid: readAmount("bid", true) },
  cells: ({ kind, status, bid }) => ({
    product_group: kind,
    role: "automatic",
    product_group_status: status,
    bid: bid === null ? null : millsToDecimal(bid),
  }),
  bid: ({ bid }) => bid,
  switched: switchedPlain,
  fits: ["discovery"],
});
