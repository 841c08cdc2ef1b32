import { normal, randomFrom } from "../kit/random";
import type { Nature } from "./nature";
import type { ItemTruth, Listing, Surface } from "./world-types";

/** Makers the shop does not carry; invented. */
export const RIVAL_BRANDS = ["wainford", "dunmarrow", "larkspire", "tollbeck", "osterholm"];
const COMPANIONS = ["starter kit", "spare parts", "storage box", "gift card", "gloves"];

/** How many pages of each kind a category has; pages of our own are those of its best sellers. */
const RIVALS = 5;
const COMPANION_PAGES = 3;
export const OWN_PAGES = 3;

/** How much more an item sells on a rival's page than a middling one: cheaper and better rated items win there. */
export function standing(price: number, rating: number, rival: Listing): number {
  const cheaper = Math.log(rival.price / Math.max(price, 1));
  const better = rating - rival.rating;
  return Math.min(2.2, Math.max(0.03, Math.exp(1.1 * cheaper + 0.7 * better)));
}

/** Pages of rivals and companions, and of the shop's own best sellers, in one category. */
export function pageSurfaces(
  seed: string,
  category: string,
  noun: string,
  rows: number[],
  ids: (row: number) => string,
  titles: (row: number) => string,
  truth: ItemTruth,
  middlePrice: number,
  demand: number,
  rivalMean: number,
  nature: Nature,
): Omit<Surface, "id">[] {
  const random = randomFrom(seed, "pages", category);
  const list: Omit<Surface, "id">[] = [];
  const base = { queryClass: null, rivalSpread: 0.7, ownRow: -1 } as const;
  for (let i = 0; i < RIVALS; i++) {
    const brand = RIVAL_BRANDS[(i + rows.length) % RIVAL_BRANDS.length]!;
    const listing: Listing = {
      id: `${brand} ${noun} no. ${i + 1}`,
      title: `${brand.charAt(0).toUpperCase()}${brand.slice(1)} ${noun} ${i + 1}`,
      price: Math.round(middlePrice * Math.exp(0.35 * normal(random))),
      rating: Math.min(5, Math.max(2.4, Math.round((4.1 + 0.5 * normal(random)) * 10) / 10)),
      reviews: Math.round(Math.exp(3.6 + 1.3 * normal(random))),
    };
    // A page with many good reviews is fought over.
    const fame = 0.12 * Math.log(1 + listing.reviews) + 0.3 * (listing.rating - 4);
    list.push({
      ...base,
      kind: "rival-page",
      label: listing.id,
      listing,
      volume: (demand * 1.5 * Math.exp(0.5 * normal(random))) / (i + 1),
      rivalMean: rivalMean + fame - 0.3,
      ctr: 0.9,
      cvr: 1,
      fit: new Float64Array(rows.length).fill(0.9),
      lift: Float64Array.from(rows, (row) => standing(truth.price[row]!, truth.rating[row]!, listing)),
      incremental: nature.genericNew,
    });
  }
  for (let i = 0; i < COMPANION_PAGES; i++) {
    const what = COMPANIONS[Math.floor(random() * COMPANIONS.length)]!;
    const id = `${noun} ${what} no. ${i + 1}`;
    list.push({
      ...base,
      kind: "companion-page",
      label: id,
      listing: { id, title: id, price: Math.round(middlePrice * 0.3), rating: 4.2, reviews: 60 },
      volume: (demand * 1.1 * Math.exp(0.5 * normal(random))) / (i + 1),
      rivalMean: rivalMean - 0.3,
      ctr: 0.7,
      cvr: 0.6,
      fit: new Float64Array(rows.length).fill(0.7),
      lift: null,
      incremental: nature.genericNew,
    });
  }
  const worth = (row: number) => truth.organic[row]! * truth.price[row]!;
  const best = [...rows].sort((a, b) => worth(b) - worth(a) || a - b).slice(0, OWN_PAGES);
  for (const row of best) {
    truth.exposed[row] = nature.exposure;
    list.push({
      ...base,
      kind: "own-page",
      ownRow: row,
      label: ids(row),
      listing: {
        id: ids(row),
        title: titles(row),
        price: truth.price[row]!,
        rating: truth.rating[row]!,
        reviews: truth.reviews[row]!,
      },
      // An order comes from some thirty views of its page.
      volume: 2 + truth.organic[row]! * 30,
      // Rivals want to stand beside a best seller more than anywhere.
      rivalMean: rivalMean + 0.25,
      ctr: 1,
      cvr: 1.4,
      fit: new Float64Array(rows.length).fill(0.95),
      lift: null,
      incremental: nature.pageNew,
    });
  }
  return list;
}
