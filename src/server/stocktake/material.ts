import { isHomeKind } from "@/core/account/homes";
import type { ServingGroup } from "@/core/account/walk";
import { recordName } from "@/core/account/names";
import { FORGOTTEN, STANDINGS } from "@/core/account/standing";
import { isBuyable } from "@/core/catalogue/field-changes";
import { paidPrices } from "@/core/catalogue/margins";
import { cellText } from "@/core/kit/columns";
import { formatDay, parseDay, windowBefore, windowEnding, windowLength, type Window } from "@/core/kit/days";
import type { AdMeasure, Sums } from "@/core/kit/metrics";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import {
  STOCK_LEVELS,
  type Material,
  type StockDay,
  type StockHeld,
  type StockItem,
  type StockLeak,
  type StockLevel,
  type StockLine,
  type StockMove,
} from "@/core/stocktake/material";
import type { Database } from "@/db/client";
import { walkAccount } from "../account/serving";
import { liveAccount } from "../account/state";
import { loadStandings } from "../across/catalogue/standings";
import { viewSlice, type Slice } from "../across/results/slice";
import { sliceSchema } from "../across/results/slice-query";
import { loadCatalogue } from "../catalogue/load";
import { daysSeenFirst } from "../evidence/items";
import { rulesInForce } from "../moves/house-rules";
import { loadMoves } from "../moves/moves";
import { campaignStops } from "../results/campaign-stops";
import { loadLag, seenOn } from "../results/lag";
import { loadWindow, resultDays } from "../results/load";
import { viewDefence } from "../targets/defence";
import type { WorkspaceInfo } from "../workspaces";

/** Lines of a level that a stocktake looks at; what is beyond them costs next to nothing each. */
const MOST_LINES = 100_000;
/** Two reports whose spend differs by more than this tell of different wholes. */
const APART = 0.01;

/** A material, with the days before its window where they are all known. */
export interface LoadedMaterial {
  material: Material;
  before: Sums | null;
}

/**
 * All that a stocktake looks at, as results, catalogue and account have it now.
 * @param window null for all days with results, at most the last 90
 * @param step called after each part, of how many
 */
export async function loadMaterial(
  db: Database,
  info: WorkspaceInfo,
  asked: Window | null,
  step: (done: number, of: number) => Promise<void>,
): Promise<Outcome<LoadedMaterial>> {
  const known = await resultDays(db);
  if (!known) {
    return fail(
      "stocktake-no-results",
      "There are no results yet, so there is nothing to take stock of.",
      "Read a report in, or run days of the test market.",
    );
  }
  const window = within(asked ?? windowEnding(known.to, MOST_DAYS), known);
  if (window.from > window.to) {
    return fail(
      "stocktake-days",
      `There are no results in these days: they go from ${formatDay(known.from)} to ${formatDay(known.to)}.`,
      "Choose days within them, or leave both out for the last ninety.",
    );
  }
  const parts = STOCK_LEVELS.length + 4;
  let done = 0;
  const whole = await sliceOf(db, info, "workspace", window);
  if (!whole.ok) return whole;
  await step(++done, parts);
  const { total, missingOfTotal, before } = whole.value;
  const levels: Material["levels"] = {};
  const totals: Material["totals"] = {};
  const counts: Material["counts"] = {};
  const missingOf: Material["missingOf"] = {};
  for (const level of STOCK_LEVELS) {
    const slice = await sliceOf(db, info, level, window);
    await step(++done, parts);
    // What no report divides by is not there; that is said in its chapter.
    if (!slice.ok || slice.value.lines.every(({ sums }) => sums.impressions === 0 && sums.cost === 0)) continue;
    levels[level] = linesOf(slice.value);
    counts[level] = slice.value.count;
    missingOf[level] = slice.value.missing;
    if (Math.abs(slice.value.total.cost - total.cost) > APART * total.cost) totals[level] = slice.value.total;
  }
  const catalogue = await itemsOf(db, info, window);
  const moves = catalogue.length === 0 ? null : await movesOf(db, info);
  await step(++done, parts);
  const account = await liveAccount(db);
  const hasAccount = account.all("campaign").length > 0;
  const { of: purseDays } = await campaignStops(db);
  return ok({
    material: {
      ...{ from: window.from, to: window.to, days: windowLength(window) },
      ...{ currency: info.currency, goal: info.goal, falseAlarms: (await rulesInForce(db)).falseAlarms / 100 },
      ...{ total, missing: missingOfTotal, levels, totals, missingOf, counts },
      daily: await dailyOf(db, info, window),
      items: catalogue,
      account: hasAccount ? account : null,
      moves,
      held: moves === null ? null : await heldOf(db, info),
      leaks: hasAccount && catalogue.length > 0 ? await leaksOf(db, levels.target ?? []) : null,
      purseDays: levels.campaign?.some(({ dryDays }) => dryDays) ? purseDays : 0,
    },
    before,
  });
}

/** Longest window that is taken without being asked for. */
const MOST_DAYS = 90;

const within = (window: Window, span: Window): Window => ({
  from: Math.max(window.from, span.from),
  to: Math.min(window.to, span.to),
});

type AskedLevel = StockLevel | "workspace" | "day";

