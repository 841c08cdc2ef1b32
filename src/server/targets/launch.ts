import { z } from "zod";
import { checkDiff, type Check } from "@/core/account/checks";
import { amountSchema, nameSchema } from "@/core/account/records/basics";
import { PURPOSES } from "@/core/account/records/campaign";
import { comparedWords } from "@/core/channel/matching";
import type { RateCard } from "@/core/channel/rate-card";
import { isBuyable } from "@/core/catalogue/field-changes";
import { paidPrices } from "@/core/catalogue/margins";
import { cellText, type Columns } from "@/core/kit/columns";
import { composeDiffs, diffSize } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { quantile } from "@/core/kit/stats";
import { aimLabel } from "@/core/targets/aims";
import { budgetsOf, KIT_PARTS, planKit, type KitAim, type KitPart, type LaunchedItem } from "@/core/targets/launch-kit";
import { kitId, launchInto, namedInKit, targetOfAim, type KitCampaign } from "@/core/targets/launch-records";
import { reachInWords } from "@/core/account/records/reach";
import type { StartBid } from "@/core/targets/start-bid";
import { cardOfTarget } from "@/core/targets/target-card";
import type { Database } from "@/db/client";
import { commit } from "../account/commit";
import { readAccount } from "../account/state";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { carriedBy } from "../channel/carried";
import { knownItems, knownPlaces, rateBook } from "../channel/places";
import { rulesInForce } from "../moves/house-rules";
import type { WorkspaceInfo } from "../workspaces";
import { replayNegatives, type Replay, type ThoughtOf } from "@/core/exclusions/replay";
import { recentPast } from "../results/past-terms";
import { pastIndex } from "../places/term-index";
import { bidStarter, type BidStarter, type OwnHome } from "./start-bids";

/** Items of one kit; more are a planogram's work. */
const MOST_ITEMS = 200;
/** Characters of a kit's name: what sets its campaigns apart follows it. */
const LONGEST_NAME = 80;
/** Kits made at once, an item each. */
const MOST_KITS = 20;

export const BARGAIN_WORDS = ["cheap", "cheapest", "bargain", "discount", "budget", "second hand"];

export const launchSchema = z.object({
  items: z
    .array(z.string().min(1).max(500))
    .min(1, "No item is chosen.")
    .max(MOST_ITEMS, `A kit shows up to ${MOST_ITEMS} items; more are a planogram’s work.`),
  name: nameSchema,
  purpose: z.enum(PURPOSES).default("rank"),
  /** Mills a day for each kit. */
  dailyBudget: amountSchema,
  /** Whether each item gets a kit of its own. */
  each: z.boolean().default(false),
  parts: z
    .array(z.enum(Object.keys(KIT_PARTS) as [KitPart, ...KitPart[]]))
    .default(Object.keys(KIT_PARTS) as KitPart[]),
  /** Whether its exact keywords and pages are kept out of the homes whose other items would outrank it there. */
  makeWay: z.boolean().default(false),
  /** Words kept out where the items are dear. */
  bargainWords: z.array(z.string().trim().min(1).max(80)).max(100).default(BARGAIN_WORDS),
  /** Single targets that are left out, and bids of single ones in mills, by the `id` that a preview gives each. */
  leftOut: z.array(z.string()).max(5_000).default([]),
  bids: z.record(z.string(), amountSchema).default({}),
});
export type Launch = z.output<typeof launchSchema>;

export interface LaunchTarget {
  id: string;
  label: string;
  /** What a page of our own is of; empty for all else. */
  title: string;
  match: string;
  card: RateCard | null;
  start: StartBid;
  bid: number;
  isOut: boolean;
}

export interface LaunchCampaign extends Pick<KitCampaign, "part" | "name" | "purpose" | "dailyBudget" | "negatives"> {
  targets: LaunchTarget[];
  items: number;
  /** Keywords and pages of the same kit that it is kept out of, so that each is served by its own bid. */
  keptApart: number;
}

