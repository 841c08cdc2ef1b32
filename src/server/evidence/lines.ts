import { linesEvidence, type LineEvidence } from "@/core/evidence/lines";
import type { Told } from "@/core/results/told";
import type { Database } from "@/db/client";
import { remember, type Stamp } from "../read/memo";

/** What is known of the return of lines of results, by what each tells. */
export interface EvidenceOfLines {
  chance: (told: Told) => number | null;
  of: (told: Told) => LineEvidence | null;
}

/** Tables whose evidence is kept beside each other. */
const MOST_EVIDENCE = 6;

/**
 * The evidence of lines of results: the one way from rows to what they say, asked by every screen and judgement.
 * @param all every line of the level in the window, so that a line says the same in a narrower view
 * @param stamp keeps it as long as they; null where they are not kept
 */
export async function loadLinesEvidence(
  db: Database,
  stamp: Stamp | null,
  all: Told[],
  goal: number,
): Promise<EvidenceOfLines> {
  const make = () => linesEvidence(all, goal);
  return stamp ? remember(db, "evidence of lines", [...stamp, goal], make, MOST_EVIDENCE) : make();
}
