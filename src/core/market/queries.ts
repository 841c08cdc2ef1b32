import { normal, randomFrom } from "../kit/random";
import { RIVAL_BRANDS } from "./listings";
import type { Nature } from "./nature";
import type { QueryClass, Surface } from "./world-types";

export interface ItemText {
  title: string;
  brand: string;
}

const LONG_TAILS = ["for small gardens", "heavy duty", "set", "best", "easy", "with cover", "outdoor", "large"];

/** Exponent of the Zipf law by which a category's demand falls over its queries. */
const ZIPF = 0.8;

/** Who adds "buy" means it: conversion against that of the broad query. */
const MEANING_IT = 1.85;

/** What people who search like this do: clicks, conversion, how hard it is to win. */
const intentIn = (nature: Nature): Record<QueryClass, { ctr: number; cvr: number; hardness: number }> => ({
  broad: { ctr: 0.9, cvr: nature.broadBuying, hardness: 0.25 },
  attribute: { ctr: 1.15, cvr: nature.attributeBuying, hardness: 0 },
  long: { ctr: 1.3, cvr: nature.longBuying, hardness: -0.3 },
  "own-brand": { ctr: 1.5, cvr: nature.brandBuying, hardness: -0.1 },
  "rival-brand": { ctr: 0.5, cvr: nature.rivalBrandBuying, hardness: 0.3 },
  bargain: { ctr: 1, cvr: nature.bargainBuying, hardness: 0.05 },
  "how-to": { ctr: 0.6, cvr: 0.12 * nature.idleBuying, hardness: -0.4 },
  "off-topic": { ctr: 0.5, cvr: 0.03 * nature.idleBuying, hardness: -0.6 },
});

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

interface Draft {
  label: string;
  queryClass: QueryClass;
  /** What its class makes it worth; the order by which the Zipf law shares out demand. */
  weight: number;
  fit: Float64Array;
}

/** The queries of a category, made of its own words, with volumes by a Zipf law. `demand` is views a day in all. */
export function querySurfaces(
  seed: string,
  category: string,
  noun: string,
  items: ItemText[],
  demand: number,
  rivalMean: number,
  nature: Nature,
): Omit<Surface, "id">[] {
  const intents = intentIn(nature);
  const random = randomFrom(seed, "queries", category);
  const drafts: Draft[] = [];
  const all = new Float64Array(items.length).fill(0.8);
  const words = tellingWords(items, noun);
  const withWord = (word: string, hit: number, miss: number) =>
    Float64Array.from(items, (item) => (item.title.includes(word) ? hit : miss));
  const add = (label: string, queryClass: QueryClass, weight: number, fit: Float64Array) =>
    drafts.push({ label, queryClass, weight: weight * Math.exp(0.3 * normal(random)), fit });
  add(noun, "broad", 1.1, all);
  add(`buy ${noun}`, "broad", 0.35, all);
  words.slice(0, 5).forEach((word, i) => {
    add(`${word} ${noun}`, "attribute", 0.55 / (i + 1), withWord(word, 1.25, 0.15));
  });
  words.slice(0, 5).forEach((word, i) => {
    const tail = LONG_TAILS[Math.floor(random() * LONG_TAILS.length)]!;
    add(`${word} ${noun} ${tail}`, "long", 0.2 / (i + 1), withWord(word, 1.3, 0.05));
  });
  const brandCounts = new Map<string, number>();
  for (const { brand } of items) if (brand !== "") brandCounts.set(brand, (brandCounts.get(brand) ?? 0) + 1);
  const topBrands = [...brandCounts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).slice(0, 3);
  topBrands.forEach(([brand], i) => {
    const fit = Float64Array.from(items, (item) => (item.brand === brand ? 1.6 : 0.05));
    add(`${brand.toLowerCase()} ${noun}`, "own-brand", 0.4 / (i + 1), fit);
  });
  add(`${RIVAL_BRANDS[Math.floor(random() * RIVAL_BRANDS.length)]} ${noun}`, "rival-brand", 0.3, all);
  add(`cheap ${noun}`, "bargain", 0.4, all);
  add(`how to use ${noun}`, "how-to", 0.35, all);
  add(`${noun} pictures`, "off-topic", 0.2, all);
  drafts.sort((a, b) => b.weight - a.weight || (a.label < b.label ? -1 : 1));
  const zipf = drafts.map((_, rank) => (rank + 1) ** -ZIPF);
  const whole = zipf.reduce((a, b) => a + b, 0);
  // Some five times the category's demand lies in its queries.
  return drafts.map(({ label, queryClass, fit }, rank) => {
    const { ctr, cvr, hardness } = intents[queryClass];
    return {
      kind: "query",
      queryClass,
      label,
      listing: null,
      ownRow: -1,
      volume: (demand * 5 * zipf[rank]!) / whole,
      rivalMean: rivalMean + hardness,
      rivalSpread: 0.55 + 0.15 * random(),
      ctr,
      cvr: label.startsWith("buy ") ? MEANING_IT * cvr : cvr,
      fit,
      lift: null,
      incremental: queryClass === "own-brand" ? nature.brandNew : nature.genericNew,
    };
  });
}
