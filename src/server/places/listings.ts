import type { Account } from "@/core/account/account";
import { windowHolds } from "@/core/channel/listing-window";
import type { ListingRole } from "@/core/channel/place";
import { isBuyable } from "@/core/catalogue/field-changes";
import { paidPrices } from "@/core/catalogue/margins";
import { cellText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import type { PlaceOrigin } from "@/db/schema";
import { readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { knownItems, knownPlaces, placesVersion, rateBook } from "../channel/places";
import { rememberReady } from "../read/ready";
import { recentPast } from "../results/past-terms";
import { resultsVersion } from "../results/load";

export type ListingKind = ListingRole;

/** What shoppers see of an item or listing. Price in mills; null where it is not known. */
interface Seen {
  title: string;
  price: number | null;
  rating: number | null;
  reviews: number | null;
}

/** A listing that is known, with our nearest item beside it and what its page brought in the last 90 days. */
export interface KnownListing extends Seen {
  listing: string;
  kind: ListingKind;
  category: string;
  from: (PlaceOrigin | "reports")[];
  monthlyViews: number | null;
  /** Mills a click where half of the auctions are won. */
  typicalCpc: number | null;
  clicks: number;
  cost: number;
  orders: number;
  revenue: number;
  /** Targets that aim at it by itself, and whether a negative keeps out of it everywhere. */
  aimedAt: number;
  /** Windows that hold it. */
  inWindows: number;
  isKeptOut: boolean;
  nearest: (Seen & { id: string }) | null;
}

/** Every listing known: from the channel, from reports, from files and pasted; those with the most views first. */
export async function knownListings(db: Database): Promise<KnownListing[]> {
  const { planned, version } = await readAccount(db);
  const { revision } = await loadCatalogue(db, []);
  const stamp = [version, revision, await resultsVersion(db), await placesVersion(db)];
  return rememberReady(db, "known listings", stamp, async () => {
    const listings = new Map<string, KnownListing>();
    const places = (await knownPlaces(db)).filter(({ kind }) => kind === "listing");
    const book = await rateBook(db);
    // What the channel tells comes first; what others told fills its gaps.
    for (const place of places.sort((a, b) => ORDER[a.origin] - ORDER[b.origin])) {
      const { name, title, category, price, rating, reviews, role, origin, monthlyViews } = place;
      const known = listings.get(name) ?? blank(name);
      listings.set(name, {
        ...known,
        title: known.title === name ? title || name : known.title,
        category: known.category || category,
        price: known.price ?? price,
        rating: known.rating ?? rating,
        reviews: known.reviews ?? reviews,
        kind: known.kind !== "unknown" ? known.kind : role === "unknown" && category !== "" ? "rival" : role,
        from: known.from.includes(origin) ? known.from : [...known.from, origin],
        monthlyViews: known.monthlyViews ?? monthlyViews,
        typicalCpc: book.listing(name)?.typical ?? null,
      });
    }
    await addPast(db, planned, listings);
    for (const { aim } of planned.all("listingTarget")) {
      if (aim.by === "listing") listings.get(aim.listing)!.aimedAt++;
      else for (const one of listings.values()) if (one.kind !== "own" && windowHolds(aim, one)) one.inWindows++;
    }
    for (const { what, value, scope } of planned.all("negative")) {
      const known = what === "listing" && scope === null ? listings.get(value) : undefined;
      if (known) known.isKeptOut = true;
    }
    await addNearest(db, listings);
    return [...listings.values()].sort(
      (a, b) => (b.monthlyViews ?? 0) - (a.monthlyViews ?? 0) || (a.listing < b.listing ? -1 : 1),
    );
  });
}

const ORDER = { channel: 0, file: 1, pasted: 2 } as const;

/** A listing of which only the code is known. */
function blank(listing: string): KnownListing {
  return {
    ...{ listing, title: listing, kind: "unknown", category: "", price: null, rating: null, reviews: null },
    ...{ from: [], monthlyViews: null, typicalCpc: null, clicks: 0, cost: 0, orders: 0, revenue: 0 },
    ...{ aimedAt: 0, inWindows: 0, isKeptOut: false, nearest: null },
  };
}

/** Adds listings that only targets or reports name, and what the pages of all brought in the last 90 days. */
async function addPast(db: Database, account: Account, all: Map<string, KnownListing>): Promise<void> {
  const targets = account.all("listingTarget");
  for (const { aim } of targets) {
    if (aim.by === "listing" && !all.has(aim.listing)) all.set(aim.listing, blank(aim.listing));
  }
  const recent = await recentPast(db, "term");
  if (!recent) return;
  const keys = new Set(targets.map(({ key }) => key));
  const { labels, term, target, sums } = recent.past;
  for (let line = 0; line < term.length; line++) {
    const label = labels[term[line]!]!;
    let known = all.get(label);
    // A page that a listing target of ours stood on is a listing, whether the channel lists it or not.
    if (!known && label !== "" && keys.has(target[line]!)) all.set(label, (known = blank(label)));
    if (!known) continue;
    if (!known.from.includes("reports")) known.from.push("reports");
    known.clicks += sums.clicks[line]!;
    known.cost += sums.cost[line]!;
    known.orders += sums.orders[line]!;
    known.revenue += sums.revenue[line]!;
  }
}

/**
 * Beside each listing the item of its category that can be bought and whose price is nearest, another one beside a page of our
 * own; ratings as the channel tells them of our items, or the catalogue does.
 */
async function addNearest(db: Database, listings: Map<string, KnownListing>): Promise<void> {
  const { columns, length } = await loadCatalogue(db, [
    "id",
    "title",
    "category",
    "price",
    "salePrice",
    "availability",
  ]);
  const text = (name: string, row: number) => (columns[name] ? cellText(columns[name], row) : "");
  const price = paidPrices({ length, columns });
  const byCategory = new Map<string, number[]>();
  for (let row = 0; row < length; row++) {
    if (!(price[row]! > 0) || !isBuyable(text("availability", row))) continue;
    const category = text("category", row);
    const rows = byCategory.get(category);
    if (rows) rows.push(row);
    else byCategory.set(category, [row]);
  }
  for (const rows of byCategory.values()) rows.sort((a, b) => price[a]! - price[b]!);
  const nearest = new Map<KnownListing, number>();
  for (const listing of listings.values()) {
    const rows = byCategory.get(listing.category) ?? [];
    if (listing.price === null || rows.length === 0) continue;
    const wanted = listing.price;
    let at = 0;
    for (let high = rows.length; at < high;) {
      const middle = (at + high) >> 1;
      if (price[rows[middle]!]! < wanted) at = middle + 1;
      else high = middle;
    }
    const distance = (row: number) => Math.abs(Math.log(price[row]! / Math.max(1, wanted)));
    // Beside a page of our own stands another item, not the one that it is of.
    const near = rows.slice(Math.max(0, at - 2), at + 2).filter((row) => text("id", row) !== listing.listing);
    const [best] = near.sort((a, b) => distance(a) - distance(b) || a - b);
    if (best !== undefined) nearest.set(listing, best);
  }
  const told = await knownItems(db, [...new Set([...nearest.values()].map((row) => text("id", row)))]);
  for (const [listing, row] of nearest) {
    const id = text("id", row);
    const { rating = null, reviews = null } = told.get(id) ?? {};
    listing.nearest = { id, title: text("title", row), price: price[row]!, rating, reviews };
  }
}
