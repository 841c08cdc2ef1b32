import { formatShare } from "@/core/kit/format";
import type { Stage } from "@/server/experiments/running";
import type { ExperimentLine } from "@/server/experiments/experiments";

export const STAGE_LABEL: Record<Stage, string> = {
  waiting: "in the basket",
  dropped: "never sent",
  running: "running",
  over: "days are over",
  ended: "ended",
};

/** How far it has come, in a few words. */
export function stageInWords({
  stage,
  days,
  definition,
  ended,
}: Pick<ExperimentLine, "stage" | "days" | "definition" | "ended">) {
  if (stage === "running") return `day ${days} of ${definition.days}`;
  if (stage === "ended") return `ended: ${ended?.how === "harm" ? "stopped for harm" : (ended?.how ?? "taken back")}`;
  return STAGE_LABEL[stage];
}

export const DESIGN_LABEL = {
  items: "Items set apart",
  campaigns: "Campaigns set apart",
  days: "Days set apart",
} as const;

/** A chance in percent; what is all but sure is not said to be. */
export function chanceInWords(chance: number): string {
  if (chance < 0.001) return "under 0.1 %";
  return chance > 0.999 ? "over 99.9 %" : formatShare(chance);
}

export const APART_LABEL = { items: "items", campaigns: "campaigns", days: "days" } as const;
