import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Keyword } from "../account/records/keyword";
import { matches } from "../channel/matching";
import {
  indexTerms,
  negativeFault,
  replayNegatives,
  cutKeywords,
  silencedKeywords,
  type PastTerms,
  type ThoughtOf,
} from "./replay";

const line = fc.record({
  words: fc.array(fc.constantFrom("red", "hose", "hoses", "garden", "free", "plans", "зеленый"), {
    minLength: 1,
    maxLength: 4,
  }),
  campaign: fc.constantFrom("c1", "c2"),
  cost: fc.integer({ min: 0, max: 99 }),
  orders: fc.integer({ min: 0, max: 3 }),
});

function pastOf(lines: { words: string[]; campaign: string; cost: number; orders: number }[]): PastTerms {
  const labels = [...new Set(lines.map(({ words }) => words.join(" ")))];
  return {
    labels,
    term: Uint32Array.from(lines, ({ words }) => labels.indexOf(words.join(" "))),
    campaign: lines.map(({ campaign }) => campaign),
    adGroup: lines.map(({ campaign }) => `${campaign}/g`),
    target: lines.map(() => ""),
    sums: {
      impressions: Float64Array.from(lines, () => 20),
      clicks: Float64Array.from(lines, () => 1),
      cost: Float64Array.from(lines, ({ cost }) => cost),
      orders: Float64Array.from(lines, ({ orders }) => orders),
      revenue: Float64Array.from(lines, ({ orders }) => orders * 10),
    },
  };
}

/** The words of this file as they count: a plural is its singular. */
const AS_COUNTED: Record<string, string> = { hoses: "hose", plans: "plan" };

/** Whether a negative stops a search, by laying it on every place of it. */
function isStopped(negative: { value: string; match: "exact" | "phrase" }, searched: string[]): boolean {
  const plain = (words: string[]) => words.map((word) => AS_COUNTED[word] ?? word);
  const [wanted, words] = [plain(negative.value.split(" ")), plain(searched)];
  const places = negative.match === "exact" ? [0] : words.map((_, at) => at);
  if (negative.match === "exact" && words.length !== wanted.length) return false;
  return places.some((at) => wanted.every((word, i) => words[at + i] === word));
}

