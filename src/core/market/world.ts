import { asText, type Columns } from "../kit/columns";
import { hashText, normal, randomFrom, type Random } from "../kit/random";
import { quantile } from "../kit/stats";

/** A place that shoppers look at: a query, the page of another seller's listing, or a partner placement. */
export interface Surface {
  kind: "query" | "page" | "placement";
  /** What a report calls it: the search term, the listing or the placement's address. */
  label: string;
  /** Views on an average day. */
  volume: number;
  /** Mean and spread of the logarithm of the rivals' best score there, in mills. */
  rivalMean: number;
  rivalSpread: number;
  /** Click and conversion factors of what people there want. */
  ctr: number;
  cvr: number;
  /** How well each of the category's rows fits, in the order of `Category.rows`. */
  fit: Float64Array;
}

export interface Category {
  name: string;
  rows: number[];
  surfaces: Surface[];
  /** Day of the year of the season's peak, and how strong the season is, 0 to 1. */
  peakDay: number;
  seasonality: number;
}

/** The hidden truth of every item, one value a catalogue row. */
export interface ItemTruth {
  /** How good its picture, title and page are; 1 is middling. Multiplies the bid into the score. */
  quality: Float64Array;
  /** Orders a click for a shopper of middling intent. */
  cvr: Float64Array;
  /** Store orders a day without any ad, in a middling season. */
  organic: Float64Array;
  /** Mills a unit as shoppers pay it. */
  price: Float64Array;
  /** 1 when it can be bought. */
  inStock: Uint8Array;
}

export interface World {
  seed: string;
  itemNo: Float64Array;
  truth: ItemTruth;
  categories: Category[];
}

const UNNAMED_CATEGORY = "everything else";

function numbers(catalogue: Columns, field: string): Float64Array {
  const column = catalogue.columns[field];
  return column?.kind === "number" ? column.values : new Float64Array(catalogue.length).fill(NaN);
}

/**
 * Builds the world around a catalogue: hidden item truths, the queries of every category, rival and companion pages,
 * partner placements. Everything is seeded by the seed and the thing's own name, so that an item keeps its nature when
 * others come and go.
 * @param catalogue columns id, itemNo, title, brand, category, price, salePrice, availability
 */
export function buildWorld(catalogue: Columns, seed: string): World {
  const text = (field: string) => {
    const column = catalogue.columns[field];
    return column ? asText(column) : null;
  };
  const ids = text("id")!;
  const brands = text("brand");
  const titles = text("title")!;
  const category = text("category");
  const availability = text("availability");
  const listPrice = numbers(catalogue, "price");
  const salePrice = numbers(catalogue, "salePrice");
  const price = listPrice.map((value, row) => (Number.isNaN(salePrice[row]) ? value : (salePrice[row] as number)));
  const rowsByCategory = new Map<string, number[]>();
  for (let row = 0; row < catalogue.length; row++) {
    const name = (category && category.values[category.codes[row] as number]) || UNNAMED_CATEGORY;
    const rows = rowsByCategory.get(name);
    if (rows) rows.push(row);
    else rowsByCategory.set(name, [row]);
  }
  const truth: ItemTruth = {
    quality: new Float64Array(catalogue.length),
    cvr: new Float64Array(catalogue.length),
    organic: new Float64Array(catalogue.length),
    price,
    inStock: new Uint8Array(catalogue.length),
  };
  const categories: Category[] = [];
  for (const [name, rows] of rowsByCategory) {
    const middle = quantile(
      rows.map((row) => price[row] as number),
      0.5,
    ) as number;
    for (const row of rows) {
      const random = randomFrom(seed, "item", ids.values[ids.codes[row] as number] as string);
      const pricePosition = Math.log((price[row] as number) / middle || 1);
      truth.quality[row] = Math.exp(0.28 * normal(random) - 0.04);
      // Dearer things convert less, and an item dear for its kind less again.
      const base = 0.016 * Math.pow(Math.max(price[row] as number, 500) / 20_000, -0.45);
      truth.cvr[row] = Math.min(0.3, base * Math.exp(0.7 * normal(random) - 0.4 * pricePosition));
      truth.organic[row] = 1.9 * (truth.cvr[row] as number) * Math.exp(0.9 * normal(random));
      const stated = availability ? availability.values[availability.codes[row] as number] : "";
      truth.inStock[row] = stated === "out of stock" ? 0 : 1;
    }
    const itemTexts = rows.map((row) => ({
      title: (titles.values[titles.codes[row] as number] as string).toLowerCase(),
      brand: brands ? (brands.values[brands.codes[row] as number] as string) : "",
    }));
    categories.push(makeCategory(seed, name, rows, itemTexts, middle));
  }
  return { seed, itemNo: numbers(catalogue, "itemNo"), truth, categories };
}

