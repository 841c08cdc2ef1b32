import { pairUnits } from "@/core/experiments/matching";
import type { Definition } from "@/core/experiments/definition";
import { MEASURES } from "@/core/experiments/measures";
import { LEAST_PAST, noiseOfDays, noiseOfPairs, playedDays, type Noise } from "@/core/experiments/noise";
import { meansOf, type Series } from "@/core/experiments/series";
import { planDays } from "@/core/experiments/day-plan";
import { isHomeKind } from "@/core/account/homes";
import type { Account } from "@/core/account/account";
import { asText, cellText } from "@/core/kit/columns";
import type { Window } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { randomFrom } from "@/core/kit/random";
import type { Database } from "@/db/client";
import type { Arms } from "@/db/schema/experiments";
import { walkAccount } from "../account/serving";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { loadSeries, marginsByItem, type Units } from "./series";

/** Days before an experiment by which its arms are matched. */
const BEFORE_DAYS = 84;
/** Pairs without which nothing is begun: their spread among each other is all that tells luck from effect. */
const LEAST_PAIRS = 6;

/** Arms that are matched, with what the past says of how far they stray. */
export interface Matched {
  arms: Arms;
  noise: Noise;
  before: Window;
  /** Keys of campaigns that it takes place in. */
  campaigns: string[];
  pairs: number;
  left: {
    /** Units without a click in the days before, an odd one, and IDs that no item has. */
    quiet: number;
    odd: number;
    unknown: string[];
    /** Items that the measure can't speak of, since their margin is not known. */
    noMargin: number;
  };
}

/** The days by which arms are matched: what is known before a day, not more than twelve weeks. */
function daysBefore(span: Window): Window {
  return { from: Math.max(span.from, span.to - BEFORE_DAYS + 1), to: span.to };
}

/** Puts what an experiment is about into pairs, and has a coin say who goes with the change. */
export async function matchArms(
  db: Database,
  definition: Definition,
  seed: string,
  account: Account,
  span: Window,
): Promise<Outcome<Matched>> {
  const before = daysBefore(span);
  if (before.to - before.from + 1 < LEAST_PAST) {
    return fail(
      "experiment-young",
      `An experiment is planned by the past, and there are only ${before.to - before.from + 1} days of results.`,
      `Come back once there are ${LEAST_PAST}.`,
    );
  }
  for (const key of definition.campaigns) {
    if (!account.find("campaign", key)) return fail("experiment-campaign", `There is no campaign “${key}” any more.`);
  }
  switch (definition.design) {
    case "days":
      return matchDays(db, definition, seed, before);
    case "campaigns":
      return matchCampaigns(db, definition, seed, before);
    case "items":
      return matchItems(db, definition, seed, account, before);
  }
}

async function matchDays(
  db: Database,
  { campaigns, measure, days }: Definition,
  seed: string,
  before: Window,
): Promise<Outcome<Matched>> {
  const series = await loadSeries(db, "all", { of: "all" }, measure, before);
  const noise = noiseOfDays(series.values);
  if (!noise) return fail("experiment-young", "There are too few days of results to tell how far days stray.");
  const on = planDays(days, seed);
  const left = { quiet: 0, odd: 0, unknown: [], noMargin: 0 };
  return ok({ arms: { of: "days", on }, noise, before, campaigns, pairs: days / 2, left });
}

async function matchCampaigns(
  db: Database,
  { campaigns, measure }: Definition,
  seed: string,
  before: Window,
): Promise<Outcome<Matched>> {
  const clicks = await loadSeries(db, campaigns.join(), { of: "campaigns", keys: campaigns }, "clicks", before);
  const had = meansOf(clicks, 0, clicks.days);
  const keys = campaigns.filter((_, unit) => had[unit]! > 0);
  const found = await pairUp(db, { of: "campaigns", keys }, keys.join(), measure, seed, before, () => null);
  if (!found.ok) return found;
  const { pairs, noise } = found.value;
  return ok({
    arms: {
      of: "campaigns",
      with: Array.from(pairs.with, (unit) => keys[unit]!),
      without: Array.from(pairs.without, (unit) => keys[unit]!),
    },
    ...{ noise, before, campaigns, pairs: pairs.with.length },
    left: { quiet: campaigns.length - keys.length, odd: pairs.left.length, unknown: [], noMargin: 0 },
  });
}

