import { paidPrices } from "../catalogue/margins";
import { asText, type Columns } from "../kit/columns";
import { normal, randomFrom } from "../kit/random";
import { quantile } from "../kit/stats";
import { pageSurfaces } from "./listings";
import { othersBought } from "./bought-instead";
import { buyingByHour } from "./hours";
import { MIDDLING, type Nature } from "./nature";
import { makePlacements, placementSurfaces } from "./placements";
import { querySurfaces } from "./queries";
import { seasonOf } from "./seasons";
import { slotBuying } from "./slot-figures";
import type { Category, ItemTruth, Surface, World } from "./world-types";

const UNNAMED_CATEGORY = "everything else";

/** Share of organic orders that rivals take on pages of items that are no best sellers; nothing can be done there. */
const COMMON_LOSS = 0.05;

function numbers(catalogue: Columns, field: string): Float64Array {
  const column = catalogue.columns[field];
  return column?.kind === "number" ? column.values : new Float64Array(catalogue.length).fill(NaN);
}

/** Mills that an item sells at where no price of any item is known. */
const NO_PRICE = 20_000;

/** Prices with the middle one in place of those that are missing, so that no gap of a feed spoils a whole day. */
function withoutGaps(prices: Float64Array): Float64Array {
  const known = prices.filter((price) => price > 0).sort();
  const middle = known[Math.floor(known.length / 2)] ?? NO_PRICE;
  return prices.map((price) => (price > 0 ? price : middle));
}

/**
 * Builds the world around a catalogue: hidden item truths, the queries of every category, rival, companion and own
 * pages, partner placements. Everything is seeded by the seed and the thing's own name, so that an item keeps its nature
 * when others come and go.
 * @param catalogue columns id, itemNo, title, brand, category, family, price, salePrice, availability
 * @param since the day each row came into the catalogue, NaN when it was always there; left out: all were
 * @param nature what sets this world apart from others, as {@link natureOf} draws it; left out: a middling one
 */
export function buildWorld(catalogue: Columns, seed: string, since?: Float64Array, nature: Nature = MIDDLING): World {
  const text = (field: string) => {
    const column = catalogue.columns[field];
    return column ? asText(column) : null;
  };
  const textOf = (column: ReturnType<typeof text>, row: number) => (column ? column.values[column.codes[row]!]! : "");
  const ids = text("id");
  const titles = text("title");
  const brands = text("brand");
  const category = text("category");
  const families = text("family");
  const availability = text("availability");
  const price = withoutGaps(paidPrices(catalogue));
  const rowsByCategory = new Map<string, number[]>();
  for (let row = 0; row < catalogue.length; row++) {
    const name = textOf(category, row) || UNNAMED_CATEGORY;
    const rows = rowsByCategory.get(name);
    if (rows) rows.push(row);
    else rowsByCategory.set(name, [row]);
  }
  const column = () => new Float64Array(catalogue.length);
  const truth: ItemTruth = {
    quality: column(),
    cvr: column(),
    organic: column(),
    price,
    rating: column(),
    reviews: column(),
    exposed: column().fill(COMMON_LOSS),
    extraUnits: column(),
    returned: column(),
    kin: new Int32Array(catalogue.length).fill(-1),
    beside: new Int32Array(catalogue.length).fill(-1),
    swingDays: column(),
    swingPhase: column(),
    inStock: new Uint8Array(catalogue.length),
    since: since ?? column().fill(NaN),
  };
  const departments = [...new Set([...rowsByCategory.keys()].map((name) => name.split(/\s*[>›|»]\s*/)[0]!))];
  const placements = makePlacements(seed, departments);
  const surfaces: Surface[] = [];
  const categories: Category[] = [];
  const categoryOf: number[] = [];
  const rowCategory = new Int32Array(catalogue.length);
  const rowPlace = new Int32Array(catalogue.length);
  for (const [name, rows] of rowsByCategory) {
    const middle = quantile(
      rows.map((row) => price[row]!),
      0.5,
    ) as number;
    const random = randomFrom(seed, "category", name);
    const rivalsHere = normal(random);
    const demandHere = Math.exp(0.5 * normal(random));
    rows.forEach((row, place) => {
      rowCategory[row] = categories.length;
      rowPlace[row] = place;
      const liking = nature.demand * demandHere;
      giveNature(truth, row, randomFrom(seed, "item", textOf(ids, row)), middle, liking, nature);
      truth.inStock[row] = textOf(availability, row) === "out of stock" ? 0 : 1;
    });
    const parts = name.split(/\s*[>›|»]\s*/);
    const noun = (parts.at(-1) ?? name).toLowerCase();
    // Rivals pay for a click what a middling seller of such things can afford.
    const typicalCpc = nature.rivalry * (110 + 42 * Math.sqrt(middle / 1000));
    const rivalMean = Math.log(typicalCpc) - 0.15 + 0.25 * rivalsHere;
    const demand = nature.demand * (12 + 5.5 * Math.pow(rows.length, 0.75)) * demandHere;
    const items = rows.map((row) => ({ title: textOf(titles, row).toLowerCase(), brand: textOf(brands, row) }));
    const id = (row: number) => textOf(ids, row);
    const title = (row: number) => textOf(titles, row);
    const own: Omit<Surface, "id">[] = [
      ...querySurfaces(seed, name, noun, items, demand, rivalMean, nature),
      ...pageSurfaces(seed, name, noun, rows, id, title, truth, middle, demand, rivalMean, nature),
      ...placementSurfaces(seed, name, placements, demand / 1400, rows.length, rivalMean, nature),
    ];
    const numbered = own.map((surface) => {
      const whole = { ...surface, id: surfaces.length };
      surfaces.push(whole);
      categoryOf.push(categories.length);
      return whole;
    });
    categories.push({ name, rows, surfaces: numbered, ...seasonOf(seed, name) });
    othersBought(
      truth,
      rows,
      (row) => textOf(ids, row),
      (row) => textOf(families, row),
      seed,
    );
  }
  return {
    seed,
    nature,
    buyingByHour: buyingByHour(nature),
    slotBuying: slotBuying(nature),
    itemNo: numbers(catalogue, "itemNo"),
    truth,
    categories,
    placements,
    surfaces,
    categoryOf: Int32Array.from(categoryOf),
    rowCategory,
    rowPlace,
  };
}

