import { NAMED } from "../account/acts/name-place";
import { holdBid } from "../bids/item-bids";
import { worthsOf, type PlaceWorth, type Worths } from "../bids/worths";
import { plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import type { Ground } from "../moves/ground";
import { between, type Expected, type Move } from "../moves/move";

/**
 * Terms and pages at which clicks are worth clearly more than on the same items elsewhere: an exact keyword or a
 * listing target for the best items there, with a bid of its own (`docs/formulas.md` 6).
 */
export function namedPlaces(ground: Ground): Move[] {
  const { rules, account } = ground;
  const worths = worthsOf(ground);
  const aimed = aimedByName(ground);
  const moves: Move[] = [];
  for (const place of worths.places.values()) {
    if (place.clicks < rules.placeClicks || aimed.has(place.place.toLowerCase())) continue;
    if (ground.isDismissed?.(place.place)) continue;
    if (place.factor < 1 + rules.placeApart / 100) continue;
    const isListing = ground.isListing(place.place);
    if (isListing === null || ground.isOwnPage(place.place)) continue;
    const chosen = itemsForPlace(ground, worths, place);
    if (chosen.length === 0) continue;
    const bidOf = (row: number) => {
      const wanted = worths.bid[row]! * place.factor * worths.factor.next;
      // What nobody tried yet begins no further from what the item bids now than any bid may move at once.
      return holdBid(wanted, ground.homes[ground.first[row]!]!.bid, rules);
    };
    const held = chosen.map(({ row }) => bidOf(row));
    const shown = chosen.map(({ row }, i) => ({ id: ground.idOf(row), bid: held[i]!.bid }));
    const bid = Math.max(...shown.map((one) => one.bid));
    const what = isListing ? "listing" : "term";
    const dailyBudget = account.find("campaign", NAMED[what].key)?.dailyBudget ?? worths.money;
    const serveOrder = ground.homes[ground.first[chosen[0]!.row]!]!.campaign.serveOrder;
    moves.push({
      ...{ key: `place/${what}/${place.place}`, proposer: "places", about: place.place, campaign: NAMED[what].key },
      what: `${isListing ? "Listing target" : "Exact keyword"} at ${formatMoney(bid, ground.currency)} a click, for ${plural(chosen.length, "item")}`,
      why: `${plural(place.orders, "order")} of ${plural(place.clicks, "click")}, where its items usually bring ${place.expected.toFixed(1)}`,
      acts: [{ action: "name-place", what, value: place.place, items: shown, dailyBudget, serveOrder }],
      ...{ amount: { from: 0, to: bid }, limitedBy: held.find((one) => one.bid === bid)!.limitedBy },
      stands: { clicks: place.clicks, orders: place.orders },
      expected: expectedOfPlace(ground, worths, place, chosen, bid),
      rows: [],
      touches: [`place/${place.place}`],
    });
  }
  return moves;
}

/** Exact keywords and listings that are aimed at already, whether they run or not. */
function aimedByName({ account }: Ground): Set<string> {
  const exact = account.all("keyword").flatMap(({ match, text }) => (match === "exact" ? [text.toLowerCase()] : []));
  const listings = account
    .all("listingTarget")
    .flatMap(({ aim }) => (aim.by === "listing" ? [aim.listing.toLowerCase()] : []));
  return new Set([...exact, ...listings]);
}

interface Chosen {
  row: number;
  weight: number;
}

/** The category that most clicks of a place went to. */
function mainCategory({ categoryOf }: Ground, { clicksOf }: PlaceWorth): number {
  const sums = new Map<number, number>();
  for (const [row, clicks] of clicksOf) sums.set(categoryOf[row]!, (sums.get(categoryOf[row]!) ?? 0) + clicks);
  return [...sums].reduce((best, one) => (one[1] > best[1] ? one : best), [-1, 0])[0];
}

/** An item of the place's category that nobody clicked there yet counts as clicked so often. */
const UNCLICKED = 0.3;

/** The items whose clicks leave most at a place, by how often they are clicked there. */
export function itemsForPlace(ground: Ground, worths: Worths, place: PlaceWorth): Chosen[] {
  const { clicksOf } = place;
  const category = mainCategory(ground, place);
  const found: (Chosen & { value: number })[] = [];
  for (const row of rowsIn(ground, category, clicksOf)) {
    if (!ground.isBuyable(row) || ground.first[row]! < 0) continue;
    const isKind = ground.categoryOf[row] === category;
    const weight = (clicksOf.get(row) ?? 0) + (isKind ? UNCLICKED : 0);
    const value = weight * worths.bid[row]!;
    if (value > 0) found.push({ row, weight, value });
  }
  return found.sort((a, b) => b.value - a.value || a.row - b.row).slice(0, ground.rules.placeItems);
}

const byCategory = new WeakMap<Ground, Map<number, number[]>>();
function rowsIn(ground: Ground, category: number, clicksOf: ReadonlyMap<number, number>): Set<number> {
  let lists = byCategory.get(ground);
  if (!lists) {
    byCategory.set(ground, (lists = new Map()));
    for (let row = 0; row < ground.rows; row++) {
      const code = ground.categoryOf[row]!;
      const list = lists.get(code);
      if (list) list.push(row);
      else lists.set(code, [row]);
    }
  }
  return new Set([...(lists.get(category) ?? []), ...clicksOf.keys()]);
}

export function meanBid({ bid }: Worths, chosen: readonly Chosen[]): number {
  const all = chosen.reduce((sum, { weight }) => sum + weight, 0);
  return chosen.reduce((sum, { row, weight }) => sum + weight * bid[row]!, 0) / all;
}

/** What a bid of its own at a place is expected to change there, against the mean of what its items bid now. */
function expectedOfPlace(
  ground: Ground,
  worths: Worths,
  place: PlaceWorth,
  chosen: readonly Chosen[],
  bid: number,
): Expected {
  const { days } = ground;
  const clicks = place.clicks / days;
  const cpc = place.cost / place.clicks;
  const mean = (of: Float64Array) =>
    (place.factor * chosen.reduce((sum, { row, weight }) => sum + weight * of[row]!, 0)) /
    chosen.reduce((sum, { weight }) => sum + weight, 0);
  const [sales, left] = [mean(worths.sales), mean(worths.left)];
  // Clicks follow bids as in slots: see there.
  const ratio = Math.min(5, Math.max(0.1, bid / Math.max(1, cpc * 1.3)));
  const after = clicks * ratio ** 0.7;
  const then = Math.min(bid, cpc * ratio ** 0.4);
  const gain = after * (left - then) - clicks * (left - cpc);
  return {
    ...{ clicks: after - clicks, cost: after * then - clicks * cpc, revenue: (after - clicks) * sales },
    contribution: Number.isNaN(left)
      ? null
      : between(gain, ((after - clicks) * left) ** 2 / (1 + place.expected) + (0.3 * gain) ** 2),
  };
}