/** What a launch would make. Money in mills. */
export interface LaunchLook {
  campaigns: LaunchCampaign[];
  /** Parts that nothing can be made of, and why. */
  nothing: { part: KitPart; why: string }[];
  changes: number;
  /** What a day may cost at most, after days that left money over; null where the channel does not tell how much that may be. */
  worstDay: number | null;
  /** The homes of ours that show the items already. */
  homes: OwnHome[];
  /** Homes of other items of their categories that bid more than something of the launch, and so outrank it in the same auctions. */
  crowd: OwnHome[];
  /** What these brought in the last 90 days at the exact keywords and pages of the launch, which making way would stop. */
  wouldStop: Pick<Replay, "terms" | "clicks" | "cost" | "orders" | "revenue">;
  /** Items that can't be bought now: nothing of them shows until they can. */
  soldOut: string[];
  checks: Check[];
}

interface Kit {
  /** With all that each aims at, left out or not. */
  campaigns: (KitCampaign & { all: KitAim[] })[];
  nothing: LaunchLook["nothing"];
  rows: number[];
}

const COLUMNS = ["id", "title", "brand", "category", "family", "price", "salePrice", "availability"];

/** Everything that is asked of the catalogue and the places around some items. */
async function planKits(db: Database, launch: Launch): Promise<Outcome<Kit[]>> {
  const rows = await rowsById(db);
  const gone = launch.items.filter((id) => !rows.has(id));
  if (gone.length > 0) {
    return fail("launch-item-gone", `The catalogue has no item “${gone[0]}”.`, "Leave it out, or choose another one.");
  }
  if (launch.each && launch.items.length > MOST_KITS) {
    return fail(
      "launch-too-many",
      `${plural(launch.items.length, "kit")} would be more campaigns than anybody looks after.`,
      `Launch up to ${MOST_KITS} apart, or all in one kit.`,
    );
  }
  const catalogue = await loadCatalogue(db, COLUMNS);
  const places = await knownPlaces(db);
  const { keywordsACampaign: mostKeywords } = await rulesInForce(db);
  const { limits } = await carriedBy(db);
  const text = (name: string, row: number) => (catalogue.columns[name] ? cellText(catalogue.columns[name], row) : "");
  const prices = paidPrices(catalogue);
  const told = await knownItems(db, launch.items);
  const brands = brandWords(catalogue);
  const kitOf = (ids: string[], name: string, kit: string): Kit => {
    const own = ids.map((id) => rows.get(id)!);
    const items = own.map((row): LaunchedItem => {
      const id = text("id", row);
      const { rating = null, reviews = null } = told.get(id) ?? {};
      const price = prices[row]! > 0 ? prices[row]! : null;
      return {
        id,
        title: text("title", row),
        brand: text("brand", row),
        category: text("category", row),
        price,
        rating,
        reviews,
      };
    });
    const categories = new Set(items.map(({ category }) => category));
    const itsBrands = new Set(items.flatMap(({ brand }) => comparedWords(brand)));
    const parts = planKit(
      {
        ...{ items, mostKeywords, bargainWords: launch.bargainWords },
        family: familyOf(catalogue, own),
        places: places.filter(({ category }) => categories.has(category)),
        otherBrands: new Set([...brands].filter((word) => !itsBrands.has(word))),
        middlePrice: middleOf(catalogue, prices, categories),
      },
      launch.purpose,
    ).filter(({ part }) => launch.parts.includes(part));
    const nothing = parts.flatMap(({ part, nothing: why }) => (why ? [{ part, why }] : []));
    const out = new Set(launch.leftOut);
    const kept = parts
      .map((part) => {
        const aims = part.aims.filter((aim) => !out.has(kitId({ kit, suffix: part.suffix }, aim)));
        return { ...part, kit, name: `${name} · ${part.suffix}`, aims, all: part.aims };
      })
      .filter(({ all }) => all.length > 0);
    const made = kept.filter(({ aims }) => aims.length > 0);
    const budgets = budgetsOf(made, launch.dailyBudget, limits.lowestDailyBudget);
    return {
      ...{ nothing, rows: own },
      campaigns: kept.map(({ nothing: _, ...part }) => ({
        ...part,
        items: ids,
        dailyBudget: budgets[made.findIndex((one) => one.name === part.name)] ?? 0,
      })),
    };
  };
  const name = launch.name.slice(0, LONGEST_NAME);
  if (!launch.each || launch.items.length === 1) return ok([kitOf(launch.items, name, "")]);
  const titles = launch.items.map((id) => text("title", rows.get(id)!) || id);
  return ok(
    launch.items.map((id, i) => {
      // Variants are called alike: their IDs tell them apart.
      const isAlone = titles.filter((title) => title === titles[i]).length === 1;
      return kitOf([id], `${isAlone ? "" : `${id} · `}${name} · ${titles[i]!}`.slice(0, LONGEST_NAME), id);
    }),
  );
}

