import { replayNegatives } from "@/core/exclusions/replay";
import type { Negative } from "@/core/account/records/negative";
import type { AccountRecord } from "@/core/account/records";
import { touchedBy, type Diff } from "@/core/kit/diff";
import type { AdMeasure } from "@/core/kit/metrics";
import type { Database } from "@/db/client";
import { pastIndex } from "../places/term-index";
import { recentPast, type PastSource } from "../results/past-terms";

/** What new negatives would have stopped a day, mills; null where no report tells it. */
export interface StoppedADay {
  negatives: number;
  /** Terms and pages, or placements, that they stop. */
  places: number;
  days: number;
  impressions: number | null;
  cost: number | null;
  revenue: number | null;
}

/** What a basket's new negatives would have stopped, of terms and pages and of placements; null where it has none. */
export interface NegativesEffect {
  terms: StoppedADay | null;
  placements: StoppedADay | null;
}

/** Replays a basket's new negatives over the last days, as the look before keeping them does. */
export async function negativesEffect(db: Database, diff: Diff<AccountRecord>): Promise<NegativesEffect> {
  const added = touchedBy(diff).added.filter((record): record is Negative => record.type === "negative");
  return {
    terms: await stoppedADay(
      db,
      added.filter(({ what }) => what !== "placement"),
      "term",
    ),
    placements: await stoppedADay(
      db,
      added.filter(({ what }) => what === "placement"),
      "placement",
    ),
  };
}

async function stoppedADay(db: Database, negatives: Negative[], source: PastSource): Promise<StoppedADay | null> {
  const found = negatives.length > 0 ? await recentPast(db, source) : null;
  if (!found) return null;
  const { terms, impressions, cost, revenue } = replayNegatives(
    negatives,
    found.past,
    await pastIndex(db, source, found),
  );
  const aDay = (measure: AdMeasure, sum: number) => (found.missing.includes(measure) ? null : sum / found.days);
  return {
    ...{ negatives: negatives.length, places: terms, days: found.days },
    ...{ impressions: aDay("impressions", impressions), cost: aDay("cost", cost), revenue: aDay("revenue", revenue) },
  };
}
