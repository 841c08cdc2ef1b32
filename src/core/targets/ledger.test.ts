import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import type { AccountRecord } from "../account/records";
import { testCampaign } from "../market/test-shop";
import { ledgerKey, ledgerOf, namedBy, type LedgerNote, type SentChange } from "./ledger";

const keyword = (key: string, text: string, more: object = {}) =>
  ({ type: "keyword", key, adGroup: "g:k", text, match: "exact", status: "on", bid: null, ...more }) as AccountRecord;
const negative = (value: string, more: object = {}) =>
  ({
    ...{ type: "negative", key: `n:${value}`, scope: null, what: "term", match: "exact", value },
    ...{ reason: "wasteful", reviewOn: null, ...more },
  }) as AccountRecord;

const base = testCampaign("k", { kind: "keyword", name: "Words" }, ["I0"], 100);
const accountOf = (...records: AccountRecord[]) =>
  Account.fromStructure({ ...base, ...Object.fromEntries(records.map((record) => [record.key, record])) });
const note = (text: string, state: LedgerNote["state"] = "dismissed"): LedgerNote => ({
  ...{ what: "term", text, state, reason: "not ours", who: "ann", day: "2026-10-02" },
});
const ledger = (live: AccountRecord[], planned: AccountRecord[], notes: LedgerNote[] = [], sent: SentChange[] = []) =>
  ledgerOf(accountOf(...live), accountOf(...planned), notes, sent, (key) => (key === "k" ? "Words" : key));
const states = (found: ReturnType<typeof ledger>) =>
  Object.fromEntries([...found].map(([key, { state, since }]) => [key, since ? `${state} since ${since}` : state]));

describe("the ledger", () => {
  it("has each thing once, however it is written and wherever it stands", () => {
    const twice = [keyword("a", "Garden  Hose"), keyword("b", "garden hose", { status: "paused" })];
    const found = ledger(twice, twice, [note("GARDEN HOSE")]);
    expect(states(found)).toEqual({ "term/garden hose": "in use" });
    expect(found.get(ledgerKey("term", "garden hose"))!.where).toEqual(["Words"]);
  });

  it("counts something as in use only once it was sent", () => {
    const sent: SentChange[] = [{ before: null, after: keyword("a", "hose"), day: "2026-10-05" }];
    expect(states(ledger([], [keyword("a", "hose")]))).toEqual({ "term/hose": "waiting" });
    expect(states(ledger([keyword("a", "hose")], [keyword("a", "hose")], [], sent))).toEqual({
      "term/hose": "in use since 2026-10-05",
    });
    // Another bid is no new use; a pause is a new state, and another text is another thing.
    const bid = { before: keyword("a", "hose"), after: keyword("a", "hose", { bid: 90 }), day: "2026-10-09" };
    const now = keyword("a", "hose", { bid: 90 });
    expect(states(ledger([now], [now], [], [...sent, bid]))).toEqual({ "term/hose": "in use since 2026-10-05" });
    const off = { before: now, after: keyword("a", "hose", { bid: 90, status: "paused" }), day: "2026-10-12" };
    expect(states(ledger([off.after], [off.after], [], [...sent, bid, off]))).toEqual({
      "term/hose": "paused since 2026-10-12",
    });
  });

  it("forgets nothing: what is aimed at no more is retired, what is noted stays noted", () => {
    const gone = [
      { before: null, after: keyword("a", "hose"), day: "2026-10-05" },
      { before: keyword("a", "hose"), after: null, day: "2026-10-20" },
    ];
    expect(states(ledger([], [], [note("rake", "elsewhere")], gone))).toEqual({
      "term/hose": "retired since 2026-10-20",
      "term/rake": "elsewhere since 2026-10-02",
    });
    // Blocked counts before an old use, and a decision before both is overruled by what somebody does.
    expect(states(ledger([negative("hose")], [negative("hose")], [note("hose")], gone))).toEqual({
      "term/hose": "blocked",
    });
  });

  it("names what is named: broad and phrase keywords, windows and placements are no names", () => {
    const window = { type: "listingTarget", key: "w", adGroup: "g:k", status: "on", bid: null } as const;
    const ends = { priceFrom: null, priceTo: null, ratingFrom: null, ratingTo: null, reviewsTo: null };
    expect(
      [
        keyword("a", "Hose"),
        keyword("b", "hose", { match: "broad" }),
        { ...window, aim: { by: "listing", listing: "X Y" } },
        { ...window, aim: { by: "category", category: "Garden", ...ends } },
        negative("cheap hose"),
        negative("cheap", { match: "phrase" }),
        negative("X Y", { what: "listing" }),
        negative("site.example", { what: "placement" }),
      ].map((record) => namedBy(record as AccountRecord)),
    ).toEqual(["term/hose", null, "listing/X Y", null, "term/cheap hose", null, "listing/X Y", null]);
  });
});