/** Every word of a brand in the catalogue. */
function brandWords({ columns }: Columns): ReadonlySet<string> {
  const column = columns["brand"];
  if (column?.kind !== "text") return new Set();
  return new Set(column.values.flatMap((brand) => comparedWords(brand)));
}

/** The IDs of all items of the families of some rows. */
function familyOf({ columns, length }: Columns, own: readonly number[]): string[] {
  const [id, family] = [columns["id"], columns["family"]];
  if (!id) return [];
  const families = new Set(own.map((row) => (family ? cellText(family, row) : "")).filter(Boolean));
  const found = new Set(own);
  for (let row = 0; row < length && families.size > 0; row++) if (families.has(cellText(family!, row))) found.add(row);
  return [...found].sort((a, b) => a - b).map((row) => cellText(id, row));
}

function middleOf(
  { columns, length }: Columns,
  prices: ArrayLike<number>,
  categories: ReadonlySet<string>,
): number | null {
  const column = columns["category"];
  if (!column) return null;
  const known: number[] = [];
  for (let row = 0; row < length; row++) {
    if (prices[row]! > 0 && categories.has(cellText(column, row))) known.push(prices[row]!);
  }
  return known.length === 0 ? null : quantile(known, 0.5);
}

function labelOf(aim: KitAim): string {
  if (aim.what === "reach") return reachInWords(aim.reach);
  return aim.what === "keyword" ? aim.text : aimLabel(aim);
}

/** What a launch would make, before it is in the basket. */
export async function lookAtLaunch(db: Database, info: WorkspaceInfo, launch: Launch): Promise<Outcome<LaunchLook>> {
  const laid = await layOut(db, info, launch);
  if (!laid.ok) return laid;
  const { kits, made, bidOf, crowd, ways } = laid.value;
  const book = await rateBook(db);
  const out = new Set(launch.leftOut);
  const rows = await rowsById(db);
  const { columns } = await loadCatalogue(db, ["id", "title", "availability"]);
  const titleOf = (id: string) => {
    const row = rows.get(id);
    return row === undefined || !columns["title"] ? "" : cellText(columns["title"], row);
  };
  const campaigns = kits.flatMap((kit) =>
    kit.campaigns.map((campaign): LaunchCampaign => {
      const { part, name, purpose, dailyBudget, negatives, items } = campaign;
      const targets = campaign.all.map((aim): LaunchTarget => {
        const target = targetOfAim(aim, "", null);
        const id = kitId(campaign, aim);
        return {
          ...{ id, label: labelOf(aim), title: aim.what === "listing" ? titleOf(aim.listing) : "" },
          ...{ match: aim.what === "keyword" ? aim.match : "", start: kit.starter.of(target) },
          ...{ card: cardOfTarget(book, target), bid: bidOf(campaign, aim), isOut: out.has(id) },
        };
      });
      const keptApart = part === "discovery" ? namedInKit(kit.campaigns).length : 0;
      return { part, name, purpose, dailyBudget, negatives, keptApart, targets, items: items.length };
    }),
  );
  const { planned, live, held } = await readAccount(db);
  const draft = launchInto(planned, made, bidOf, launch.makeWay ? ways : []);
  if (!draft.ok) return draft;
  const { limits, carries } = await carriedBy(db);
  const availability = columns["availability"];
  const before = new Set(checkDiff(live, held, info.currency, limits).map(({ message }) => message));
  const total = made.reduce((sum, { dailyBudget }) => sum + dailyBudget, 0);
  const homes = dearestOf(kits.flatMap(({ starter }) => starter.homes));
  return ok({
    ...{ campaigns, nothing: kits.flatMap(({ nothing }) => nothing), changes: diffSize(draft.value.diff()) },
    worstDay: carries.overspend === undefined ? null : Math.round(total * (1 + carries.overspend)),
    ...{ homes, crowd, wouldStop: await stoppedBy(db, ways) },
    soldOut: availability ? launch.items.filter((id) => !isBuyable(cellText(availability, rows.get(id)!))) : [],
    checks: checkDiff(live, composeDiffs(held, draft.value.diff()), info.currency, limits).filter(
      ({ message }) => !before.has(message),
    ),
  });
}

