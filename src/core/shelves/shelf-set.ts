import { z } from "zod";
import { DEFAULT_HEAT_RULES, HEATS, type Heat } from "../evidence/heat";

/** One tier of a set: items whose measure reaches `least`. The last tier takes what is left and has no least. */
export const tierSchema = z.object({
  key: z.string().regex(/^[a-z0-9-]{1,30}$/, "letters a to z, digits and hyphens"),
  name: z.string().trim().min(1).max(40),
  /** What splits and labels know it by; left out for its key. It stays when the shelf is given another name. */
  value: z.string().min(1).max(40).optional(),
  heat: z.enum(HEATS),
  least: z.number().min(0).max(1_000_000).nullable(),
});

/**
 * A shelf set of return tiers. `threshold` compares the return itself with `least`; `probability` compares the pooled
 * chance of reaching the goal. Items with too little evidence stand on a shelf of their own, `unread`.
 */
export const shelfSetSchema = z
  .object({
    key: z.string().regex(/^[a-z0-9-]{1,40}$/, "letters a to z, digits and hyphens"),
    name: z.string().trim().min(1).max(60),
    measure: z.enum(["threshold", "probability"]),
    windowDays: z.int().min(1).max(730),
    goal: z.number().positive().max(1000),
    /** An item is read once it has this many clicks or this many orders. */
    leastClicks: z.int().min(1).max(100_000),
    leastOrders: z.int().min(1).max(100_000),
    /** How far past a cut an item must be to change tier at once, as a share of the cut. */
    margin: z.number().min(0).max(0.9),
    /** Or how many recomputes in a row it must be on the other side. */
    patience: z.int().min(1).max(50),
    tiers: z.array(tierSchema).min(2).max(8),
  })
  .superRefine((set, context) => {
    const issue = (message: string) => context.addIssue({ code: "custom", message, path: ["tiers"] });
    const cuts = set.tiers.map((tier) => tier.least);
    if (cuts.at(-1) !== null) issue("The last tier takes what is left, so it has no least value.");
    for (let i = 0; i < cuts.length - 1; i++) {
      const cut = cuts[i];
      if (cut === null || cut === undefined) issue("Every tier but the last needs a least value.");
      else if (i > 0 && cut >= (cuts[i - 1] ?? Infinity)) issue("Tiers go from the highest cut to the lowest.");
      if (set.measure === "probability" && (cut ?? 0) > 1) issue("A chance lies between 0 and 1.");
    }
    if (new Set(set.tiers.map((tier) => tier.key)).size !== set.tiers.length) issue("Two tiers share a key.");
    if (set.tiers.some((tier) => tier.key === UNREAD_SHELF)) issue(`"${UNREAD_SHELF}" is the key of the last shelf.`);
  });

export type ShelfSet = z.infer<typeof shelfSetSchema>;

export const UNREAD_SHELF = "unread";

/** What splits and labels know the last shelf by. */
const UNREAD_VALUE = "Unread";

export interface Shelf {
  key: string;
  name: string;
  /** What splits and labels know it by. */
  value: string;
  heat: Heat;
}

/** The shelves of a set in order: its tiers, then the shelf of those with too little evidence. */
export function shelvesOf(set: ShelfSet): Shelf[] {
  return [
    ...set.tiers.map(({ key, name, heat, value }) => ({ key, name, heat, value: value ?? key })),
    { key: UNREAD_SHELF, name: "Unread", heat: "unread" as const, value: UNREAD_VALUE },
  ];
}

const STEPS = ["hot", "warm", "mild", "cool", "cold"] as const;

/** Cuts of the chance of reaching the goal: those of heat. */
const CHANCE_CUTS = [
  DEFAULT_HEAT_RULES.hot,
  DEFAULT_HEAT_RULES.warm,
  DEFAULT_HEAT_RULES.cool,
  DEFAULT_HEAT_RULES.cold,
  null,
];

/** Cuts of the return itself, as multiples of the goal. */
const RETURN_CUTS = [1.8, 1.15, 0.8, 0.4, null];

/** The cuts that a measure usually has. */
export function usualCuts(measure: ShelfSet["measure"], goal: number): (number | null)[] {
  if (measure === "probability") return CHANCE_CUTS;
  return RETURN_CUTS.map((factor) => factor && Math.round(goal * factor * 100) / 100);
}

/**
 * A set with tiers named after what they are: by chance, the words of heat, which mean just that; by the return as it was,
 * plain figures, since a high return of few clicks is not yet a hot item.
 */
export function withPlainNames(set: ShelfSet): ShelfSet {
  const tiers = set.tiers.map((tier, i) => {
    if (set.measure === "probability") return { ...tier, name: tier.heat[0]!.toUpperCase() + tier.heat.slice(1) };
    const above = set.tiers[i - 1]?.least ?? null;
    const name =
      tier.least === null
        ? `Return under ${above}`
        : above === null
          ? `Return ${tier.least} and up`
          : `Return ${tier.least} to ${above}`;
    return { ...tier, name };
  });
  return { ...set, tiers };
}

function startingSet(
  measure: ShelfSet["measure"],
  key: string,
  name: string,
  goal: number,
  windowDays: number,
): ShelfSet {
  const cuts = usualCuts(measure, goal);
  return withPlainNames({
    ...{ key, name, measure, windowDays, goal },
    ...{ leastClicks: DEFAULT_HEAT_RULES.leastClicks, leastOrders: DEFAULT_HEAT_RULES.provenOrders },
    ...{ margin: 0.1, patience: 3 },
    tiers: STEPS.map((heat, i) => ({ key: heat, name: heat, heat, least: cuts[i]! })),
  });
}

/** The key of the set that people start from. */
export const STARTING_SET = "return-by-chance";

/** Items by the chance that they truly reach the goal: the heat every other screen shows, as shelves. */
export function returnByChance(goal: number, windowDays = 90): ShelfSet {
  return startingSet("probability", STARTING_SET, "Return by chance", goal, windowDays);
}

/** Items by the return they had. */
export function returnTiers(goal: number, windowDays = 90): ShelfSet {
  return startingSet("threshold", "return-tiers", "Return as it was", goal, windowDays);
}
