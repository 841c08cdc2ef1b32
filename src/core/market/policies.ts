import { Account, type Structure } from "../account/account";
import { recordSchema } from "../account/records";
import type { Columns } from "../kit/columns";
import type { Day } from "../kit/days";
import { SLOT_KEYS, type SlotKey } from "../kit/slots";
import { keptValue } from "./bought-instead";
import { contributionParts, daysWithoutAds, truthOfAccount } from "./judge";
import { planAccount } from "./running-account";
import { testCampaign } from "./test-shop";
import { warmState } from "./warm-state";
import type { QueryClass, World } from "./world-types";

/*
 * A grid of ways to run one account, whatever the world: how high to bid for what a click on an item is worth, at which
 * hours and in which slots more or less, which searches to leave to others. What is best differs between worlds, or the
 * market would teach nothing but its one answer.
 */

/** Bids over the contribution of a click. */
const LEVELS = { low: 0.35, middling: 0.7, full: 1, high: 1.4, highest: 2 } as const;

const HOURS = {
  "all day": null,
  evening: (hour: number) => (hour >= 17 && hour < 23 ? 1.35 : 0.7),
  morning: (hour: number) => (hour >= 5 && hour < 13 ? 1.35 : 0.7),
} as const;

const PLACES: Record<string, Partial<Record<SlotKey, number>>> = {
  everywhere: {},
  results: { "item-pages": 0.3, "partner-media": 0.2 },
  "below and beside": { "lead-row": 0.6, "item-pages": 1.4, "partner-media": 1.5 },
};

const LEFT_OUT: Record<string, QueryClass[]> = {
  nothing: [],
  "own brand": ["own-brand", "off-topic"],
  "wide terms": ["broad", "bargain", "rival-brand", "how-to", "off-topic"],
};

/** One way of the grid. */
export interface Policy {
  level: keyof typeof LEVELS;
  hours: keyof typeof HOURS;
  places: string;
  leftOut: string;
}

/** Every way of the grid, in an order that stays. */
export const POLICIES: Policy[] = (Object.keys(LEVELS) as Policy["level"][]).flatMap((level) =>
  (Object.keys(HOURS) as Policy["hours"][]).flatMap((hours) =>
    Object.keys(PLACES).flatMap((places) =>
      Object.keys(LEFT_OUT).map((leftOut) => ({ level, hours, places, leftOut })),
    ),
  ),
);

export const policyName = ({ level, hours, places, leftOut }: Policy) =>
  `${level} bids, ${hours}, ${places}, ${leftOut} left out`;

/** What a policy comes to in a world, over the days that were asked. */
export interface PolicyResult {
  policy: Policy;
  /** Mills: sales added × margin − cost, and what of it is rivals kept off own pages. */
  contribution: number;
  held: number;
  cost: number;
  revenue: number;
}

/** Runs every policy of the grid in a world, without noise, with the money that its nature gives. */
export function runPolicies(
  world: World,
  catalogue: Columns,
  margins: Float64Array,
  from: Day,
  to: Day,
  policies: readonly Policy[] = POLICIES,
): PolicyResult[] {
  const without = daysWithoutAds(world, catalogue, from, to);
  const run = (policy: Policy, budget: number): PolicyResult => {
    const account = planAccount(world, accountOf(world, catalogue, margins, policy, budget), catalogue);
    const { days } = truthOfAccount(world, account, from, to, warmState(world, account, from));
    const { total, held } = contributionParts(world, days, without, margins);
    const sum = (key: "cost" | "revenue") => days.reduce((whole, day) => whole + day[key], 0);
    return { policy, contribution: total, held, cost: sum("cost"), revenue: sum("revenue") };
  };
  const free = run({ level: "full", hours: "all day", places: "everywhere", leftOut: "nothing" }, NO_LIMIT);
  const budget = Math.round((world.nature.money * free.cost) / (to - from + 1));
  return policies.map((policy) => run(policy, budget));
}

const NO_LIMIT = 1_000_000_000;

function accountOf(
  world: World,
  catalogue: Columns,
  margins: Float64Array,
  { level, hours, places, leftOut }: Policy,
  dailyBudget: number,
): Account {
  const id = catalogue.columns["id"];
  if (id?.kind !== "text") throw new Error("A shop without IDs has no items to bid for.");
  const ids = Array.from(id.codes, (code) => id.values[code]!);
  const rowOf = new Map(ids.map((name, row) => [name, row]));
  const slots = Object.fromEntries(SLOT_KEYS.map((slot) => [slot, PLACES[places]![slot] ?? 1])) as Record<
    SlotKey,
    number
  >;
  const course = HOURS[hours];
  const byHour = course ? { hours: Array.from({ length: 24 }, (_, hour) => course(hour)) } : {};
  const structure: Structure = { ...testCampaign("policy", { dailyBudget, slots, ...byHour }, ids, 0) };
  for (const [key, record] of Object.entries(structure)) {
    if (record.type !== "productGroup" || record.role !== "unit") continue;
    const row = rowOf.get(record.value!)!;
    const worth = world.truth.inStock[row]! * world.truth.cvr[row]! * keptValue(world, row, margins);
    structure[key] = { ...record, bid: Math.max(0, Math.round(LEVELS[level] * worth)) };
  }
  for (const { label, queryClass } of world.surfaces) {
    if (!queryClass || !LEFT_OUT[leftOut]!.includes(queryClass)) continue;
    const key = `not/${label}`;
    structure[key] = recordSchema.parse({
      ...{ type: "negative", key, scope: "policy", what: "term", match: "exact", value: label, reason: "wasteful" },
    });
  }
  return Account.fromStructure(structure);
}

/** What is lost by running each world on what is best in another: 1 − its contribution there ÷ that world's best. */
export function lossesOfStrangers(worlds: readonly PolicyResult[][]): number[] {
  const bestAt = (results: readonly PolicyResult[]) =>
    results.reduce((best, { contribution }, i) => (contribution > results[best]!.contribution ? i : best), 0);
  return worlds.flatMap((own) =>
    worlds
      .filter((other) => other !== own)
      .map((other) => 1 - own[bestAt(other)]!.contribution / own[bestAt(own)]!.contribution),
  );
}