/** Exact keywords and pages of a launch, kept out of the homes that stand in its way. */
function waysFor(campaigns: readonly KitCampaign[], crowd: readonly OwnHome[]): ThoughtOf[] {
  const scopes = [...new Set(crowd.map(({ campaign }) => campaign))];
  const aims = namedInKit(campaigns);
  return scopes.flatMap((scope) => aims.map((aim) => ({ ...aim, scope })));
}

async function stoppedBy(db: Database, negatives: ThoughtOf[]): Promise<LaunchLook["wouldStop"]> {
  const past = negatives.length === 0 ? null : await recentPast(db, "term");
  if (!past) return { terms: 0, clicks: 0, cost: 0, orders: 0, revenue: 0 };
  const { terms, clicks, cost, orders, revenue } = replayNegatives(
    negatives,
    past.past,
    await pastIndex(db, "term", past),
  );
  return { terms, clicks, cost, orders, revenue };
}

/** Each home once, with its dearest bid. */
function dearestOf(homes: readonly OwnHome[]): OwnHome[] {
  const found = new Map<string, OwnHome>();
  for (const home of homes) {
    if (home.bid > (found.get(home.campaign)?.bid ?? 0)) found.set(home.campaign, home);
  }
  return [...found.values()];
}

/** A launch with its bids and what is in its way: what is looked at is what is made. */
interface LaidOut {
  kits: (Kit & { starter: BidStarter })[];
  /** The campaigns that have something to aim at. */
  made: Kit["campaigns"];
  bidOf(campaign: KitCampaign, aim: KitAim): number;
  crowd: OwnHome[];
  ways: ThoughtOf[];
}

async function layOut(db: Database, info: WorkspaceInfo, launch: Launch): Promise<Outcome<LaidOut>> {
  const planned = await planKits(db, launch);
  if (!planned.ok) return planned;
  const kits: LaidOut["kits"] = [];
  for (const kit of planned.value) kits.push({ ...kit, starter: await bidStarter(db, info, kit.rows) });
  const starters = new Map(kits.flatMap(({ campaigns, starter }) => campaigns.map(({ kit }) => [kit, starter])));
  const bidOf = (campaign: KitCampaign, aim: KitAim) =>
    launch.bids[kitId(campaign, aim)] ?? starters.get(campaign.kit)!.of(targetOfAim(aim, "", null)).bid;
  const made = kits.flatMap(({ campaigns }) => campaigns.filter(({ aims }) => aims.length > 0));
  const lowest = Math.min(Infinity, ...made.flatMap((one) => one.aims.map((aim) => bidOf(one, aim))));
  const crowd = dearestOf(kits.flatMap(({ starter }) => starter.crowd)).filter(({ bid }) => bid > lowest);
  return ok({ kits, made, bidOf, crowd, ways: waysFor(made, crowd) });
}

/** Puts a launch into the basket. */
export async function keepLaunch(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  version: number | null,
  launch: Launch,
): Promise<Outcome<{ changes: number; campaigns: string[] }>> {
  const laid = await layOut(db, info, launch);
  if (!laid.ok) return laid;
  const { made: campaigns, bidOf, ways } = laid.value;
  if (campaigns.length === 0) return fail("launch-nothing", "Everything is left out.", "Keep at least one part.");
  return commit(db, who, version, ({ planned }) => {
    const draft = launchInto(planned, campaigns, bidOf, launch.makeWay ? ways : []);
    if (!draft.ok) return draft;
    const reason = `Launched ${plural(launch.items.length, "item")}: ${plural(campaigns.length, "campaign")}`;
    return ok({
      into: { draft: draft.value, cause: { kind: "aim", id: "" }, reason },
      told: null,
      value: { changes: diffSize(draft.value.diff()), campaigns: campaigns.map(({ name }) => name) },
    });
  });
}