describe("the replay of negatives", () => {
  it("stops exactly what the channel's matching says, within the scope, each line once", () => {
    const negative = fc.record({
      what: fc.constant("term" as const),
      match: fc.constantFrom("exact" as const, "phrase" as const),
      value: fc
        .array(fc.constantFrom("red", "hose", "free", "plans", "зеленый"), { minLength: 1, maxLength: 2 })
        .map((words) => words.join(" ")),
      scope: fc.constantFrom(null, "c1", "c2/g"),
    });
    fc.assert(
      fc.property(
        fc.array(line, { maxLength: 25 }),
        fc.array(negative, { minLength: 1, maxLength: 3 }),
        (lines, negatives) => {
          const past = pastOf(lines);
          const hit = lines.filter(({ words, campaign }) =>
            negatives.some(
              (negative) => [null, campaign, `${campaign}/g`].includes(negative.scope) && isStopped(negative, words),
            ),
          );
          const found = replayNegatives(negatives, past, indexTerms(past.labels));
          expect([found.clicks, found.cost, found.orders]).toEqual([
            hit.length,
            hit.reduce((sum, { cost }) => sum + cost, 0),
            hit.reduce((sum, { orders }) => sum + orders, 0),
          ]);
          expect(found.terms).toBe(new Set(hit.map(({ words }) => words.join(" "))).size);
        },
      ),
    );
  });

  it("tells what else it stops, what sold first", () => {
    const past = pastOf([
      { words: ["free", "plans"], campaign: "c1", cost: 50, orders: 0 },
      { words: ["free", "hose"], campaign: "c1", cost: 9, orders: 1 },
      { words: ["free", "plans", "garden"], campaign: "c2", cost: 20, orders: 0 },
      { words: ["hose"], campaign: "c1", cost: 5, orders: 3 },
    ]);
    const one: ThoughtOf = { what: "term", match: "phrase", value: "Free", scope: null };
    const found = replayNegatives([one], past, indexTerms(past.labels));
    expect(found).toMatchObject({ terms: 3, cost: 79, orders: 1, others: { terms: 3, sold: 1 } });
    expect(found.also.map(({ label }) => label)).toEqual(["free hose", "free plans", "free plans garden"]);
    // Many are counted, though only the first are told.
    const many = pastOf(
      Array.from({ length: 120 }, (_, i) => ({
        ...{ words: ["free", `word${i}`], campaign: "c1" },
        cost: 1,
        orders: i % 2,
      })),
    );
    const all = replayNegatives([one], many, indexTerms(many.labels));
    expect([all.others, all.also.length]).toEqual([{ terms: 120, sold: 60 }, 50]);
    const page: ThoughtOf = { what: "listing", match: "exact", value: "hose", scope: "c2" };
    expect(replayNegatives([page], past, indexTerms(past.labels)).terms).toBe(0);
  });

  it("names our own keywords that would never show again", () => {
    const keyword = (text: string, adGroup: string): Keyword => ({
      type: "keyword",
      key: text,
      adGroup,
      text,
      match: "exact",
      status: "on",
      bid: null,
    });
    const keywords = [keyword("garden hoses", "g1"), keyword("hose reel", "g2"), keyword("rake", "g1")];
    const negative: ThoughtOf = { what: "term", match: "phrase", value: "hose", scope: null };
    const of = (scope: string | null) =>
      silencedKeywords([{ ...negative, scope }], keywords, (group) => (group === "g1" ? "c1" : "c2")).map(
        ({ text }) => text,
      );
    expect(of(null)).toEqual(["garden hoses", "hose reel"]);
    expect(of("c1")).toEqual(["garden hoses"]);
    expect(of("g2")).toEqual(["hose reel"]);
  });

  it("silences a keyword only where every query that the keyword matches is stopped", () => {
    const vocabulary = ["red", "hose", "garden", "free", "plans"];
    const some = fc.array(fc.constantFrom(...vocabulary), { minLength: 1, maxLength: 4 });
    let silenced = 0;
    fc.assert(
      fc.property(
        some,
        some,
        fc.constantFrom("exact" as const, "phrase" as const),
        fc.constantFrom("exact" as const, "phrase" as const, "broad" as const),
        fc.array(some, { minLength: 20, maxLength: 20 }),
        (stopping, own, how, match, queries) => {
          const negative: ThoughtOf = { what: "term", match: how, value: stopping.join(" "), scope: null };
          const keyword: Keyword = {
            ...{ type: "keyword", key: "k", adGroup: "g", text: own.join(" "), match, status: "on", bid: null },
          };
          if (silencedKeywords([negative], [keyword], () => "c").length === 0) return;
          silenced++;
          for (const query of [own, ...queries]) {
            if (matches(own, query, match)) expect(matches(stopping, query, how)).toBe(true);
          }
        },
      ),
      { numRuns: 3000 },
    );
    expect(silenced).toBeGreaterThan(50);
  });

  it("cuts a keyword that loses some of its terms: an exact negative takes one of a broad keyword's three", () => {
    const had = pastOf(
      [["hoses"], ["red", "hoses"], ["garden", "hoses"], ["free", "plans"]].map((words) => ({
        ...{ words, campaign: "c1", cost: 5, orders: 0 },
      })),
    );
    const past = { ...had, target: ["k", "k", "k", "other"] };
    const keyword = {
      type: "keyword",
      key: "k",
      adGroup: "c1/g",
      text: "hoses",
      match: "broad",
      status: "on",
      bid: null,
    } as const;
    const cut = (negative: Omit<ThoughtOf, "what">) =>
      cutKeywords([{ what: "term", ...negative }], [keyword], past, indexTerms(past.labels)).map(
        ({ stopped, of }) => `${stopped} of ${of}`,
      );
    expect(cut({ match: "exact", value: "hoses", scope: null })).toEqual(["1 of 3"]);
    expect(
      silencedKeywords([{ what: "term", match: "exact", value: "hoses", scope: null }], [keyword], () => "c1"),
    ).toEqual([]);
    expect(cut({ match: "phrase", value: "hose", scope: "c1" })).toEqual(["3 of 3"]);
    expect(cut({ match: "phrase", value: "hose", scope: "c2" })).toEqual([]);
    expect(cut({ match: "exact", value: "free plans", scope: null })).toEqual([]);
  });

  it("refuses what can't be one", () => {
    expect(negativeFault({ what: "term", value: "!!! ???" })).toContain("no word");
    expect(negativeFault({ what: "term", value: "зелёный шланг" })).toBeNull();
    expect(negativeFault({ what: "placement", value: "a site.example" })).toContain("space");
    expect(negativeFault({ what: "placement", value: "https://" })).toContain("no address");
  });
});
