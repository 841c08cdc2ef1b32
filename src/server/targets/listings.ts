import Papa from "papaparse";
import { z } from "zod";
import type { Account } from "@/core/account/account";
import { cellText } from "@/core/kit/columns";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { detectDelimiter } from "@/core/catalogue/detect";
import { readCount } from "@/core/catalogue/read-count";
import { parseMoney } from "@/core/kit/money";
import { listingCard } from "@/core/market/rate-card";
import type { World } from "@/core/market/world-types";
import type { Database } from "@/db/client";
import { pastedListings } from "@/db/schema";
import { readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { loadWorld } from "../market/run-days";
import { remember } from "../read/memo";
import { recentPast } from "../results/past-terms";
import { resultsVersion } from "../results/load";
import { noteChange, type WorkspaceInfo } from "../workspaces";

export type ListingKind = "rival" | "companion" | "own" | "unknown";

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
  from: ("market" | "reports" | "pasted")[];
  monthlyViews: number | null;
  /** Mills a click where half of the auctions are won. */
  typicalCpc: number | null;
  clicks: number;
  cost: number;
  orders: number;
  revenue: number;
  /** Targets that aim at it by itself, and whether a negative keeps out of it everywhere. */
  aimedAt: number;
  isKeptOut: boolean;
  nearest: (Seen & { id: string }) | null;
}

const KIND: Record<string, ListingKind> = { "rival-page": "rival", "companion-page": "companion", "own-page": "own" };

/** Every listing known: from the channel, from reports, and pasted; those with the most views first. */
export async function knownListings(db: Database, info: WorkspaceInfo): Promise<KnownListing[]> {
  const { planned, version } = await readAccount(db);
  const { revision } = await loadCatalogue(db, []);
  const pasted = await db.select().from(pastedListings);
  const stamp = [
    version,
    revision,
    await resultsVersion(db),
    info.marketSeed,
    JSON.stringify(pasted.map(({ at }) => at)),
  ];
  return remember(db, "known listings", stamp, async () => {
    const listings = new Map<string, KnownListing>();
    const found = await loadWorld(db, info, planned);
    for (const category of found?.world.categories ?? []) {
      for (const { kind, listing, volume } of category.surfaces) {
        if (!listing) continue;
        const card = listingCard(found!.world, listing.id);
        const { id, title, price, rating, reviews } = listing;
        listings.set(id, {
          ...blank(id),
          ...{ title, price, rating, reviews, kind: KIND[kind] ?? "unknown", category: category.name },
          ...{ from: ["market"], monthlyViews: Math.round(volume * 30), typicalCpc: card?.typical ?? null },
        });
      }
    }
    for (const { listing, title, category, price, rating, reviews } of pasted) {
      const known = listings.get(listing) ?? blank(listing);
      listings.set(listing, {
        ...known,
        title: known.title === listing ? title || listing : known.title,
        category: known.category || category,
        price: known.price ?? price,
        rating: known.rating ?? (rating === null ? null : rating / 100),
        reviews: known.reviews ?? reviews,
        kind: known.kind === "unknown" && category !== "" ? "rival" : known.kind,
        from: [...known.from, "pasted"],
      });
    }
    await addPast(db, planned, listings);
    for (const { aim } of planned.all("listingTarget")) {
      if (aim.by === "listing") listings.get(aim.listing)!.aimedAt++;
    }
    for (const { what, value, scope } of planned.all("negative")) {
      const known = what === "listing" && scope === null ? listings.get(value) : undefined;
      if (known) known.isKeptOut = true;
    }
    if (found) await addNearest(db, found.world, listings);
    return [...listings.values()].sort(
      (a, b) => (b.monthlyViews ?? 0) - (a.monthlyViews ?? 0) || (a.listing < b.listing ? -1 : 1),
    );
  });
}

