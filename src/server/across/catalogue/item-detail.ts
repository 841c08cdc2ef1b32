import type { CampaignKind } from "@/core/account/records/campaign";
import { asc, eq } from "drizzle-orm";
import { goalInForce, type GoalFrom } from "@/core/goals/goals";
import { REPEAT_MARK } from "@/core/catalogue/growing-columns";
import { columnsOfSource, mappingSchema } from "@/core/catalogue/mapping";
import type { Account } from "@/core/account/account";
import type { Column } from "@/core/kit/columns";
import { sameValue } from "@/core/kit/diff";
import { formatDay, type Window } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { sumsOfRow } from "@/core/results/window-sums";
import { type Heat } from "@/core/evidence/heat";
import { chanceOfGoal, pooledReturn } from "@/core/evidence/evidence";
import { shelvesOf } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { items as itemVersions, linkChecks, revisions } from "@/db/schema";
import { campaignStops } from "../../results/campaign-stops";
import { walkAccount } from "../../account/serving";
import { readAccount } from "../../account/state";
import { forEachDay, loadWindow } from "../../results/load";
import { loadEvidence, loadHeat } from "../../evidence/items";
import { itemStays, type ShelfStay } from "../../shelves/history";
import { listShelfSets } from "../../shelves/sets";
import { membershipColumn } from "../../shelves/view";
import type { WorkspaceInfo } from "../../workspaces";
import { derivedTrail } from "../../catalogue/derived-preview";
import { itemHistory, type ItemMoment } from "../../catalogue/history";
import { faultWords, textAt, type ItemLine } from "./items";
import { loadCatalogue } from "../../catalogue/load";
import { notesOn, type Note } from "../../catalogue/notes";
import { inForce } from "../../catalogue/revisions";

export interface ItemDetail extends Omit<ItemLine, "values"> {
  link: string;
  /** All pictures of the feed, the main one first. */
  pictures: string[];
  /** Mills; null where not known. */
  cost: number | null;
  fee: number | null;
  /** Share of the price left after cost and fee. */
  margin: number | null;
  /** Return at which the margin is used up; null where it is not known, or no return pays. */
  breakEven: number | null;
  /** Whether each sale loses money whatever the return. */
  isLosing: boolean;
  /** The return it must bring, and whose goal that is. */
  goal: number;
  goalFrom: GoalFrom;
  derived: Awaited<ReturnType<typeof derivedTrail>>;
  notes: Note[];
  history: ItemMoment[];
  /** What the last look at its page found. */
  page: { state: string; detail: string; at: number } | null;
  /** Every field of the feed, by its heading. */
  fields: { name: string; value: string }[];
  shelves: { set: string; setName: string; shelf: string; heat: Heat | null }[];
  /** Every stay on a shelf, latest first, with how it came there. */
  stays: ShelfStay[];
  /** Who serves it live, and where the basket changes that, with the basket; null where that is the same. */
  live: ItemPlaces;
  withBasket: ItemPlaces | null;
  /** Pooled return: mean and the ends of the 80 % interval; null without a CPC to go by. */
  pooled: { mean: number; low: number; high: number } | null;
  chance: number;
  members: { id: string; title: string }[];
  series: { day: string; cost: number; revenue: number; clicks: number; orders: number }[];
}

/** Where an item stands in an account. */
export interface ItemPlaces {
  /** First to serve first. */
  homes: ItemHome[];
  aimed: { campaign: string; name: string; kind: CampaignKind }[];
  /** What keeps it out: a campaign by its name, or null for everywhere. */
  keptOut: { campaign: string | null; name: string; reason: string }[];
}

export interface ItemHome {
  campaign: string;
  campaignName: string;
  adGroup: string;
  adGroupName: string;
  group: string;
  /** Mills a click. */
  bid: number;
  serveOrder: number;
  leak: boolean;
  /** Whether the bid is the item's own. */
  own: boolean;
  /** Hour at which its campaign ran out of money on average, where it did on at least half of the last days; else null. */
  dryAt: number | null;
  /** Days of the last ones on which it ran dry, of how many. */
  dryDays: number;
  days: number;
  /** Hours of the day in which its campaign bids nothing. */
  offHours: number[];
}