interface ItemText {
  title: string;
  brand: string;
}

function makeCategory(seed: string, name: string, rows: number[], items: ItemText[], middlePrice: number): Category {
  const random = randomFrom(seed, "category", name);
  const parts = name.split(/\s*[>›|»]\s*/);
  const noun = (parts.at(-1) ?? name).toLowerCase();
  // Rivals pay for a click what a middling seller of such things can afford.
  const typicalCpc = 110 + 42 * Math.sqrt(middlePrice / 1000);
  const rivalMean = Math.log(typicalCpc) - 0.15 + 0.25 * normal(random);
  const demand = (12 + 5.5 * Math.pow(rows.length, 0.75)) * Math.exp(0.5 * normal(random));
  const top = hashText(`${seed}/season/${parts[0]}`) / 4294967296;
  return {
    name,
    rows,
    surfaces: [
      ...queries(random, noun, items, demand, rivalMean),
      ...pages(random, noun, items.length, demand, rivalMean),
      ...placements(random, noun, items.length, demand, rivalMean),
    ],
    peakDay: 60 + Math.floor(top * 200),
    seasonality: 0.2 + 0.35 * top,
  };
}

const LONG_TAILS = ["for small gardens", "heavy duty", "set", "best", "easy", "with cover", "outdoor", "large"];

/** The words of titles that tell items of a category apart, most common first. */
function tellingWords(items: ItemText[], noun: string): string[] {
  const counts = new Map<string, number>();
  for (const { title, brand } of items) {
    const skip = new Set([...noun.split(/\W+/), ...brand.toLowerCase().split(/\W+/)]);
    for (const word of new Set(title.split(/[^\p{L}]+/u))) {
      if (word.length >= 4 && !skip.has(word)) counts.set(word, (counts.get(word) ?? 0) + 1);
    }
  }
  const most = items.length * 0.7;
  return [...counts]
    .filter(([, count]) => items.length < 3 || count <= most)
    .sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1))
    .slice(0, 8)
    .map(([word]) => word);
}

