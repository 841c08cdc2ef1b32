import type { ReachName } from "../account/records/reach";
import type { CampaignKind, PURPOSES } from "../account/records/campaign";
import type { Place } from "../channel/place";
import { comparedWords, isSameWord } from "../channel/matching";
import { keywordFault } from "../channel/keyword-fault";
import { shareMoney } from "../kit/share-out";

/** What a kit is made of, in the order in which it is told. */
export const KIT_PARTS = {
  discovery: "Discovery",
  keywords: "Keywords",
  rivals: "Rival listings",
  defence: "Own pages",
  brand: "Own brand",
} as const;
export type KitPart = keyof typeof KIT_PARTS;

export type Purpose = (typeof PURPOSES)[number];

/** Parts of the daily budget by part, before those that are left out. */
const SHARES: Record<KitPart, number> = { discovery: 30, keywords: 40, rivals: 15, defence: 10, brand: 5 };

/** An item that is launched. Price in mills; null where something is not known. */
export interface LaunchedItem {
  id: string;
  title: string;
  brand: string;
  category: string;
  price: number | null;
  rating: number | null;
  reviews: number | null;
}

/** What is known around the items of a kit. */
export interface KitGround {
  items: readonly LaunchedItem[];
  /** Own items of the same families, whose pages are defended with theirs. */
  family: readonly string[];
  /** Queries and listings of the items' categories. */
  places: readonly Place[];
  /** Brands of the shop, in small letters, without those of the items. */
  otherBrands: ReadonlySet<string>;
  /** The middle price of the items' category, mills; null where none is known. */
  middlePrice: number | null;
  /** Keywords a campaign holds at most (house rule). */
  mostKeywords: number;
  /** Words of people who look for a bargain. */
  bargainWords: readonly string[];
}

/** Something that a part aims at. */
export type KitAim =
  | { what: "reach"; reach: ReachName }
  | { what: "keyword"; text: string; match: "exact" | "phrase" }
  | { what: "listing"; listing: string };

export interface PlannedPart {
  part: KitPart;
  kind: CampaignKind;
  purpose: Purpose;
  /** What sets its campaign apart in its name. */
  suffix: string;
  aims: KitAim[];
  /** Why there is nothing to aim at; null where there is. */
  nothing: string | null;
  /** Phrases kept out of it. */
  negatives: string[];
}

/** A rival's page where the items of a kit have a chance, with what speaks for it. */
interface Fight {
  listing: string;
  views: number;
}

/** Rival pages and keywords aimed at by one kit; more is an account of its own. */
const MOST_RIVALS = 10;
/** An item dearer than this times the middle of its category is kept from bargain hunters. */
const DEAR = 1.25;

/**
 * Everything that items need to be advertised by what they are for (`docs/formulas.md` 7): discovery by reach, keywords of their
 * category whose words they all have, rival pages where they compare well, their own pages and brand, and bargain words kept out
 * where they are dear.
 */
export function planKit(ground: KitGround, purpose: Purpose): PlannedPart[] {
  const bargains = isDear(ground) ? [...ground.bargainWords] : [];
  const reaches: ReachName[] =
    purpose === "discover"
      ? ["searches-alike", "searches-beside", "searches-around", "pages-alike", "pages-beside", "pages-around"]
      : ["searches-alike", "pages-alike"];
  const discovery = reaches.map((reach): PlannedPart => ({
    ...{ part: "discovery", kind: "discovery", purpose: "discover", suffix: `discovery, ${words(reach)}` },
    ...{ aims: [{ what: "reach", reach }], nothing: null, negatives: bargains },
  }));
  const { generic, branded } = keywordsOf(ground);
  const both = (text: string): KitAim[] => [
    { what: "keyword", text, match: "exact" },
    { what: "keyword", text, match: "phrase" },
  ];
  const rivals = fightsOf(ground);
  const part = (
    plan: Omit<PlannedPart, "nothing" | "negatives">,
    nothing: string,
    negatives: string[] = [],
  ): PlannedPart => ({
    ...plan,
    nothing: plan.aims.length > 0 ? null : nothing,
    negatives: plan.aims.length > 0 ? negatives : [],
  });
  return [
    ...discovery,
    part(
      {
        ...{ part: "keywords", kind: "keyword", purpose, suffix: "keywords" },
        aims: generic.slice(0, ground.mostKeywords).flatMap(both),
      },
      "No search is known whose words these items have.",
      bargains,
    ),
    part(
      {
        ...{ part: "rivals", kind: "listing", purpose: "conquest", suffix: "rival pages" },
        aims: rivals.map(({ listing }) => ({ what: "listing", listing })),
      },
      "No rival is known beside whom these items stand well.",
    ),
    part(
      {
        ...{ part: "defence", kind: "listing", purpose: "defend", suffix: "own pages" },
        aims: ground.family.map((listing) => ({ what: "listing", listing })),
      },
      "These items have no page of their own.",
    ),
    part(
      {
        ...{ part: "brand", kind: "keyword", purpose: "defend", suffix: "own brand" },
        aims: branded.slice(0, ground.mostKeywords).map((text) => ({ what: "keyword", text, match: "exact" })),
      },
      "No search with their brand in it is known.",
    ),
  ];
}

