import { between, eq, gt } from "drizzle-orm";
import { isBuyable } from "@/core/catalogue/field-changes";
import { categoryLadder } from "@/core/evidence/item-evidence";
import { goalInForce } from "@/core/goals/goals";
import { asText, cellText } from "@/core/kit/columns";
import { dayAt, formatDay, windowEnding, type Window } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Ground, LineCounts, PurseDay } from "@/core/moves/ground";
import { movedBy } from "@/core/moves/settling";
import type { HouseRules } from "@/core/moves/house-rules";
import type { Cube, CubeDimension } from "@/core/results/cube";
import { ledgerKey } from "@/core/targets/ledger";
import { brandFinder } from "@/core/targets/own-brands";
import type { Source } from "@/core/results/levels";
import type { Database } from "@/db/client";
import { campaignDays, dispatchChanges, dispatches } from "@/db/schema";
import { walkAccount } from "../account/serving";
import type { AccountAt } from "../account/state";
import { endedPushes } from "./pushes";
import { loadCatalogue } from "../catalogue/load";
import { loadEvidence } from "../evidence/items";
import { shelfGoals } from "../goals/shelf-goals";
import { loadCube } from "../results/cubes";
import { codeTexts, loadCodes, loadMeasures, loadWindow, resultDays } from "../results/load";
import { seenClicks } from "../results/told";
import { readNotes } from "../places/ledger-notes";
import { placeTeller } from "../places/place-kinds";
import type { WorkspaceInfo } from "../workspaces";

/**
 * Days of results that moves look back on: 90 bring a thirtieth less of what bids can bring, 30 a tenth (`docs/decisions-bench.md`);
 * what has changed since shows in the last weeks, which are held against them.
 */
const WINDOW_DAYS = 180;
/** Days that show first what has changed, and days that say how money lasts. */
const RECENT_DAYS = 21;
const PURSE_DAYS = 7;

/** A ground with the window it is of. */
export interface LoadedGround {
  ground: Ground;
  window: Window;
}

/** All that proposers look at, as it is now. Fails in words where there is nothing to propose by. */
export async function loadGround(
  db: Database,
  info: WorkspaceInfo,
  { planned: account, rows: waiting }: Pick<AccountAt, "planned" | "rows">,
  rules: HouseRules,
): Promise<Outcome<LoadedGround>> {
  const days = await resultDays(db);
  if (!days) {
    return fail(
      "moves-no-results",
      "There are no results yet, so nothing can be proposed.",
      "Read a report in, or run days of the test market.",
    );
  }
  if ((await loadCatalogue(db, [])).length === 0) {
    return fail(
      "moves-no-catalogue",
      "There is no catalogue yet, so nothing can be proposed: what a click is worth hangs on the items.",
      "Read a feed in.",
    );
  }
  const window = windowEnding(days.to, WINDOW_DAYS);
  const results = await loadWindow(db, window);
  const recent = await loadMeasures(db, windowEnding(days.to, RECENT_DAYS), "all");
  const evidence = await loadEvidence(db, results);
  const { serving, aimed, first } = await walkAccount(db, account);
  const catalogue = await loadCatalogue(db, [
    "id",
    "title",
    "brand",
    "category",
    "availability",
    "margin",
    "breakEven",
  ]);
  const { columns, length } = catalogue;
  const text = (name: string) => (columns[name] ? asText(columns[name]) : null);
  const number = (name: string) =>
    columns[name]?.kind === "number" ? columns[name].values : new Float64Array(length).fill(NaN);
  const [id, title, availability, breakEven] = [
    text("id")!,
    text("title"),
    columns["availability"],
    number("breakEven"),
  ];
  const goals = await shelfGoals(db);
  const tell = await placeTeller(db);
  const noted = new Set((await readNotes(db, info)).map(({ what, text }) => ledgerKey(what, text)));
  const ids = new Set(id.values);
  return ok({
    window,
    ground: {
      ...{ account, homes: serving, aimed, first, rows: length, sums: results.rows, evidence, rules },
      days: days.to - Math.max(window.from, days.from) + 1,
      idOf: (row) => id.values[id.codes[row]!]!,
      titleOf: (row) => (title ? title.values[title.codes[row]!]! : "") || id.values[id.codes[row]!]!,
      categoryOf: categoryLadder(text("category"), length)[0]!,
      margin: number("margin"),
      goalOf: (row) => {
        const campaign = serving[first[row]!]?.campaign.goal ?? null;
        return goalInForce({ workspace: info.goal, shelf: goals.of(row), campaign, breakEven: breakEven[row] });
      },
      isBuyable: (row) => !availability || isBuyable(cellText(availability, row)),
      recent: { orders: recent.rows.orders, seenClicks: await seenClicks(db, recent) },
      places: await linesOf<Ground["places"][number]>(db, "term", window, {
        campaign: "campaign",
        adGroup: "adGroup",
        target: "target",
        term: "place",
      }),
      slots: await linesOf<Ground["slots"][number]>(db, "slot", window, {
        campaign: "campaign",
        adGroup: "adGroup",
        slot: "slot",
      }),
      hours: await linesOf<Ground["hours"][number]>(db, "hour", window, { campaign: "campaign", hour: "hour" }),
      purses: await pursesOf(db, windowEnding(days.to, PURSE_DAYS)),
      isListing: (place) => {
        const kind = tell(place);
        return kind && kind === "listing";
      },
      isDismissed: (place) => {
        const kind = tell(place);
        return kind !== null && noted.has(ledgerKey(kind, place));
      },
      isOwnPage: (place) => ids.has(place),
      isOwnBrand: brandFinder(text("brand")?.values ?? []),
      settling: new Set([
        ...waiting.flatMap(({ before, after }) => movedBy(before, after)),
        ...(await movedSince(db, days.to - rules.patience)),
      ]),
      pushes: await endedPushes(db, formatDay(dayAt(Date.now(), info.timeZone))),
      currency: info.currency,
    },
  });
}

