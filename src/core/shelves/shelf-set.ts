import { z } from "zod";
import { daySchema } from "../kit/day-schema";
import { whereSchema, fieldsIn } from "../catalogue/where";
import { HEATS, type Heat } from "../evidence/heat";
import { metricLabel, metricOfName } from "./shelf-metrics";

/**
 * Where a band is cut (`docs/formulas.md` 3):
 * - `value`: a number (money in mills);
 * - `middle`: times the median, the mean or the middle of the range of all items that have the metric;
 * - `quantile`: type 7, by count of items, or so that the shares of spend or sales below and above it are as asked;
 * - `count` and `share`: the top or bottom so many items, or that share of them, ties by item ID.
 */
export const cutSchema = z.discriminatedUnion("by", [
  z.object({ by: z.literal("value"), at: z.number().min(-1e12).max(1e12) }),
  z.object({
    by: z.literal("middle"),
    of: z.enum(["median", "mean", "range"]),
    times: z.number().positive().max(1000).default(1),
  }),
  z.object({
    by: z.literal("quantile"),
    q: z.number().min(0).max(1),
    weight: z.enum(["items", "cost", "revenue"]).default("items"),
  }),
  z.object({ by: z.literal("count"), n: z.int().min(1).max(1_000_000) }),
  z.object({ by: z.literal("share"), share: z.number().positive().max(1) }),
]);
export type Cut = z.infer<typeof cutSchema>;

const keySchema = z.string().regex(/^[a-z0-9-]{1,40}$/, "letters a to z, digits and hyphens");
const metricSchema = z.string().refine((name) => metricOfName(name) !== null, "There is no such metric.");

const baseSchema = z.object({
  key: keySchema,
  name: z.string().trim().min(1, "A shelf needs a name.").max(40),
  /** What splits and labels know it by; left out for its key. It stays when the shelf is given another name. */
  value: z.string().min(1).max(40).optional(),
  /** The step of heat that it stands for, where it stands for one. */
  heat: z.enum(HEATS).nullable().default(null),
  /** A return goal of its own. */
  goal: z.number().positive().max(1000).nullable().default(null),
  note: z.string().max(500).default(""),
  /** When to look at it again. */
  lookAgain: daySchema.nullable().default(null),
});

/** Items on one side of a cut of a metric, or all that have the metric. */
const bandSchema = baseSchema.extend({
  kind: z.literal("band"),
  metric: metricSchema,
  side: z.enum(["above", "below", "any"]),
  cut: cutSchema.nullable(),
  /** Whether only items count of which enough is known: the set's least clicks and orders. */
  evidence: z.boolean(),
});
/** Items that conditions hold for. Conditions may name fields, derived fields, metrics, notes, faults and other sets' shelves. */
const ruleSchema = baseSchema.extend({ kind: z.literal("rule"), where: whereSchema });
/** Items picked one by one; the list is kept beside the set. */
const pickSchema = baseSchema.extend({
  kind: z.literal("pick"),
  /** Whether all members of a picked item's family come along. */
  families: z.boolean().default(false),
});

export const shelfSchema = z.discriminatedUnion("kind", [bandSchema, ruleSchema, pickSchema]);
export type ShelfRule = z.infer<typeof shelfSchema>;
export type BandShelf = z.infer<typeof bandSchema>;
export type RuleShelf = z.infer<typeof ruleSchema>;
export type PickShelf = z.infer<typeof pickSchema>;

/** Shelves that a set can hold beside the last one. */
export const MOST_SHELVES = 60;

/**
 * Shelves that partition the catalogue: first match wins, the last one takes what is left. Whether an item matches a shelf
 * does not hang on the shelves before it, so their order settles only who gets what two of them claim.
 */
