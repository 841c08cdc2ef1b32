import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { CHANNEL_LIMITS } from "../channel/limits";
import { areEnough, fieldsOf, type AssetSet } from "../account/records/assets";
import { type AdLine } from "../account/records/ad-lines";
import { numberColumn, textColumn } from "../kit/columns";
import { fillLine, lengthOf, stateOf } from "./ad-line";
import { adValues } from "./ad-values";
import { appealOf, hasAd, isComplete, itemAd } from "./item-ad";
import { readinessOf } from "./readiness";

const text = (words: string): AdLine => [{ kind: "text", text: words }];
const field = (name: string): AdLine => [{ kind: "field", field: name }];
const columns = {
  length: 3,
  columns: {
    title: textColumn(["Oak Rake", "Steel Spade with a handle that is far too long", ""]),
    brand: textColumn(["Thornlea", "", "Sunhatch"]),
    price: numberColumn([12_900, null, 5_000]),
    image: textColumn(["/a.png", "/b.png", ""]),
  },
};
const valueOf = adValues(columns);
const set = (change: Partial<AssetSet> = {}): AssetSet => ({
  headlines: [field("title"), text("Made to last")],
  descriptions: [[...text("By "), ...field("brand")]],
  pictures: [{ from: "field", field: "image" }],
  logo: null,
  ownBrand: true,
  ...change,
});

describe("an ad line", () => {
  it("reads as its texts and the item's fields, money with its currency, and names what is empty", () => {
    const line: AdLine = [...field("title"), ...text(" for "), ...field("price")];
    expect(fillLine(line, valueOf(0))).toEqual({ text: "Oak Rake for €12.90", empty: [] });
    expect(fillLine(line, valueOf(2))).toEqual({ text: "for €5.00", empty: ["title"] });
    expect(fillLine(field("gone"), valueOf(0))).toEqual({ text: "", empty: ["gone"] });
  });

  it("fits, is too long or leaves a gap; what is written with several code points counts once", () => {
    const most = CHANNEL_LIMITS.assets.headlines.length;
    const state = (words: string) => stateOf({ text: words, empty: [] }, "headlines");
    expect([state("x".repeat(most)), state("x".repeat(most + 1)), state("")]).toEqual(["fits", "long", "gap"]);
    expect(state("🌱".repeat(most))).toBe("fits");
    expect(lengthOf("🌱a")).toBe(2);
  });
});

describe("what an item shows", () => {
  it("is put together from the lines that fit it and the pictures it has", () => {
    expect(itemAd(set(), valueOf(0))).toEqual({
      headlines: ["Oak Rake", "Made to last"],
      descriptions: ["By Thornlea"],
      pictures: [{ from: "field", field: "image" }],
    });
    // Its title is too long and it has no brand.
    const second = itemAd(set(), valueOf(1));
    expect([second.headlines, second.descriptions, isComplete(second)]).toEqual([["Made to last"], [], false]);
    expect(itemAd(set(), valueOf(2)).pictures).toEqual([]);
  });

  it("draws more clicks the more there is to choose from, never more than plenty does, none without one of each", () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 20 }), { minLength: 3, maxLength: 3 }), (counts) => {
        const ad = (more = 0) => ({
          headlines: new Array<string>(counts[0]! + more).fill("h"),
          descriptions: new Array<string>(counts[1]! + more).fill("d"),
          pictures: new Array<AssetSet["pictures"][number]>(counts[2]! + more).fill({ from: "upload", picture: "p" }),
        });
        const drawn = appealOf(ad());
        expect(drawn === 0).toBe(counts.includes(0));
        expect(drawn).toBeLessThanOrEqual(1);
        expect(appealOf(ad(1))).toBeGreaterThanOrEqual(drawn);
      }),
    );
  });
});

describe("the readiness of a group", () => {
  it("says line by line for how many items it fits, and which do not", () => {
    const { lines, pictures, items, complete, thin, incompleteAt } = readinessOf(set(), [0, 1, 2], valueOf);
    expect(lines.map(({ list, at, fits, gap, long }) => [list, at, fits, gap, long])).toEqual([
      ["headlines", 0, 1, 1, 1],
      ["headlines", 1, 3, 0, 0],
      ["descriptions", 0, 2, 1, 0],
    ]);
    expect(lines[0]!.longest).toMatchObject({ row: 1, length: 46 });
    expect(lines[0]!.gapAt).toEqual({ row: 2, fields: ["title"] });
    expect([pictures, items, complete, thin, incompleteAt]).toEqual([[2], 3, 1, 0, 1]);
    // One headline is enough for an ad, and fewer than the channel asks a group for.
    const one = readinessOf({ ...set(), headlines: set().headlines.slice(0, 1) }, [0], valueOf);
    expect([one.complete, one.thin]).toEqual([1, 1]);
  });

  it("agrees with putting every item's ad together (property)", () => {
    const some = fc.constantFrom(field("title"), field("brand"), field("price"), text("Made to last"), text(""));
    const lists = fc.record({
      headlines: fc.array(some, { maxLength: 4 }),
      descriptions: fc.array(some, { maxLength: 3 }),
    });
    fc.assert(
      fc.property(lists, (change) => {
        const assets = set(change);
        const { complete, counts } = readinessOf(assets, [0, 1, 2], valueOf);
        expect(complete).toBe([0, 1, 2].filter((row) => appealOf(itemAd(assets, valueOf(row))) > 0).length);
        for (const row of [0, 1, 2]) expect(hasAd(assets, valueOf(row))).toBe(isComplete(itemAd(assets, valueOf(row))));
        expect(counts.every(({ isRight }) => isRight)).toBe(areEnough(assets));
      }),
    );
  });

  it("knows what the channel asks for, and which fields are read", () => {
    expect(areEnough(undefined)).toBe(false);
    expect(areEnough(set())).toBe(true);
    expect(areEnough(set({ headlines: [text("one")] }))).toBe(false);
    expect(areEnough(set({ descriptions: new Array<AdLine>(6).fill(text("x")) }))).toBe(false);
    expect(fieldsOf(set({ logo: { from: "field", field: "logo" } }))).toEqual(["title", "brand", "image", "logo"]);
  });
});
