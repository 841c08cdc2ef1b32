import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { placeSchema } from "../channel/place";
import { keywordPool, titlePhrases, type PoolItem } from "./keyword-pool";
import { ledgerKey } from "./ledger";

const CANS: PoolItem[] = [
  { title: "Harrowfen Long Reach Watering Can 5 l", brand: "Harrowfen", category: "Watering > Watering cans" },
  { title: "Ottersby Watering Can", brand: "Ottersby", category: "Watering > Watering cans" },
];
const query = (name: string, views: number) =>
  placeSchema.parse({ kind: "query", name, monthlyViews: views, low: 90, typical: 150, high: 400 });

describe("phrases of titles", () => {
  it("end in what the category is called, without sizes, those that most items share first", () => {
    expect(titlePhrases(CANS)).toEqual([
      ...["watering can", "harrowfen watering cans", "long reach watering can", "ottersby watering can"],
      ...["ottersby watering cans", "reach watering can"],
    ]);
    expect(titlePhrases([{ title: "Veldine Oak", brand: "Veldine", category: "Rakes" }])).toEqual([
      ...["oak rakes", "veldine oak rakes", "veldine rakes"],
    ]);
    expect(titlePhrases([{ title: "№ 5", brand: "", category: "" }])).toEqual([]);
  });
});

describe("the pool of keywords", () => {
  it("has each candidate once with all that tells of it, by hand", () => {
    const pool = keywordPool(
      CANS,
      [query("watering cans", 900), query("long reach watering can", 80), query("how to water", 500)],
      ["Watering  Cans", "can for roses"],
      new Set(["harrowfen", "ottersby"]),
    );
    const of = (text: string) => pool.find((term) => term.text.toLowerCase() === text)!;
    expect(of("watering cans")).toMatchObject({
      origins: ["channel", "results", "titles"],
      relevance: 1,
      monthlyViews: 900,
    });
    expect(of("long reach watering can")).toMatchObject({
      origins: ["channel", "titles"],
      relevance: 0.5,
      typical: 150,
    });
    expect(of("how to water")).toMatchObject({ relevance: 0 });
    expect(of("can for roses")).toMatchObject({
      origins: ["results"],
      relevance: 0,
      typical: null,
      monthlyViews: null,
    });
    expect(of("ottersby watering can")).toMatchObject({ isOwnBrand: true, relevance: 0.5 });
    // The plural is the same term.
    expect([of("watering can"), of("watering cans").isOwnBrand]).toEqual([undefined, false]);
  });

  it("never has a thing twice, nor what the channel would not take, whatever is given", () => {
    const text = fc.oneof(
      fc.string({ maxLength: 120 }),
      fc.constantFrom("Hose", "hose ", "HOSE", "!!!", "шланг", "hose  reel"),
    );
    fc.assert(
      fc.property(fc.array(text), fc.array(text), (told, seen) => {
        const places = told.filter((name) => name !== "").map((name) => placeSchema.parse({ kind: "query", name }));
        const keys = keywordPool(CANS, places, seen, new Set()).map((term) => ledgerKey("term", term.text));
        expect(new Set(keys).size).toBe(keys.length);
        for (const key of keys) expect(key.length - "term/".length).toBeLessThanOrEqual(80);
      }),
    );
  });
});
