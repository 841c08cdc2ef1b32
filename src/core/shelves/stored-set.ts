import { shelfSetSchema, type ShelfRule, type ShelfSet } from "./shelf-set";
import type { Heat } from "../evidence/heat";

/** A set as it was kept before shelves of several kinds could stand in one: tiers of one measure, and the unread. */
interface TierSet {
  key: string;
  name: string;
  measure: "threshold" | "probability";
  windowDays: number;
  goal: number;
  leastClicks: number;
  leastOrders: number;
  margin: number;
  patience: number;
  tiers: { key: string; name: string; value?: string; heat: Heat; least: number | null }[];
}

/** A set from what a database holds, also one of an earlier release. */
export function storedSet(stored: unknown): ShelfSet {
  if (typeof stored === "object" && stored !== null && "tiers" in stored)
    return shelfSetSchema.parse(fromTiers(stored as TierSet));
  return stored as ShelfSet;
}

function fromTiers({ measure, tiers, ...set }: TierSet): unknown {
  const isChance = measure === "probability";
  const shelves = tiers.map(
    ({ key, name, value, heat, least }): Omit<ShelfRule, never> =>
      ({
        ...{ key, name, value, heat: isChance ? heat : null, goal: null, note: "", lookAgain: null },
        ...{ kind: "band", metric: isChance ? "chance" : "roas", evidence: true },
        ...(least === null ? { side: "any", cut: null } : { side: "above", cut: { by: "value", at: least } }),
      }) as ShelfRule,
  );
  return { ...set, shelves, rest: { key: "unread", name: "Unread", value: "Unread", heat: "unread" } };
}