async function sliceOf(
  db: Database,
  info: WorkspaceInfo,
  level: AskedLevel,
  { from, to }: Window,
): Promise<Outcome<Slice>> {
  const compared = level === "workspace" ? windowBefore({ from, to }) : null;
  return viewSlice(
    db,
    info,
    sliceSchema.parse({
      ...{ level, from: formatDay(from), to: formatDay(to), limit: MOST_LINES },
      ...(compared
        ? { compare: "range", compareFrom: formatDay(compared.from), compareTo: formatDay(compared.to) }
        : { compare: "none" }),
    }),
  );
}

function linesOf({ lines, missing }: Slice): StockLine[] {
  const isBlind = missing.includes("revenue") || missing.includes("cost");
  return lines.map(({ key, name, sums, chance, evidence, dryDays, dryHour, placeKind }) => ({
    ...{ key, name: name || key, sums },
    // Where sales are not told, nothing is known of a return, whatever the noughts say.
    chance: isBlind ? null : chance,
    sure: isBlind || !evidence ? null : { low: evidence.low, mean: evidence.mean, high: evidence.high },
    ...{ dryDays, dryHour, placeKind },
  }));
}

/** The whole by day, the oldest first; none where no report tells what is needed of it. */
export async function dailyOf(
  db: Database,
  info: WorkspaceInfo,
  window: Window,
  needs: readonly AdMeasure[] = ["orders"],
): Promise<StockDay[]> {
  const slice = await sliceOf(db, info, "day", window);
  if (!slice.ok || needs.some((key) => slice.value.missing.includes(key))) return [];
  const lag = await loadLag(db);
  return slice.value.lines
    .map(({ key, sums }) => {
      const day = parseDay(key);
      const { clicks, cost, revenue, orders } = sums;
      return { day, clicks, cost, revenue, orders, seenClicks: clicks * seenOn(lag, day) };
    })
    .sort((a, b) => a.day - b.day);
}

/** Days of spend that show what is paid for now. */
const LATE_DAYS = 7;

async function itemsOf(db: Database, info: WorkspaceInfo, { to }: Window): Promise<StockItem[]> {
  const catalogue = await loadCatalogue(db, [
    "id",
    "title",
    "brand",
    "category1",
    "availability",
    "price",
    "salePrice",
  ]);
  const { columns, length } = catalogue;
  if (length === 0 || !columns["id"]) return [];
  const text = (name: string, row: number) => (columns[name] ? cellText(columns[name], row) : "");
  const late = (await loadWindow(db, windowEnding(to, LATE_DAYS))).rows.cost;
  const since = await daysSeenFirst(db, catalogue);
  const account = await liveAccount(db);
  const hasAccount = account.all("campaign").length > 0;
  const standings = hasAccount ? await loadStandings(db) : null;
  const homes = hasAccount ? namedHomes((await walkAccount(db, account)).serving, length) : null;
  const prices = paidPrices(catalogue);
  return Array.from({ length }, (_, row): StockItem => {
    const price = prices[row]!;
    return {
      key: text("id", row),
      name: text("title", row) || text("id", row),
      brand: text("brand", row),
      category: text("category1", row),
      price: Number.isFinite(price) && price > 0 ? price : null,
      // Items of the first reading have been there for longer than anybody knows.
      age: Number.isNaN(since[row]!) ? OLD : Math.max(0, to - since[row]!),
      isBuyable: !columns["availability"] || isBuyable(text("availability", row)),
      homes: homes ? homes[row]! : null,
      isForgotten: standings !== null && FORGOTTEN.includes(STANDINGS[standings.ofRow[row]!]!),
      lateCost: late[row]!,
    };
  });
}

/** Campaigns that serve each item as its home; not by an open remainder, which is told as a leak. */
function namedHomes(serving: readonly ServingGroup[], length: number): string[][] {
  const homes = Array.from({ length }, (): string[] => []);
  for (const { campaign, rows, leak } of serving) {
    if (!isHomeKind(campaign.kind) || leak) continue;
    for (const row of rows) if (!homes[row]!.includes(campaign.key)) homes[row]!.push(campaign.key);
  }
  return homes;
}

const OLD = 100_000;

async function movesOf(db: Database, info: WorkspaceInfo): Promise<StockMove[] | null> {
  const all = await loadMoves(db, info);
  if (!all.ok) return null;
  return all.value.moves.map(({ key, proposer, about, campaign, what, stands, expected }) => ({
    ...{ key, proposer, about, campaign, what },
    ...{
      clicks: stands.clicks,
      orders: stands.orders,
      cost: Math.abs(expected.cost),
      contribution: expected.contribution,
    },
  }));
}

async function heldOf(db: Database, info: WorkspaceInfo): Promise<StockHeld[] | null> {
  const view = await viewDefence(db, info);
  if (!view.ok) return null;
  return view.value.lines.map(({ place, what, monthlyViews, impressions, clicks, orders, revenue, share, entry }) => ({
    ...{ place, what, monthlyViews, impressions, clicks, orders, revenue, share },
    isAimedAt: entry !== null,
  }));
}

/** Groups that serve whatever no other takes, with what they cost in the window. */
async function leaksOf(db: Database, targets: readonly StockLine[]): Promise<StockLeak[]> {
  const account = await liveAccount(db);
  const { proof } = await walkAccount(db, account);
  const byTarget = new Map(targets.map((line) => [line.key, line.sums]));
  return proof.leaks.map(({ campaign, group, items }) => {
    const record = account.get(campaign);
    const { cost, revenue } = byTarget.get(group) ?? { cost: 0, revenue: 0 };
    return { campaign, name: record ? recordName(account, record) : campaign, items, cost, revenue };
  });
}