async function rowOfItem(db: Database, id: string): Promise<number> {
  const { columns } = await loadCatalogue(db, ["id"]);
  const column = columns["id"];
  if (column?.kind !== "text") return -1;
  const code = column.values.indexOf(id);
  return code < 0 ? -1 : column.codes.indexOf(code);
}

/** Campaigns beside an item's homes that show it where they aim at terms or listings. */
async function aimedAt(db: Database, account: Account, row: number): Promise<ItemPlaces["aimed"]> {
  const { aimed } = await walkAccount(db, account);
  const found = aimed.filter((group) => group.rows.includes(row)).map(({ campaign }) => campaign);
  return [...new Set(found)].map(({ key, name, kind }) => ({ campaign: key, name, kind }));
}

/** The groups that serve an item in an account, first to serve first. */
async function homesOfItem(db: Database, account: Account, row: number, id: string): Promise<ItemHome[]> {
  const { serving } = await walkAccount(db, account);
  const { of: days, stops } = await campaignStops(db);
  const moneyOf = (campaign: string) => {
    const stop = stops.get(campaign);
    const dryDays = stop?.days ?? 0;
    return { dryDays, days, dryAt: stop && 2 * dryDays >= days ? stop.hour : null };
  };
  return serving
    .filter((group) => group.rows.includes(row))
    .map(({ campaign, adGroup, group, bid, leak }) => ({
      campaign: campaign.key,
      campaignName: campaign.name,
      adGroup: adGroup.key,
      adGroupName: adGroup.name,
      group: group.key,
      bid,
      serveOrder: campaign.serveOrder,
      leak,
      own: group.value === id,
      ...moneyOf(campaign.key),
      offHours: (campaign.hours ?? []).flatMap((factor, hour) => (factor === 0 ? [hour] : [])),
    }))
    .sort((a, b) => a.serveOrder - b.serveOrder || b.bid - a.bid);
}

/** The goal of an item; where no return pays, its break-even says nothing. */
function goalOf(workspace: number, breakEven: number): Pick<ItemDetail, "goal" | "goalFrom"> {
  const { goal, from } = goalInForce({ workspace, breakEven: breakEven === Infinity ? NaN : breakEven });
  return { goal, goalFrom: from };
}

/** Where an item stands in an account. */
async function placesOf(db: Database, account: Account, row: number, id: string): Promise<ItemPlaces> {
  const keptOut = account.all("exclusion").flatMap(({ item, campaign, reason }) => {
    if (item !== id) return [];
    return [{ campaign, name: account.find("campaign", campaign)?.name ?? "", reason }];
  });
  return { homes: await homesOfItem(db, account, row, id), aimed: await aimedAt(db, account, row), keptOut };
}