/** Organic orders a day of an item that converts as the middling one does, in a middling category. */
const COMMON_ORGANIC = 0.03;
const MIDDLING_CVR = 0.016;

/** Days that an item's conversion takes to swing once round, at least and at most. */
const SWING_DAYS = [70, 210] as const;

/** Nothing is sent back more often than this, and no order holds more than so many units beyond the first. */
const MOST_RETURNED = 0.6;
const MOST_EXTRA = 3;

/**
 * The hidden nature of one item, from its own generator and how dear it is for its kind.
 * @param liking how much its category is looked for, 1 in the middle
 */
function giveNature(
  truth: ItemTruth,
  row: number,
  random: () => number,
  middlePrice: number,
  liking: number,
  nature: Nature,
): void {
  const price = truth.price[row]!;
  const pricePosition = Math.log(price / middlePrice || 1);
  truth.quality[row] = Math.exp(nature.qualitySpread * normal(random) - 0.04);
  // Dearer things convert less, and an item dear for its kind less again.
  const base = MIDDLING_CVR * Math.pow(Math.max(price, 500) / 20_000, nature.priceSlope);
  truth.cvr[row] = Math.min(
    0.3,
    base * Math.exp(nature.conversionSpread * normal(random) + nature.kindSlope * pricePosition),
  );
  // The shop sells what is looked for, what is well known, and what converts; ads are only told of the last.
  const known = Math.exp(nature.organicSpread * normal(random));
  truth.organic[row] = COMMON_ORGANIC * liking * known * (truth.cvr[row] / MIDDLING_CVR) ** nature.organicSlope;
  truth.rating[row] = Math.min(5, Math.max(2.2, Math.round((4 + 0.45 * normal(random)) * 10) / 10));
  truth.reviews[row] = Math.round(Math.exp(2.6 + 1.1 * normal(random)));
  truth.extraUnits[row] = Math.min(MOST_EXTRA, nature.basket * Math.exp(0.5 * normal(random) - 0.125));
  truth.returned[row] = Math.min(MOST_RETURNED, nature.returns * Math.exp(0.5 * normal(random) - 0.125));
  truth.swingDays[row] = SWING_DAYS[0] + (SWING_DAYS[1] - SWING_DAYS[0]) * random();
  truth.swingPhase[row] = 2 * Math.PI * random();
}

/** Days until a newcomer stands as well as an item that was always there. */
const NEWCOMER_DAYS = 60;

/** How well known an item is on a day: a newcomer begins at 0.25 and gains as people buy and rate it. */
export function renown(since: number, day: number): number {
  if (Number.isNaN(since)) return 1;
  const age = Math.max(0, day - since);
  return age >= NEWCOMER_DAYS ? 1 : 0.25 + (0.75 * age) / NEWCOMER_DAYS;
}
