import type { PastTerms } from "@/core/exclusions/replay";
import { windowEnding } from "@/core/kit/days";
import type { AdMeasure } from "@/core/kit/metrics";
import type { Database } from "@/db/client";
import { remember, type Stamp } from "../read/memo";
import { loadCube } from "./cubes";
import { loadCodes, resultDays, resultsVersion } from "./load";
import { missingMeasures } from "./reported";

/** Days of results that negatives and targets are held against before they are kept. */
export const PAST_DAYS = 90;

export type PastSource = "term" | "placement";

/** The past by term or placement, how many days of it are known, and what no report tells of it. */
export interface RecentPast {
  past: PastTerms;
  days: number;
  /** Measures that stand as 0 in the past and are not known. */
  missing: AdMeasure[];
  stamp: Stamp;
}

/** Results by term or placement with the texts and keys that their codes stand for. */
export async function recentPast(db: Database, source: PastSource): Promise<RecentPast | null> {
  const span = await resultDays(db);
  if (!span) return null;
  const window = windowEnding(span.to, PAST_DAYS);
  const days = span.to - Math.max(window.from, span.from) + 1;
  const stamp = [await resultsVersion(db), source, window.from, window.to];
  const { past, missing } = await remember(
    db,
    "past terms",
    stamp,
    async (): Promise<Pick<RecentPast, "past" | "missing">> => {
      const { ads } = await loadCube(db, source, window, false);
      const { texts } = await loadCodes(db);
      const column = ads.dimensions[source]!;
      const places = new Map<number, number>();
      const labels: string[] = [];
      const term = Uint32Array.from(column, (code) => {
        let place = places.get(code);
        if (place === undefined) places.set(code, (place = labels.push(texts.get(code) ?? "") - 1));
        return place;
      });
      const names = (codes: Float64Array | undefined) =>
        Array.from({ length: ads.length }, (_, i) => (codes ? (texts.get(codes[i]!) ?? "") : ""));
      return {
        past: {
          labels,
          term,
          campaign: names(ads.dimensions.campaign),
          adGroup: names(ads.dimensions.adGroup),
          target: names(ads.dimensions.target),
          sums: ads.sums,
        },
        missing: await missingMeasures(db, source, window, ads),
      };
    },
    2,
  );
  return { past, days, missing, stamp };
}
