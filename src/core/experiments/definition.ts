import { z } from "zod";
import { keySchema } from "../account/records/basics";
import { changeSchema, CHANGES, DESIGNS } from "./changes";
import { FORTNIGHT } from "./day-plan";
import { MEASURE_KEYS, MEASURES } from "./measures";

/** What goes into one arm together, where items are set apart. */
export const TOGETHER = ["item", "family", "category"] as const;
export type Together = (typeof TOGETHER)[number];

export const TOGETHER_LABEL: Record<Together, string> = {
  item: "each item by itself",
  family: "families",
  category: "deepest categories",
};

/** The shortest and the longest plan, days. */
export const LEAST_DAYS = 7;
export const MOST_DAYS = 182;

/** Which items are set apart: named ones, those that one campaign serves first, or all that had clicks. */
const itemsSchema = z.discriminatedUnion("by", [
  z.object({
    by: z.literal("ids"),
    ids: z.array(z.string().min(1).max(500)).min(1, "No item is given.").max(100_000),
  }),
  z.object({ by: z.literal("campaign"), campaign: keySchema }),
  z.object({ by: z.literal("all") }),
]);

/** What somebody wants to find out, and how. */
export const definitionSchema = z
  .object({
    name: z.string().trim().min(1, "It needs a name.").max(80),
    /** What is thought, in one's own words: what the verdict is about. */
    hypothesis: z.string().trim().max(400).default(""),
    design: z.enum(DESIGNS),
    change: changeSchema,
    /** Of an experiment with items. */
    items: itemsSchema.default({ by: "all" }),
    together: z.enum(TOGETHER).default("family"),
    /** Keys of the campaigns that are set apart, or of those that change on some days; empty for items. */
    campaigns: z.array(keySchema).max(5_000).default([]),
    measure: z.enum(MEASURE_KEYS),
    /** The least effect a day on the arm with the change that matters: mills, or a count. */
    least: z.number().positive("The least effect that matters is more than nothing.").max(1_000_000_000),
    days: z.int("A whole number of days.").min(LEAST_DAYS).max(MOST_DAYS),
    /** Whether it is taken back by itself once harm is sure enough. */
    stopsForHarm: z.boolean().default(true),
  })
  .superRefine((asked, context) => {
    const wrong = (path: string, message: string) => context.addIssue({ code: "custom", path: [path], message });
    if (!CHANGES[asked.change.kind].designs.includes(asked.design)) {
      wrong("design", `“${CHANGES[asked.change.kind].label}” can’t be tried by ${asked.design}.`);
    }
    if (asked.design !== "items" && asked.campaigns.length === 0) wrong("campaigns", "Choose campaigns.");
    if (asked.design === "days" && asked.days % FORTNIGHT !== 0) {
      wrong("days", "Days are paired by weekday in fortnights: 14, 28, 42 and so on.");
    }
    if (asked.design === "campaigns" && MEASURES[asked.measure].isOfStore) {
      wrong("measure", "What the shop sells in all is told by item and not by campaign: choose a measure of ads.");
    }
  });

export type Definition = z.output<typeof definitionSchema>;