/** Everything about one item, for its panel. */
export async function findItem(
  db: Database,
  info: WorkspaceInfo,
  id: string,
  window: Window,
): Promise<Outcome<ItemDetail>> {
  const row = await rowOfItem(db, id);
  if (row < 0) return fail("item-unknown", `There is no item ${id} in the catalogue.`, "It may have left the feed.");
  const catalogue = await loadCatalogue(db, "all");
  const { columns } = catalogue;
  const results = await loadWindow(db, window);
  const evidence = await loadEvidence(db, results);
  const heat = await loadHeat(db, results, info.goal);
  const itemNo = columns["itemNo"]?.kind === "number" ? columns["itemNo"].values[row]! : 0;
  const shelves: ItemDetail["shelves"] = [];
  for (const { definition } of await listShelfSets(db)) {
    const column = await membershipColumn(db, definition.key);
    const shelf = column && shelvesOf(definition)[column.codes[row]! - 1];
    if (!shelf) continue;
    shelves.push({ set: definition.key, setName: definition.name, shelf: shelf.name, heat: shelf.heat });
  }
  const number = (name: string) => (columns[name]?.kind === "number" ? columns[name].values[row]! : 0);
  const { live: sent, planned } = await readAccount(db);
  const live = await placesOf(db, sent, row, id);
  // Where nothing waits the two are one account.
  const withBasket = planned === sent ? live : await placesOf(db, planned, row, id);
  const family = textAt(columns["family"], row);
  const known = (name: string) => {
    const column = columns[name];
    const value = column?.kind === "number" ? column.values[row]! : NaN;
    return Number.isFinite(value) ? value : null;
  };
  const breakEven = columns["breakEven"]?.kind === "number" ? columns["breakEven"].values[row]! : NaN;
  const [page] = await db.select().from(linkChecks).where(eq(linkChecks.itemId, id));
  const fields = await rawFields(db, itemNo);
  return ok({
    id,
    title: textAt(columns["title"], row),
    brand: textAt(columns["brand"], row),
    category: textAt(columns["category"], row),
    image: textAt(columns["image"], row),
    link: textAt(columns["link"], row),
    availability: textAt(columns["availability"], row),
    price: number("price"),
    heat: heat[row]!,
    warnings: faultWords(columns, row),
    pictures: await picturesOf(db, fields),
    family,
    ...{ cost: known("unitCost"), fee: known("unitFee"), margin: known("margin"), breakEven: known("breakEven") },
    isLosing: breakEven === Infinity,
    ...goalOf(info.goal, breakEven),
    derived: await derivedTrail(db, row),
    notes: await notesOn(db, id, family),
    history: await itemHistory(db, info, itemNo),
    page: page ? { state: page.state, detail: page.detail, at: page.checkedAt } : null,
    sums: sumsOfRow(results.rows, row),
    fields,
    shelves,
    stays: await itemStays(db, itemNo),
    ...{ live, withBasket: sameValue(live, withBasket) ? null : withBasket },
    pooled: pooledReturn(evidence, row),
    chance: chanceOfGoal(evidence, row, info.goal),
    members: family === "" ? [] : familyOf(columns, family),
    series: await itemSeries(db, itemNo, window),
  });
}

function familyOf(columns: Record<string, Column>, family: string): { id: string; title: string }[] {
  const column = columns["family"];
  if (column?.kind !== "text") return [];
  const code = column.values.indexOf(family);
  const members: { id: string; title: string }[] = [];
  column.codes.forEach((value, row) => {
    if (value === code) members.push({ id: textAt(columns["id"], row), title: textAt(columns["title"], row) });
  });
  return members;
}

/** The item's raw cells under the headings of the reading they came with. */
async function rawFields(db: Database, itemNo: number): Promise<{ name: string; value: string }[]> {
  const versions = await db
    .select({ cells: itemVersions.cells, toRev: itemVersions.toRev, headings: revisions.headings })
    .from(itemVersions)
    .innerJoin(revisions, eq(itemVersions.fromRev, revisions.id))
    .where(eq(itemVersions.itemNo, itemNo))
    .orderBy(asc(itemVersions.fromRev));
  const live = versions.find((version) => version.toRev === null);
  if (!live) return [];
  const cells = JSON.parse(live.cells) as string[];
  return (live.headings ?? []).map((name, i) => ({ name, value: cells[i] ?? "" }));
}

async function picturesOf(db: Database, fields: { name: string; value: string }[]): Promise<string[]> {
  const now = await inForce(db);
  if (!now) return [];
  const mapped = columnsOfSource(mappingSchema.parse(now.feed.mapping).columns.image);
  const more = fields.filter(({ name }) => mapped.includes(name) || /additional.?image/i.test(name));
  return [...new Set(more.flatMap(({ value }) => value.split(REPEAT_MARK)))].filter((link) => link !== "");
}

async function itemSeries(db: Database, itemNo: number, window: Window): Promise<ItemDetail["series"]> {
  const series: ItemDetail["series"] = [];
  await forEachDay(db, window, (day, ads) => {
    const point = { day: formatDay(day), cost: 0, revenue: 0, clicks: 0, orders: 0 };
    ads.item.forEach((no, i) => {
      if (no !== itemNo) return;
      point.cost += ads.cost[i]!;
      point.revenue += ads.revenue[i]!;
      point.clicks += ads.clicks[i]!;
      point.orders += ads.orders[i]!;
    });
    series.push(point);
  });
  return series;
}
