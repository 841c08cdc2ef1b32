import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { REACHES } from "../account/records/reach";
import { kindServed, placeKindOf, type PlaceHints } from "./place-kind";

const hints = (told: Partial<Record<"listings" | "queries" | "asTerm" | "asListing", string[]>>): PlaceHints => ({
  isListing: (text) => told.listings?.includes(text) ?? false,
  isQuery: (text) => told.queries?.includes(text) ?? false,
  served: (text) => ({
    asTerm: told.asTerm?.includes(text) ?? false,
    asListing: told.asListing?.includes(text) ?? false,
  }),
});

describe("a line of the term report", () => {
  it.each([
    // text, what is known, what it is
    ["garden hose", {}, "term"],
    ["hose 25m", {}, "term"],
    ["larkspire hose no. 1", { listings: ["larkspire hose no. 1"] }, "listing"],
    ["larkspire hose no. 1", { asListing: ["larkspire hose no. 1"] }, "listing"],
    ["larkspire hose no. 1", { asTerm: ["larkspire hose no. 1"] }, "term"],
    // Its words were searched for, and its page was shown on: only who asks knows which is meant.
    ["larkspire hose no. 1", { listings: ["larkspire hose no. 1"], asTerm: ["larkspire hose no. 1"] }, null],
    ["X7K20PQ4", {}, null],
    ["X7K20PQ4", { queries: ["X7K20PQ4"] }, "term"],
    ["4711", {}, null],
    ["***", {}, null],
    ["https://shop.example/p/1", {}, "listing"],
    ["растения", {}, "term"],
    ["gartenschlauch25m", {}, "term"],
  ])("%s with %j is %s", (text, told, kind) => {
    expect(placeKindOf(text, hints(told))).toBe(kind);
  });

  it("is never said to be what nothing speaks for, where something speaks for the other", () => {
    fc.assert(
      fc.property(fc.string(), fc.boolean(), fc.boolean(), fc.boolean(), fc.boolean(), (text, l, q, t, p) => {
        const kind = placeKindOf(text, {
          isListing: () => l,
          isQuery: () => q,
          served: () => ({ asTerm: t, asListing: p }),
        });
        if ((q || t) && !(l || p)) expect(kind).toBe("term");
        if ((l || p) && !(q || t)) expect(kind).toBe("listing");
        if ((l || p) && (q || t)) expect(kind).toBeNull();
      }),
    );
  });

  it("is told by what served there: keywords and reach among searches by terms, the others by pages", () => {
    const base = { key: "t", adGroup: "g", status: "on", bid: null } as const;
    expect(kindServed({ ...base, type: "keyword", text: "a", match: "exact" }, undefined)).toBe("term");
    expect(kindServed({ ...base, type: "listingTarget", aim: { by: "listing", listing: "a" } }, undefined)).toBe(
      "listing",
    );
    const reached = REACHES.map((kind) => kindServed({ ...base, type: "reach", kind }, undefined));
    expect(reached).toEqual(["term", "term", "term", "listing", "listing", "listing"]);
    // A report of another platform: its match type says it, anything else says nothing.
    expect(["Exact", "broad", "automatic", undefined].map((match) => kindServed(undefined, match))).toEqual([
      ...["term", "term", null, null],
    ]);
  });
});
