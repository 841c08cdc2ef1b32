import { worthsOf, type PlaceWorth } from "@/core/bids/worths";
import { cardOver } from "@/core/channel/rate-card";
import { windowHolds } from "@/core/channel/listing-window";
import type { ServingGroup } from "@/core/account/walk";
import { startBid, type StartBid } from "@/core/targets/start-bid";
import { cardOfTarget } from "@/core/targets/target-card";
import { meanBid } from "@/core/targets/place-moves";
import type { Target } from "@/core/account/records";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { cellText } from "@/core/kit/columns";
import { walkAccount } from "../account/serving";
import { readAccount } from "../account/state";
import { everyItemPlace, rateBook } from "../channel/places";
import { loadMoves } from "../moves/moves";
import { recentPast } from "../results/past-terms";
import { pastIndex } from "../places/term-index";
import { knownListings } from "../places/listings";
import { rulesInForce } from "../moves/house-rules";
import type { WorkspaceInfo } from "../workspaces";

/** A home of ours that shows the same items already. Money in mills. */
export interface OwnHome {
  campaign: string;
  name: string;
  serveOrder: number;
  /** Its dearest bid for them. */
  bid: number;
  items: number;
}

/** First bids of targets that show some items, and which homes of ours these have. */
export interface BidStarter {
  of(target: Target): StartBid;
  /** The homes that serve the items first, those with the most items first. */
  homes: OwnHome[];
  /** Homes of other items of the same categories: they stand in the same auctions, and a dearer one outranks these items there. */
  crowd: OwnHome[];
}

/** Works out first bids for targets that show the items of some catalogue rows. */
export async function bidStarter(db: Database, info: WorkspaceInfo, rows: readonly number[]): Promise<BidStarter> {
  const rules = await rulesInForce(db);
  const book = await rateBook(db);
  const { planned } = await readAccount(db);
  const { serving, first } = await walkAccount(db, planned);
  const homes = homesOf(serving, first, rows);
  const home = homes.length > 0 ? Math.max(...homes.map(({ bid }) => bid)) : null;
  // Without results there is nothing to work worths out from, and rate cards and homes say what is known.
  const moves = await loadMoves(db, info);
  const ground = moves.ok ? moves.value.ground : null;
  const worths = ground && worthsOf(ground);
  const placesOf = await placeFinder(db);
  // Automatic reach goes where the items themselves could stand.
  const told = await everyItemPlace(db);
  const ids = await itemIds(db, rows);
  const itemsCard = cardOver(ids.flatMap((id) => told.get(id) ?? []));
  const weighed = ground
    ? rows
        .filter((row) => Number.isFinite(worths!.bid[row]))
        .map((row) => ({ row, weight: 1 + ground.sums.clicks[row]! }))
    : [];
  return {
    homes,
    crowd: homesOf(serving, first, await neighbours(db, rows)),
    of: (target) => {
      const seen = placesOf(target).flatMap((place) => worths?.places.get(place) ?? []);
      const sum = (of: (place: PlaceWorth) => number) => seen.reduce((all, place) => all + of(place), 0);
      const [clicks, cost] = [sum((place) => place.clicks), sum((place) => place.cost)];
      // A keyword or window that reaches several places is worth what their clicks are, each by how many it had.
      const factor = clicks > 0 ? sum((place) => place.clicks * place.factor) / clicks : 1;
      const worth = worths && weighed.length > 0 ? meanBid(worths, weighed) * factor * worths.factor.next : null;
      const card = target.type === "reach" ? itemsCard : cardOfTarget(book, target);
      return startBid({ worth, paid: { clicks, cost }, home, card }, rules);
    },
  };
}

/** The other rows of the categories of some rows. */
async function neighbours(db: Database, rows: readonly number[]): Promise<number[]> {
  const { columns, length } = await loadCatalogue(db, ["category"]);
  const column = columns["category"];
  if (column?.kind !== "text") return [];
  const own = new Set(rows);
  const categories = new Set(rows.map((row) => column.codes[row]!));
  const found: number[] = [];
  for (let row = 0; row < length; row++) if (categories.has(column.codes[row]!) && !own.has(row)) found.push(row);
  return found;
}

/** The IDs of catalogue rows. */
async function itemIds(db: Database, rows: readonly number[]): Promise<string[]> {
  const { columns } = await loadCatalogue(db, ["id"]);
  return rows.map((row) => (columns["id"] ? cellText(columns["id"], row) : ""));
}

/** Finds the terms and pages of the past that a target would reach. */
export async function placeFinder(db: Database): Promise<(target: Target) => string[]> {
  const recent = await recentPast(db, "term");
  const index = recent && (await pastIndex(db, "term", recent));
  const listings = await knownListings(db);
  return (target) => {
    if (target.type === "reach") return [];
    if (target.type === "keyword") {
      return index ? index.byWord.find(target.text, target.match).map((at) => recent!.past.labels[at]!) : [];
    }
    const { aim } = target;
    if (aim.by === "listing") return [aim.listing];
    return listings.filter((one) => one.kind !== "own" && windowHolds(aim, one)).map(({ listing }) => listing);
  };
}

function homesOf(serving: readonly ServingGroup[], first: Int32Array, rows: readonly number[]): OwnHome[] {
  const found = new Map<string, OwnHome>();
  for (const row of rows) {
    const home = serving[first[row]!];
    if (!home) continue;
    const { key, name, serveOrder } = home.campaign;
    const one = found.get(key) ?? { campaign: key, name, serveOrder, bid: 0, items: 0 };
    found.set(key, { ...one, bid: Math.max(one.bid, home.bid), items: one.items + 1 });
  }
  return [...found.values()].sort((a, b) => b.items - a.items || (a.campaign < b.campaign ? -1 : 1));
}