function queries(random: Random, noun: string, items: ItemText[], demand: number, rivalMean: number): Surface[] {
  const list: Surface[] = [];
  const spread = () => 0.55 + 0.15 * random();
  const add = (label: string, weight: number, ctr: number, cvr: number, hardness: number, fit: Float64Array) => {
    const volume = demand * weight * Math.exp(0.3 * normal(random));
    list.push({ kind: "query", label, volume, rivalMean: rivalMean + hardness, rivalSpread: spread(), ctr, cvr, fit });
  };
  const all = new Float64Array(items.length).fill(0.8);
  const words = tellingWords(items, noun);
  const withWord = (word: string, hit: number, miss: number) =>
    Float64Array.from(items, (item) => (item.title.includes(word) ? hit : miss));
  add(noun, 1.1, 0.9, 0.7, 0.25, all);
  add(`buy ${noun}`, 0.35, 1.1, 1.3, 0.2, all);
  words.slice(0, 4).forEach((word, i) => {
    add(`${word} ${noun}`, 0.55 / (i + 1), 1.15, 1.15, 0, withWord(word, 1.25, 0.15));
  });
  words.slice(0, 4).forEach((word, i) => {
    const tail = LONG_TAILS[Math.floor(random() * LONG_TAILS.length)] as string;
    add(`${word} ${noun} ${tail}`, 0.2 / (i + 1), 1.3, 1.5, -0.3, withWord(word, 1.3, 0.05));
  });
  const brandCounts = new Map<string, number>();
  for (const { brand } of items) if (brand !== "") brandCounts.set(brand, (brandCounts.get(brand) ?? 0) + 1);
  const topBrands = [...brandCounts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).slice(0, 3);
  topBrands.forEach(([brand], i) => {
    const fit = Float64Array.from(items, (item) => (item.brand === brand ? 1.6 : 0.05));
    add(`${brand.toLowerCase()} ${noun}`, 0.4 / (i + 1), 1.5, 1.9, -0.1, fit);
  });
  add(`${RIVAL_BRANDS[Math.floor(random() * RIVAL_BRANDS.length)]} ${noun}`, 0.3, 0.5, 0.35, 0.3, all);
  add(`cheap ${noun}`, 0.4, 1, 0.55, 0.05, all);
  add(`how to use ${noun}`, 0.35, 0.6, 0.12, -0.4, all);
  add(`${noun} pictures`, 0.2, 0.5, 0.03, -0.6, all);
  return list;
}

/** Makers the shop does not carry; invented. */
const RIVAL_BRANDS = ["wainford", "dunmarrow", "larkspire", "tollbeck", "osterholm"];
const COMPANIONS = ["starter kit", "spare parts", "storage box", "gift card", "gloves"];

function pages(random: Random, noun: string, count: number, demand: number, rivalMean: number): Surface[] {
  const list: Surface[] = [];
  for (let i = 0; i < 3; i++) {
    // How our items compare with the rival's price and rating, as seen on its page.
    const standing = Math.exp(0.4 * normal(random));
    list.push({
      kind: "page",
      label: `${RIVAL_BRANDS[(i + count) % RIVAL_BRANDS.length]} ${noun} no. ${i + 1}`,
      volume: (demand * 1.6 * Math.exp(0.5 * normal(random))) / (i + 1),
      rivalMean,
      rivalSpread: 0.7,
      ctr: 0.9,
      cvr: Math.min(1.8, standing),
      fit: new Float64Array(count).fill(0.9),
    });
  }
  for (let i = 0; i < 2; i++) {
    const what = COMPANIONS[Math.floor(random() * COMPANIONS.length)] as string;
    list.push({
      kind: "page",
      label: `${noun} ${what} no. ${i + 1}`,
      volume: (demand * 1.1 * Math.exp(0.5 * normal(random))) / (i + 1),
      rivalMean: rivalMean - 0.3,
      rivalSpread: 0.7,
      ctr: 0.7,
      cvr: 0.6,
      fit: new Float64Array(count).fill(0.7),
    });
  }
  return list;
}

function placements(random: Random, noun: string, count: number, demand: number, rivalMean: number): Surface[] {
  const word = noun.replace(/[^\p{L}\p{N}]+/gu, "-");
  const kinds: [label: string, ctr: number, cvr: number, volume: number][] = [
    [`${word}-journal.example`, 1.1, 1.3, 0.8],
    [`${word}-clips.example/channel`, 0.8, 0.7, 1.2],
    [`app.example/${word}-diary`, 1, 0.6, 0.7],
    // Games draw clicks by mistake: many, and hardly any of them buys.
    [`app.example/games/${hashText(word) % 900}`, 2.6, 0.04, 1.6],
  ];
  return kinds.map(([label, ctr, cvr, volume]) => ({
    kind: "placement",
    label,
    volume: demand * 1.3 * volume * Math.exp(0.5 * normal(random)),
    rivalMean,
    rivalSpread: 0.8,
    ctr,
    cvr,
    fit: new Float64Array(count).fill(0.8),
  }));
}
