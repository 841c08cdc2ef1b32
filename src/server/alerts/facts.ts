import { oftenDry } from "../across/asks";
import type { AlertFacts } from "@/core/alerts/alerts";
import { daysOfAlerts, LATE_DAYS, PAID_DAYS, TURN_DAYS } from "@/core/alerts/alerts";
import { isBuyable } from "@/core/catalogue/field-changes";
import { cellText } from "@/core/kit/columns";
import { formatDay, windowEnding, type Day, type Window } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { campaignDays } from "@/db/schema";
import { liveAccount } from "../account/state";
import { forgottenItems } from "../across/catalogue/standings";
import { viewSlice, type Slice } from "../across/results/slice";
import { sliceSchema } from "../across/results/slice-query";
import { windowTotal } from "../across/results/till";
import { listFeeds } from "../catalogue/feeds";
import { loadCatalogue } from "../catalogue/load";
import { loadWindow, resultDays } from "../results/load";
import { dailyOf } from "../stocktake/material";
import type { WorkspaceInfo } from "../workspaces";

/** What alerts are judged by, as results, catalogue and account have it now. */
export async function alertFacts(db: Database, info: WorkspaceInfo, now: number): Promise<AlertFacts> {
  const span = await resultDays(db);
  const window = span ? within(daysOfAlerts(span.to), span) : null;
  const daily = window ? await dailyOf(db, info, window, ["orders", "clicks", "cost", "revenue"]) : [];
  const read = (await listFeeds(db)).flatMap(({ readAt }) => (readAt === null ? [] : [readAt]));
  return {
    ...{ now, goal: info.goal, currency: info.currency },
    daily: daily.length > 0 ? daily : null,
    feedReadAt: read.length > 0 ? Math.min(...read) : null,
    dry: await dryCampaigns(db),
    homeless: await homelessItems(db),
    soldOut: span ? await soldOutSpend(db, span.to) : null,
    turned: span ? await turnedListings(db, info, span.to) : null,
  };
}

const within = (window: Window, span: Window): Window => ({ from: Math.max(window.from, span.from), to: window.to });

async function dryCampaigns(db: Database): Promise<string[] | null> {
  const [told] = await db.select({ day: campaignDays.day }).from(campaignDays).limit(1);
  return told ? (await oftenDry(db, await liveAccount(db))).map(({ name }) => name) : null;
}

async function homelessItems(db: Database): Promise<number | null> {
  const { length } = await loadCatalogue(db, []);
  if (length === 0 || (await liveAccount(db)).all("campaign").length === 0) return null;
  return (await forgottenItems(db)).total;
}

async function soldOutSpend(db: Database, last: Day): Promise<AlertFacts["soldOut"]> {
  const { columns, length } = await loadCatalogue(db, ["availability"]);
  const availability = columns["availability"];
  if (length === 0 || !availability) return null;
  const window = windowEnding(last, LATE_DAYS);
  const of = (await windowTotal(db, window)).cost;
  const { cost } = (await loadWindow(db, window)).rows;
  const rows = [...cost.keys()].filter((row) => cost[row]! > 0 && !isBuyable(cellText(availability, row)));
  return { items: rows.length, cost: rows.reduce((sum, row) => sum + cost[row]!, 0), of };
}

/** Beyond this chance on either side of the goal luck explains nothing. */
const SURE = 0.9;

async function turnedListings(db: Database, info: WorkspaceInfo, last: Day): Promise<string[] | null> {
  const account = await liveAccount(db);
  const aimed = new Set(account.all("listingTarget").map(({ key }) => key));
  if (aimed.size === 0) return null;
  const late = windowEnding(last, TURN_DAYS);
  const now = await targetsOver(db, info, late);
  const then = await targetsOver(db, info, windowEnding(late.from - 1, PAID_DAYS));
  if (!now || !then) return null;
  const paid = new Set(then.lines.filter(({ chance }) => chance !== null && chance >= SURE).map(({ key }) => key));
  return now.lines
    .filter(({ key, chance }) => aimed.has(key) && paid.has(key) && chance !== null && chance <= 1 - SURE)
    .map(({ key, name }) => name || key);
}

async function targetsOver(db: Database, info: WorkspaceInfo, { from, to }: Window): Promise<Slice | null> {
  const slice = await viewSlice(
    db,
    info,
    sliceSchema.parse({ level: "target", from: formatDay(from), to: formatDay(to), compare: "none", limit: 100_000 }),
  );
  return slice.ok && !slice.value.missing.includes("revenue") ? slice.value : null;
}
