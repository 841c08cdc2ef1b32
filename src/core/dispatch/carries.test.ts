import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { kindOf, type AccountRecord } from "../account/records";
import { diffOf, diffRecords, invertDiff } from "../kit/diff";
import { testCampaign } from "../market/test-shop";
import { answerAll } from "./answering";
import { notCarried } from "./carries";
import { carriesSchema, type Carries } from "./contract";
import { inOrder } from "./order";

const structure: Record<string, AccountRecord> = {
  ...testCampaign("c:f", { name: "Feed", folder: "Spring" }, ["I1"], 400),
  ...testCampaign("c:k", { name: "Keywords", kind: "keyword" }, ["I1"], 400, [
    { type: "keyword", text: "long handled garden rake", match: "broad", bid: 10 },
    { type: "keyword", text: "rake", match: "exact" },
  ]),
  n: {
    type: "negative",
    key: "n",
    scope: null,
    what: "term",
    match: "exact",
    value: "free",
    reason: "wasteful",
    reviewOn: null,
  },
  nk: {
    type: "negative",
    key: "nk",
    scope: "c:k",
    what: "term",
    match: "exact",
    value: "free",
    reason: "wasteful",
    reviewOn: null,
  },
};

const found = (carries: Carries, of = structure) =>
  notCarried(Account.EMPTY, diffRecords({}, of), carriesSchema.parse(carries), "EUR").map(
    ({ name, why, isWhole }) => `${name}: ${why}${isWhole ? "" : " (in part)"}`,
  );

describe("what a channel can't carry", () => {
  it("is nothing where it names no limits", () => expect(found({})).toEqual([]));

  it.each<[Carries, string[]]>([
    [{ matchTypes: ["exact", "phrase"] }, ["long handled garden rake (broad): broad match is not known there"]],
    [{ keywordWords: 3 }, ["long handled garden rake (broad): has 4 words; 3 at most are taken"]],
    [{ keywordLength: 10 }, ["long handled garden rake (broad): has 24 characters; 10 at most are taken"]],
    [{ lowestBid: 20 }, ["long handled garden rake (broad): bids €0.01; €0.02 is the least"]],
    [{ nameLength: 7 }, ["Keywords: its name has 8 characters; 7 at most are taken"]],
    [{ without: { campaign: ["folder", "flex"] } }, ["Feed: has no place there for: folder (in part)"]],
    [
      { exclusions: { workspace: ["item"], keyword: ["term"] } },
      ["free: terms can't be excluded for the whole workspace there"],
    ],
  ])("%j", (carries, expected) => {
    // Without the place that stands before the name.
    expect(found(carries).map((line) => line.replace(/^[^:]* › /, ""))).toEqual(expected);
  });

  it("names all of a kind of campaign it does not know, and of too many only those beyond that are new", () => {
    const ofKeywords = found({ campaignKinds: ["feed"] });
    expect(ofKeywords).toHaveLength(Object.keys(structure).filter((key) => key.includes("c:k") || key === "nk").length);
    const live = Account.of(Object.values(testCampaign("c:old", { name: "Old" }, ["I1"], 400)));
    const many = notCarried(live, diffRecords({}, structure), { campaigns: 2 }, "EUR");
    expect(many.map(({ key }) => key)).toEqual(["c:k"]);
  });

  it("says of a field that it would be lost where it is set, or cleared, and not where it stays", () => {
    const live = Account.of(Object.values(structure));
    const campaign = structure["c:f"] as Extract<AccountRecord, { type: "campaign" }>;
    const { folder: _, ...plain } = campaign;
    const changed = (after: AccountRecord) =>
      notCarried(live, diffOf([["c:f", campaign, after]]), { without: { campaign: ["folder"] } }, "EUR").length;
    expect(changed({ ...campaign, dailyBudget: 1 })).toBe(0);
    expect(changed({ ...campaign, folder: "Autumn" })).toBe(1);
    expect(changed(plain)).toBe(1);
  });
});

describe("changes in order", () => {
  it("are taken by a channel that has nothing, whatever order they stand in, and so is their inverse", () => {
    const keys = Object.keys(structure);
    fc.assert(
      fc.property(fc.shuffledSubarray(keys, { minLength: keys.length }), (order) => {
        const diff = diffRecords({}, Object.fromEntries(order.map((key) => [key, structure[key]!])));
        const books = new Map<string, AccountRecord>();
        const made = answerAll((key) => books.get(key), inOrder(diff));
        expect(made.answers.every(({ state }) => state === "taken")).toBe(true);
        for (const [key, record] of made.moved) books.set(key, record!);
        expect(Object.fromEntries(books)).toEqual(structure);
        const removals = inOrder(invertDiff(diff));
        // Nothing goes before what hangs below it.
        const left = new Set(keys);
        for (const { key } of removals) {
          left.delete(key);
          for (const other of left) {
            const record = structure[other]!;
            expect(
              kindOf(record.type)
                .parents(record)
                .map((parent) => parent.key),
            ).not.toContain(key);
          }
        }
        expect(left.size).toBe(0);
      }),
    );
  });

  it("taken twice change nothing the second time, and refuse what somebody else changed", () => {
    const [campaign] = Object.values(structure) as Extract<AccountRecord, { type: "campaign" }>[];
    const theirs = { ...campaign!, dailyBudget: 1 };
    const books = new Map<string, AccountRecord>([[campaign!.key, campaign!]]);
    const raise = { key: campaign!.key, before: campaign!, after: { ...campaign!, dailyBudget: 9_000 } };
    const first = answerAll((key) => books.get(key), [raise, raise]);
    expect(first.answers.map(({ state }) => state)).toEqual(["taken", "taken"]);
    books.set(campaign!.key, theirs);
    const late = answerAll((key) => books.get(key), [raise]);
    expect(late.answers).toMatchObject([{ state: "refused", stands: theirs }]);
    expect(late.moved.size).toBe(0);
  });
});
