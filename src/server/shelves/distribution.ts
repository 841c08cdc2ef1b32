import { z } from "zod";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { bandInputs, readDegrees } from "@/core/shelves/assign";
import { histogram, type Histogram } from "@/core/shelves/histogram";
import { blankSet } from "@/core/shelves/ready-made";
import { metricOfName } from "@/core/shelves/shelf-metrics";
import type { BandShelf } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { loadShelfInputs, windowOf } from "./inputs";

export const distributionSchema = z.object({
  metric: z.string().max(60),
  windowDays: z.int().min(1).max(730),
  goal: z.number().positive().max(1000),
  /** Only items of which enough is known. */
  evidence: z.boolean(),
  leastClicks: z.int().min(1).max(100_000),
  leastOrders: z.int().min(1).max(100_000),
});

/** How the items are spread over a metric, for cuts to be drawn on. */
export async function distribution(
  db: Database,
  asked: z.infer<typeof distributionSchema>,
): Promise<Outcome<Histogram>> {
  const { metric, evidence, ...rules } = asked;
  if (!metricOfName(metric)) return fail("metric-unknown", `There is no metric "${metric}".`);
  const band: BandShelf = {
    ...{ kind: "band", key: "all", name: "All", metric, side: "any", cut: null, evidence },
    ...{ heat: null, goal: null, note: "", lookAgain: null },
  };
  const set = { ...blankSet("distribution", "Distribution", rules.goal, [band]), ...rules };
  const inputs = await loadShelfInputs(db, set, await windowOf(db, set));
  const { values, cost } = bandInputs(band, readDegrees(set, inputs), inputs);
  return ok(histogram(values, cost));
}
