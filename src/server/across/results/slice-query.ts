import { z } from "zod";
import { daySchema } from "@/core/kit/day-schema";
import { parseDay, windowBefore, yearBefore, type Window } from "@/core/kit/days";
import { METRIC_KEYS, type MetricKey } from "@/core/kit/metrics";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { isLevel, type Level } from "@/core/results/levels";
import { STARTING_SET } from "@/core/shelves/ready-made";
import type { Database } from "@/db/client";
import { resultDays } from "../../results/load";
import { windowOfDays, windowSchema } from "../../results/window";

const levelSchema = z
  .string()
  .max(220)
  .refine(isLevel, "a level of results, or field: and a column") as z.ZodType<Level>;

/** Only lines whose metric is at least or at most so much: money in mills, shares as parts of one. */
const whereSchema = z
  .string()
  .max(2000)
  .default("[]")
  .transform((text, context): { metric: MetricKey; op: "least" | "most"; value: number }[] => {
    try {
      return z
        .array(z.object({ metric: z.enum(METRIC_KEYS), op: z.enum(["least", "most"]), value: z.number() }))
        .max(8)
        .parse(JSON.parse(text));
    } catch {
      context.addIssue({
        code: "custom",
        message: "where must be JSON: a list of { metric, op: least or most, value }",
      });
      return z.NEVER;
    }
  });

/** Only the lines of one thing of a level. */
const withinSchema = z
  .string()
  .max(5000)
  .default("[]")
  .transform((text, context): { level: Level; key: string }[] => {
    try {
      return z
        .array(z.object({ level: levelSchema, key: z.string().max(700) }))
        .max(6)
        .parse(JSON.parse(text));
    } catch {
      context.addIssue({ code: "custom", message: "within must be JSON: a list of { level, key }" });
      return z.NEVER;
    }
  });

export const sliceSchema = z.object({
  level: levelSchema.default("campaign"),
  /** A second level by which each line is divided. */
  split: levelSchema.or(z.literal("")).default(""),
  days: windowSchema,
  /** First and last day instead of a number of days. */
  from: daySchema.optional(),
  to: daySchema.optional(),
  /** What the window is compared with: the days before, the same days a year ago, a range of its own, or nothing. */
  compare: z.enum(["before", "year", "range", "none"]).default("before"),
  compareFrom: daySchema.optional(),
  compareTo: daySchema.optional(),
  within: withinSchema,
  /** The shelf set for level `shelf`. */
  set: z.string().max(60).default(STARTING_SET),
  /** Found in names and keys. */
  q: z.string().max(200).default(""),
  where: whereSchema,
  sort: z.string().max(60).default("-cost"),
  /** Whether orders that will still come are counted in. */
  complete: z.stringbool().default(false),
  limit: z.coerce.number().int().min(1).max(100_000).default(500),
  cursor: z.coerce.number().int().min(0).default(0),
});

export type SliceQuery = z.output<typeof sliceSchema>;

/** The window a query asks for. */
export async function windowOf(db: Database, query: SliceQuery): Promise<Outcome<Window>> {
  if (!query.from && !query.to) return ok(await windowOfDays(db, query.days));
  const span = await resultDays(db);
  const from = query.from ? parseDay(query.from) : (span?.from ?? 0);
  const to = query.to ? parseDay(query.to) : (span?.to ?? 0);
  return asWindow(from, to, "The last day lies before the first.");
}

/** Longest window, days: ten years. */
const MOST_DAYS = 3660;

function asWindow(from: number, to: number, reversed: string): Outcome<Window> {
  if (to < from) return fail("days-reversed", reversed);
  if (to - from >= MOST_DAYS) return fail("days-many", "A window can be at most ten years long.");
  return ok({ from, to });
}

/** The window compared with. */
export function comparedWith(query: SliceQuery, window: Window): Outcome<Window | null> {
  if (query.compare === "none") return ok(null);
  if (query.compare === "before") return ok(windowBefore(window));
  if (query.compare === "year") {
    return ok({ from: yearBefore(window.from), to: yearBefore(window.to) });
  }
  if (!query.compareFrom || !query.compareTo) return fail("compare-range", "Say from and to which day to compare.");
  return asWindow(
    parseDay(query.compareFrom),
    parseDay(query.compareTo),
    "The last day compared lies before the first.",
  );
}
