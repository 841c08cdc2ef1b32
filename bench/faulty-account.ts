// Accounts whose faults are known because they were put there, in worlds drawn from a salt.
import { recordSchema, type AccountRecord } from "@/core/account/records";
import type { Campaign } from "@/core/account/records/campaign";
import type { Structure } from "@/core/account/account";
import { randomFrom } from "@/core/kit/random";
import type { FaultKey } from "@/core/stocktake/finding";

/** What can be put into an account so that a stocktake has to find it. */
export const PLANTED = [
  "leak",
  "homeless",
  "sold-out",
  "sold-out-sellers",
  "tracking",
  "below-goal",
  "dry",
  "name-clash",
  "same-keyword",
  "brand-mix",
  "overlap",
  "too-small",
  "weak-campaign",
  "weak-match",
  "waste-items",
  "waste-terms",
] as const satisfies readonly FaultKey[];
export type Planted = (typeof PLANTED)[number];

export interface ShopItem {
  id: string;
  title: string;
  brand: string;
  noun: string;
  price: number;
  soldOut: boolean;
}

const NOUNS = ["lamp", "shade", "cable", "socket", "dimmer", "bulb", "spotlight", "panel"];
const MAKERS = ["Brennfeld", "Oldmarch", "Tarnwick", "Hollin", "Sevenoak"];
const KINDS = ["brass", "oak", "slim", "glass", "steel", "linen"];

/** A made-up shop of lights, a category a noun, all of it in stock. */
export function drawShop(items: number, seed: string): ShopItem[] {
  const random = randomFrom("faulty shop", seed);
  const middle = NOUNS.map(() => 15_000 * Math.exp(0.8 * (random() + random() - 1)));
  return Array.from({ length: items }, (_, i) => {
    const noun = i % NOUNS.length;
    const brand = MAKERS[Math.floor(random() * MAKERS.length)]!;
    return {
      id: `L${i}`,
      title: `${brand} ${KINDS[Math.floor(random() * KINDS.length)]} ${NOUNS[noun]} ${i}`,
      brand,
      noun: NOUNS[noun]!,
      price: Math.round(middle[noun]! * Math.exp(0.8 * (random() + random() - 1))),
      soldOut: false,
    };
  });
}

/** The shop as a feed file. */
export function feedOf(shop: readonly ShopItem[]): string {
  const rows = shop.map(
    ({ id, title, brand, noun, price, soldOut }) =>
      `${id},${title},${(price / 1000).toFixed(2)},${brand},Lighting > ${noun}s,${soldOut ? "out of stock" : "in stock"}`,
  );
  return `id,title,price,brand,category,availability\n${rows.join("\n")}\n`;
}

/** Bids in mills: of each category's campaign, and of the exact keyword for its noun. */
export interface Bids {
  feed: Record<string, number>;
  keyword: Record<string, number>;
}

export const NOUNS_WITH_WORDS = NOUNS.slice(0, 3);
const PLENTY = 500_000_000;
/** The least that the test market takes a day. */
const LEAST_BUDGET = 500;

class Builder {
  readonly records: Structure = {};

  put(record: Record<string, unknown>): void {
    const made = recordSchema.parse(record) as AccountRecord;
    this.records[made.key] = made;
  }

  campaign(key: string, name: string, bid: number, more: Partial<Campaign> = {}): void {
    this.put({
      ...{ type: "campaign", key: `c:${key}`, name, kind: "feed", purpose: "scale", bidding: "fixed", goal: null },
      ...{ dailyBudget: PLENTY, status: "on", serveOrder: 5, inStockOnly: false, origin: null, ...more },
    });
    this.put({ type: "adGroup", key: `g:${key}`, campaign: `c:${key}`, name, status: "on", bid: Math.round(bid) });
  }

  /** Items by name in the campaign's ad group; what is left over is closed, or open. */
  items(key: string, ids: readonly string[], bidOf: (id: string) => number | null = () => null, isOpen = false): void {
    const base = { type: "productGroup", adGroup: `g:${key}`, bid: null, status: "on" };
    const root = `p:${key}`;
    this.put({ ...base, key: root, parent: null, role: "split", value: null, by: "id" });
    for (const id of ids)
      this.put({ ...base, key: `${root}/${id}`, parent: root, role: "unit", value: id, by: null, bid: bidOf(id) });
    const status = isOpen ? "on" : "closed";
    this.put({ ...base, key: `${root}/*`, parent: root, role: "remainder", value: null, by: null, status });
  }

  keyword(key: string, text: string, match: string, bid: number): void {
    const name = `t:${key}/${match}/${text.replaceAll(" ", "-")}`;
    this.put({ type: "keyword", key: name, adGroup: `g:${key}`, text, match, status: "on", bid: Math.round(bid) });
  }
}

/** What was planted, and the account and shop that it made. */
export interface Faulty {
  account: Structure;
  /** Items that are out of stock in the feed that is in force at the end. */
  soldOutLate: string[];
  /** The goal's factor. */
  goalTimes: number;
  /** Whether the orders of the last days are taken from the reports. */
  breaksTracking: boolean;
  /** What each of some faults is about: it is there only where that costs money and brings too little. */
  marks: Partial<Record<Planted, { kind: "campaign" | "match" | "item"; keys: string[] }>>;
}