async function matchItems(
  db: Database,
  definition: Definition,
  seed: string,
  account: Account,
  before: Window,
): Promise<Outcome<Matched>> {
  const { measure } = definition;
  const { rows, unknown, campaigns } = await rowsAsked(db, definition, account);
  const { columns } = await loadCatalogue(db, ["family", "category", "price"]);
  const [numbers, prices] = [columns["itemNo"], columns["price"]];
  if (numbers?.kind !== "number" || rows.length === 0) {
    return fail("experiment-items", "None of these items is in the catalogue.", "Choose others.");
  }
  const margins = MEASURES[measure].needsMargin ? await marginsByItem(db) : null;
  const told = margins ? rows.filter((row) => margins.has(numbers.values[row]!)) : rows;
  const column = definition.together === "item" ? null : columns[definition.together];
  const names = column ? asText(column) : null;
  const byName = new Map<string, number[]>();
  for (const row of told) {
    const name = (names && cellText(names, row)) || `\u001f${row}`;
    byName.set(name, [...(byName.get(name) ?? []), row]);
  }
  const all = [...byName.values()];
  const numbersOf = (list: number[]) => list.map((row) => numbers.values[row]!);
  const name = (list: number[][]) => `${definition.together}/${list.map((rowsOf) => rowsOf.join("+")).join()}`;
  const clicks = await loadSeries(db, name(all), { of: "items", lists: all.map(numbersOf) }, "clicks", before);
  const had = meansOf(clicks, 0, clicks.days);
  const units = all.filter((_, unit) => had[unit]! > 0);
  const lists = units.map(numbersOf);
  const priceOf = (unit: number) => {
    const known = units[unit]!.flatMap((row) =>
      prices?.kind === "number" && !Number.isNaN(prices.values[row]!) ? prices.values[row]! : [],
    );
    return known.reduce((sum, price) => sum + price, 0) / Math.max(1, known.length);
  };
  const found = await pairUp(db, { of: "items", lists }, name(units), measure, seed, before, priceOf);
  if (!found.ok) return found;
  const { pairs, noise } = found.value;
  const arm = (of: Uint32Array) => Array.from(of, (unit) => lists[unit]!);
  const arms = { of: "items" as const, with: arm(pairs.with), without: arm(pairs.without) };
  return ok({
    ...{ arms, noise, before, campaigns, pairs: pairs.with.length },
    left: {
      ...{ quiet: all.length - units.length, odd: pairs.left.length, unknown },
      noMargin: rows.length - told.length,
    },
  });
}

/** Rows of the items that are asked for, and the campaigns that serve them first. */
async function rowsAsked(db: Database, { items }: Definition, account: Account) {
  const byId = await rowsById(db);
  const { serving, first } = await walkAccount(db, account);
  const homeOf = (row: number) => serving[first[row] ?? -1];
  const unknown: string[] = [];
  let rows: number[];
  if (items.by === "ids") {
    rows = [...new Set(items.ids)].flatMap((id) => {
      const row = byId.get(id);
      if (row === undefined) unknown.push(id);
      return row ?? [];
    });
  } else {
    const isAsked = (row: number) => {
      const home = homeOf(row);
      return (
        home !== undefined &&
        isHomeKind(home.campaign.kind) &&
        (items.by === "all" || home.campaign.key === items.campaign)
      );
    };
    rows = [...byId.values()].filter(isAsked);
  }
  const campaigns = [...new Set(rows.flatMap((row) => homeOf(row)?.campaign.key ?? []))];
  return { rows, unknown, campaigns };
}

/** Pairs of units by what they were before, and the noise of pairs that are made as these are. */
async function pairUp(
  db: Database,
  units: Exclude<Units, { of: "all" }>,
  name: string,
  measure: Definition["measure"],
  seed: string,
  before: Window,
  priceOf: (unit: number) => number | null,
) {
  const of = (one: Definition["measure"]) => loadSeries(db, `${units.of}/${name}`, units, one, before);
  const [clicks, brought] = [await of("clicks"), await of(measure)];
  const prices = Float64Array.from({ length: clicks.units }, (_, unit) => priceOf(unit) ?? 0);
  const traits = (to: number) => [meansOf(clicks, 0, to), meansOf(brought, 0, to), prices];
  const pairs = pairUnits(traits(before.to - before.from + 1), randomFrom("coin", seed));
  if (pairs.with.length < LEAST_PAIRS) {
    return fail(
      "experiment-few",
      `Only ${pairs.with.length * 2 + pairs.left.length} of them had clicks in the days before, which makes ${pairs.with.length} pairs; it takes ${LEAST_PAIRS} to tell luck from effect.`,
      units.of === "items" ? "Take more items, or smaller units." : "Take more campaigns, or set days apart.",
    );
  }
  return ok({ pairs, noise: noiseBefore(brought, traits) });
}

function noiseBefore(brought: Series, traits: (to: number) => Float64Array[]): Noise {
  const pairs = pairUnits(traits(brought.days - playedDays(brought.days)), randomFrom("noise"));
  return noiseOfPairs(brought, pairs, traits(brought.days)[0]!);
}