export const shelfSetSchema = z
  .object({
    key: keySchema,
    name: z.string().trim().min(1, "A set needs a name.").max(60),
    /** When it helps, when it hurts; what colleagues should know. */
    about: z.string().max(1000).default(""),
    windowDays: z.int().min(1).max(730),
    goal: z.number().positive().max(1000),
    /** An item is read once it has this many clicks or this many orders. */
    leastClicks: z.int().min(1).max(100_000),
    leastOrders: z.int().min(1).max(100_000),
    /** How far past a cut an item must be to change shelf at once, as a share of the cut. */
    margin: z.number().min(0).max(0.9),
    /** Or how many recomputes with new data in a row it must be on the other side. */
    patience: z.int().min(1).max(50),
    /** A recompute that would move more than this share of the items stops and asks; null lets all pass. */
    askAbove: z.number().min(0).max(1).nullable().default(null),
    shelves: z.array(shelfSchema).max(MOST_SHELVES),
    rest: baseSchema,
  })
  .superRefine(({ shelves, rest, key }, context) => {
    const issue = (message: string, at: number) =>
      context.addIssue({ code: "custom", message, path: at < shelves.length ? ["shelves", at] : ["rest"] });
    const all = [...shelves, rest];
    const seen = new Map<string, number>();
    all.forEach((shelf, at) => {
      for (const [what, text] of [
        ["key", shelf.key],
        ["name", shelf.name.toLowerCase()],
        ["value", shelf.value ?? shelf.key],
      ] as const) {
        if (seen.has(`${what} ${text}`))
          issue(`Two shelves have the ${what} "${what === "name" ? shelf.name : text}".`, at);
        seen.set(`${what} ${text}`, at);
      }
    });
    shelves.forEach((shelf, at) => {
      if (shelf.kind === "rule" && fieldsIn(shelf.where).includes(`shelf:${key}`)) {
        issue(`"${shelf.name}" asks for a shelf of its own set.`, at);
      }
      if (shelf.kind !== "band") return;
      if ((shelf.side === "any") !== (shelf.cut === null)) {
        issue(`"${shelf.name}" needs ${shelf.side === "any" ? "no cut" : "a cut"}.`, at);
      }
      if (shelf.metric === "chance" && shelf.cut?.by === "value" && (shelf.cut.at < 0 || shelf.cut.at > 1)) {
        issue("A chance lies between 0 and 1.", at);
      }
      const fault = hiddenBy(shelves, at);
      if (fault) issue(fault, at);
    });
  });

export type ShelfSet = z.infer<typeof shelfSetSchema>;

/** Why no item can ever come to a band, because an earlier one of the same metric takes all of its own. Null when some can. */
function hiddenBy(shelves: ShelfRule[], at: number): string | null {
  const band = shelves[at] as BandShelf;
  for (const earlier of shelves.slice(0, at)) {
    if (earlier.kind !== "band" || earlier.metric !== band.metric || (earlier.evidence && !band.evidence)) continue;
    const takesAll =
      earlier.side === "any" ||
      (earlier.side === band.side &&
        earlier.cut?.by === "value" &&
        band.cut?.by === "value" &&
        (band.side === "above" ? band.cut.at >= earlier.cut.at : band.cut.at <= earlier.cut.at));
    if (takesAll) {
      return `"${earlier.name}" before it takes all that "${band.name}" could hold: ${metricLabel(band.metric)} goes from the ${
        band.side === "below" ? "lowest cut to the highest" : "highest cut to the lowest"
      }.`;
    }
  }
  return null;
}

export interface Shelf {
  key: string;
  name: string;
  /** What splits and labels know it by. */
  value: string;
  heat: Heat | null;
  goal: number | null;
  note: string;
  lookAgain: string | null;
}

/** The shelves of a set in order, the one that takes what is left at the end. */
export function shelvesOf(set: ShelfSet): Shelf[] {
  return [...set.shelves, set.rest].map(({ key, name, heat, value, goal, note, lookAgain }) => ({
    ...{ key, name, heat, goal, note, lookAgain },
    value: value ?? key,
  }));
}

/** The names of all metrics and fields that a set looks at. */
export function namesIn(set: ShelfSet): string[] {
  return [
    ...new Set(
      set.shelves.flatMap((shelf) =>
        shelf.kind === "band" ? [shelf.metric] : shelf.kind === "rule" ? fieldsIn(shelf.where) : [],
      ),
    ),
  ];
}

/** The metric that a set is mostly about: that of its first band, else its first condition on a metric. */
export function mainMetric(set: ShelfSet): string | null {
  const band = set.shelves.find((shelf) => shelf.kind === "band");
  return band?.kind === "band" ? band.metric : (namesIn(set).find((name) => metricOfName(name) !== null) ?? null);
}