/** Numbers in place of texts: these dimensions count. */
const COUNTED: readonly CubeDimension[] = ["slot", "hour"];

/** The lines of a report over a window, its codes as the texts they stand for, under the names that proposers know. */
async function linesOf<T extends LineCounts>(
  db: Database,
  source: Source,
  window: Window,
  names: Partial<Record<CubeDimension, keyof T & string>>,
): Promise<T[]> {
  const { ads } = await loadCube(db, source, window, false);
  const { texts } = await loadCodes(db);
  const read = Object.entries(names).map(
    ([dimension, name]) => [name as string, readerOf(ads, dimension as CubeDimension, texts)] as const,
  );
  return Array.from({ length: ads.length }, (_, i) => {
    const { impressions, clicks, cost, orders, revenue } = ads.sums;
    const keys = Object.fromEntries(read.map(([name, of]) => [name, of(i)]));
    return {
      ...keys,
      ...{ impressions: impressions[i]!, clicks: clicks[i]!, cost: cost[i]!, orders: orders[i]!, revenue: revenue[i]! },
      seenClicks: ads.seenClicks[i]!,
    } as unknown as T;
  });
}

function readerOf({ dimensions }: Cube, dimension: CubeDimension, texts: ReadonlyMap<number, string>) {
  const codes = dimensions[dimension];
  if (COUNTED.includes(dimension)) return (i: number) => codes?.[i] ?? 0;
  return (i: number) => texts.get(codes?.[i] ?? -1) ?? "";
}

/** What dispatches moved that came into force after a day. */
async function movedSince(db: Database, day: number): Promise<string[]> {
  const rows = await db
    .select({ before: dispatchChanges.before, after: dispatchChanges.after })
    .from(dispatchChanges)
    .innerJoin(dispatches, eq(dispatches.id, dispatchChanges.dispatch))
    .where(gt(dispatches.fromDay, day));
  return rows.flatMap(({ before, after }) => movedBy(before, after));
}

async function pursesOf(db: Database, { from, to }: Window): Promise<PurseDay[]> {
  const names = await codeTexts(db, "campaign");
  const rows = await db
    .select()
    .from(campaignDays)
    .where(between(campaignDays.day, from, to));
  return rows.map(({ campaign, budget, cost, dryAt }) => ({
    campaign: names.get(campaign) ?? "",
    budget,
    cost,
    dryAt,
  }));
}