const words = (reach: ReachName) => reach.replace("-", " ");

/** Whether the items stand clearly above what their category costs. */
export function isDear({ items, middlePrice }: Pick<KitGround, "items" | "middlePrice">): boolean {
  const prices = items.flatMap(({ price }) => price ?? []);
  if (prices.length === 0 || middlePrice === null) return false;
  return prices.reduce((sum, price) => sum + price, 0) / prices.length >= DEAR * middlePrice;
}

/** Queries whose words are all in the titles, categories or brands of the items, those with most views first; own brands apart. */
function keywordsOf({ items, places, otherBrands, bargainWords }: KitGround): { generic: string[]; branded: string[] } {
  const of = items.map(({ title, brand, category }) => comparedWords(`${title} ${brand} ${category}`));
  const brands = new Set(items.flatMap(({ brand }) => comparedWords(brand)));
  const bargains = new Set(bargainWords.flatMap((word) => comparedWords(word)));
  const generic: Place[] = [];
  const branded: Place[] = [];
  for (const place of places) {
    if (place.kind !== "query" || keywordFault(place.name) !== null) continue;
    const own = comparedWords(place.name);
    if (own.some((word) => otherBrands.has(word) || bargains.has(word))) continue;
    const isOf = of.some((known) => own.every((word) => known.some((other) => isSameWord(word, other))));
    if (!isOf) continue;
    (own.some((word) => brands.has(word)) ? branded : generic).push(place);
  }
  const texts = (list: Place[]) => [...new Set(list.sort(byViews).map(({ name }) => name))];
  return { generic: texts(generic), branded: texts(branded) };
}

const byViews = (a: Place, b: Place) => (b.monthlyViews ?? 0) - (a.monthlyViews ?? 0) || (a.name < b.name ? -1 : 1);

/** Rival pages where one of the items is no dearer and rated no worse, or clearly better in one of both. */
function fightsOf({ items, places }: KitGround): Fight[] {
  const fights = places.flatMap((place): Fight[] => {
    if (place.kind !== "listing" || place.role !== "rival") return [];
    return items.some((item) => standsWell(item, place))
      ? [{ listing: place.name, views: place.monthlyViews ?? 0 }]
      : [];
  });
  return fights.sort((a, b) => b.views - a.views || (a.listing < b.listing ? -1 : 1)).slice(0, MOST_RIVALS);
}

/** Stars by which an item is clearly rated better, and the share of the price by which it is clearly cheaper. */
const BETTER = 0.3;
const CHEAPER = 0.1;

/** Whether an item stands well beside a listing, by what is known of both: what is not known speaks for neither. */
export function standsWell(
  item: Pick<LaunchedItem, "price" | "rating">,
  listing: Pick<Place, "price" | "rating">,
): boolean {
  const price = item.price !== null && listing.price !== null ? 1 - item.price / listing.price : null;
  const stars = item.rating !== null && listing.rating !== null ? item.rating - listing.rating : null;
  if (price === null && stars === null) return false;
  const [cheaper, better] = [price ?? 0, stars ?? 0];
  return (
    (cheaper >= CHEAPER && better > -2 * BETTER) ||
    (better >= BETTER && cheaper > -2 * CHEAPER) ||
    (cheaper >= 0 && better >= 0)
  );
}

/**
 * The daily budget shared out over the campaigns that are made, whole cents that sum to it.
 * @param floor the least that a channel takes for one, mills
 */
export function budgetsOf(parts: readonly PlannedPart[], dailyBudget: number, floor: number): number[] {
  const count = (part: KitPart) => parts.filter((one) => one.part === part).length;
  return shareMoney(
    dailyBudget,
    parts.map(({ part }) => SHARES[part] / count(part)),
    floor,
  );
}