/** A listing of which only the code is known. */
function blank(listing: string): KnownListing {
  return {
    ...{ listing, title: listing, kind: "unknown", category: "", price: null, rating: null, reviews: null },
    ...{ from: [], monthlyViews: null, typicalCpc: null, clicks: 0, cost: 0, orders: 0, revenue: 0 },
    ...{ aimedAt: 0, isKeptOut: false, nearest: null },
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

/** Beside each listing the item of its category whose price is nearest, another one beside a page of our own; ratings as shoppers see them. */
async function addNearest(db: Database, world: World, listings: Map<string, KnownListing>): Promise<void> {
  const { columns } = await loadCatalogue(db, ["id", "title"]);
  const { price, rating, reviews, inStock } = world.truth;
  const text = (name: string, row: number) => (columns[name] ? cellText(columns[name], row) : "");
  const seen = (row: number) => ({
    ...{ id: text("id", row), title: text("title", row), price: price[row]! },
    ...{ rating: Math.round(rating[row]! * 10) / 10, reviews: Math.round(reviews[row]!) },
  });
  const byPrice = new Map(
    world.categories.map(({ name, rows }) => [
      name,
      rows.filter((row) => inStock[row] === 1 && price[row]! > 0).sort((a, b) => price[a]! - price[b]!),
    ]),
  );
  for (const listing of listings.values()) {
    const rows = byPrice.get(listing.category) ?? [];
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
    if (best !== undefined) listing.nearest = seen(best);
  }
}

/** Pasted lines, as a person copied them out of a spreadsheet: listing, title, category, price, rating, reviews. */
export const pasteListingsSchema = z.object({ text: z.string().min(1).max(5_000_000) });

/** What became of pasted lines: how many were taken in, and what was wrong with the others. */
export interface PastedListings {
  taken: number;
  faults: { line: number; message: string }[];
}

const MOST_FAULTS = 50;
const MOST_LINES = 50_000;

/** Takes listings in from pasted lines. A line that can't be read is said and left out; the others go in. */
export async function pasteListings(db: Database, who: string, text: string): Promise<Outcome<PastedListings>> {
  // As spreadsheets copy them: cells with line ends, quotes or delimiters in them stand in quotes.
  const delimiter = text.includes("\t") ? "\t" : text.includes(";") ? ";" : detectDelimiter(text);
  const lines = Papa.parse<string[]>(text, { delimiter }).data;
  if (lines.length > MOST_LINES)
    return fail("listings-many", "More than 50,000 lines were pasted.", "Paste them in parts.");
  const faults: PastedListings["faults"] = [];
  const rows = new Map<string, typeof pastedListings.$inferInsert>();
  lines.forEach((line, at) => {
    const cells = line.map((cell) => cell.trim());
    if (cells.every((cell) => cell === "")) return;
    const fault = (message: string) => faults.push({ line: at + 1, message });
    const [listing = "", title = "", category = "", price = "", rating = "", reviews = ""] = cells;
    if (/^(listing|code|id)$/i.test(listing)) return;
    if (listing === "") return fault("There is no listing's code in the first column.");
    if (listing.length > 300) return fault("The code is longer than 300 characters.");
    const money = price === "" ? null : parseMoney(price);
    if (money && !money.ok) return fault(`“${price}” is no price.`);
    const stars = rating === "" ? null : Number(rating.replace(",", "."));
    if (stars !== null && !(stars >= 1 && stars <= 5)) return fault(`“${rating}” is no rating from 1 to 5.`);
    const count = reviews === "" ? null : readCount(reviews);
    if (count === null && reviews !== "") return fault(`“${reviews}” is no number of reviews.`);
    rows.set(listing, {
      ...{
        listing,
        title: title.slice(0, 300),
        category: category.slice(0, 500),
        price: money?.ok ? money.mills : null,
      },
      ...{ rating: stars === null ? null : Math.round(stars * 100), reviews: count, who, at: Date.now() },
    });
  });
  if (rows.size > 0) {
    await db.transaction(async (tx) => {
      for (const row of rows.values()) {
        await tx.insert(pastedListings).values(row).onConflictDoUpdate({ target: pastedListings.listing, set: row });
      }
    });
    await noteChange(db, `${plural(rows.size, "listing")} pasted`, "", "targets");
  }
  return ok({ taken: rows.size, faults: faults.slice(0, MOST_FAULTS) });
}