/** So many times what a click is worth pays for nothing. */
const FAR_TOO_MUCH = 5;

/**
 * An account of a campaign a category and exact keywords for some, with the given faults in it.
 * @param full what each category's campaign spends a day with money enough, mills
 * @param sellers items that sell, the best first
 */
export function plantFaults(
  shop: readonly ShopItem[],
  { feed, keyword }: Bids,
  faults: ReadonlySet<Planted>,
  { full, sellers, seed }: { full: Record<string, number>; sellers: readonly string[]; seed: string },
): Faulty {
  const random = randomFrom("plant", seed);
  const order = [...NOUNS].sort(() => random() - 0.5);
  // Each fault has a category of its own, so that none hides another.
  const place = (fault: Planted) => order[PLACES.indexOf(fault) % order.length]!;
  const has = (fault: Planted) => faults.has(fault);
  const built = new Builder();
  const homeless = new Set(has("homeless") ? sellers.slice(20, 30) : []);
  const wasted = new Set(has("waste-items") ? sellers.slice(-WASTED) : []);
  for (const noun of NOUNS) {
    const ids = shop.filter((item) => item.noun === noun && !homeless.has(item.id)).map(({ id }) => id);
    const isWeak = has("weak-campaign") && place("weak-campaign") === noun;
    const bid = feed[noun]! * (isWeak ? FAR_TOO_MUCH : 1);
    const isDry = has("dry") && place("dry") === noun;
    const name = has("name-clash") && place("name-clash") === noun ? `${noun}s, keyword` : `${noun}s`;
    const money = isDry ? { dailyBudget: Math.max(LEAST_BUDGET, Math.round(full[noun]! / 4)) } : {};
    if (has("too-small") && place("too-small") === noun) {
      ids.forEach((id, at) => {
        built.campaign(`${noun}${at}`, `${noun} ${at}`, bid);
        built.items(`${noun}${at}`, [id]);
      });
      continue;
    }
    built.campaign(noun, name, bid, money);
    built.items(noun, ids, (id) => (wasted.has(id) ? Math.round(feed[noun]! * 2 * FAR_TOO_MUCH) : null));
  }
  for (const noun of NOUNS_WITH_WORDS) {
    const ids = shop.filter((item) => item.noun === noun && !homeless.has(item.id)).map(({ id }) => id);
    const key = `words-${noun}`;
    built.campaign(key, `${noun} words`, keyword[noun]!, { kind: "keyword", serveOrder: 3 });
    built.items(key, ids);
    built.keyword(key, noun, "exact", keyword[noun]!);
    built.keyword(key, `${noun}s`, "exact", keyword[noun]!);
  }
  const [first, second, third] = NOUNS_WITH_WORDS as [string, string, string];
  if (has("weak-match")) built.keyword(`words-${first}`, `${first}s`, "broad", keyword[first]! * FAR_TOO_MUCH);
  if (has("same-keyword")) {
    built.campaign("again", `${second} again`, keyword[second]!, { kind: "keyword", serveOrder: 4 });
    built.items(
      "again",
      shop.filter(({ noun }) => noun === second).map(({ id }) => id),
    );
    built.keyword("again", second, "exact", keyword[second]!);
  }
  if (has("brand-mix")) {
    for (const brand of MAKERS.slice(0, 3)) {
      built.keyword(`words-${third}`, `${brand.toLowerCase()} ${third}s`, "phrase", keyword[third]!);
    }
  }
  if (has("waste-terms")) {
    // A word of other things, bid as if it were one's own.
    built.campaign("stray", "Stray words", keyword[first]!, { kind: "keyword", serveOrder: 2 });
    built.items(
      "stray",
      shop.filter(({ noun }) => noun === first).map(({ id }) => id),
    );
    for (const noun of NOUNS.slice(3)) built.keyword("stray", `${noun}s`, "phrase", keyword[first]! * FAR_TOO_MUCH);
  }
  if (has("overlap")) {
    const noun = place("overlap");
    built.campaign("twice", "Everything twice", feed[noun]! * 2, { serveOrder: 1 });
    built.items(
      "twice",
      shop.filter((item) => item.noun === noun).map(({ id }) => id),
    );
  }
  if (has("leak")) {
    built.campaign("open", "Open to all", Math.min(...Object.values(feed)) / 2, {
      serveOrder: 8,
      purpose: "catch-all",
    });
    built.items("open", [shop[0]!.id], () => null, true);
  }
  return {
    account: built.records,
    soldOutLate: [
      ...(has("sold-out") ? sellers.slice(6, 14) : []),
      ...(has("sold-out-sellers") ? sellers.slice(0, 2) : []),
    ],
    goalTimes: has("below-goal") ? 4 : 1,
    breaksTracking: has("tracking"),
    marks: {
      "weak-campaign": { kind: "campaign", keys: [`c:${place("weak-campaign")}`] },
      "weak-match": { kind: "match", keys: ["broad"] },
      "waste-items": { kind: "item", keys: [...wasted] },
      "waste-terms": { kind: "campaign", keys: ["c:stray"] },
      dry: { kind: "campaign", keys: [`c:${place("dry")}`] },
    },
  };
}

const WASTED = 8;
/** Faults that need a category of their own. */
const PLACES: Planted[] = ["weak-campaign", "dry", "name-clash", "overlap", "too-small"];
