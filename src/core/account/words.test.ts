import { describe, expect, it } from "vitest";
import { diffRecords, emptyDiff, invertDiff } from "../kit/diff";
import { structureCsv } from "../dispatch/export";
import { Account, type Structure } from "./account";
import { checkDiff } from "./checks";
import { kindOf, RECORD_TYPES, recordSchema, type AccountRecord, type RecordType } from "./records";
import { changesInWords, describeDiff } from "./words";
import Papa from "papaparse";

/** A record of every kind, all in one account. */
const EXAMPLES: Record<RecordType, object> = {
  campaign: {
    ...{ key: "c", name: "Seeds", kind: "keyword", purpose: "rank", bidding: "fixed", goal: null, dailyBudget: 12_000 },
    ...{ status: "on", serveOrder: 1, inStockOnly: true, origin: null, pool: "pool", slots: { "lead-row": 1.5 } },
  },
  pool: { key: "pool", name: "Spring", dailyBudget: 50_000 },
  dayCap: { key: "day-cap", dailyBudget: 90_000 },
  adGroup: { key: "g", campaign: "c", name: "Herbs", status: "on", bid: 300 },
  assets: {
    ...{ key: "a:g", adGroup: "g", logo: null, ownBrand: false, descriptions: [] },
    headlines: [[{ kind: "field", field: "title" }]],
    pictures: [{ from: "field", field: "image" }],
  },
  ad: {
    ...{ key: "ad:g/a", adGroup: "g", name: "Ad 1", status: "on", headlines: ["Basil seeds", "From €1.90"] },
    ...{ descriptions: ["Grows on every sill."], address: "herbs", link: "https://quillmoor.example/q7" },
    ...{ always: ["Basil seeds"], claims: { "copy:price": "€1.90" } },
  },
  exclusion: { key: "x", campaign: "c", item: "Q7", reason: "unsafe", reviewOn: "2027-01-31" },
  negative: { key: "n", scope: "g", what: "term", match: "phrase", value: "free", reason: "wasteful", reviewOn: null },
  keyword: { key: "k", adGroup: "g", text: "basil seeds", match: "exact", status: "on", bid: 450 },
  listingTarget: { key: "t", adGroup: "g", aim: { by: "listing", listing: "L-9" }, status: "on", bid: null },
  reach: { key: "r", adGroup: "g", kind: "searches-around", status: "paused", bid: null },
  labels: { key: "l:tiers/hot", shelfSet: "tiers", shelf: "hot", name: "6.3 up", items: [1, 2, 3] },
  productGroup: { key: "p", adGroup: "g", parent: null, role: "unit", value: null, by: null, status: "on", bid: 200 },
};

const ALL: Structure = Object.fromEntries(
  Object.entries(EXAMPLES).map(([type, more]) => {
    const record = recordSchema.parse({ type, ...more });
    return [record.key, record];
  }),
);
const account = Account.fromStructure(ALL);

describe("words for changes", () => {
  it("say what comes, of every kind: what stops something first, then campaigns and what hangs below them", () => {
    const made = diffRecords<AccountRecord>({}, ALL);
    expect(changesInWords(Account.EMPTY, made, "EUR").map(({ text }) => text)).toEqual([
      "Item Q7 excluded in Seeds: unsafe",
      'New negative "free"',
      'New reach "searches, around"',
      'New campaign "Seeds" with €12.00 a day',
      'New budget pool "Spring" with €50.00 a day',
      "The whole workspace spends €90.00 a day at most",
      'New ad group "Seeds · Herbs"',
      "New assets of Seeds · Herbs: 1 headline, 0 descriptions, 1 picture",
      "New ad Seeds · Herbs · Ad 1: “Basil seeds” and 2 lines more",
      'New keyword "basil seeds (exact)"',
      'New listing target "L-9"',
      "Label sent: 3 items on 6.3 up of tiers",
      'New product group "Seeds · Herbs · all items" at €0.20 a click',
    ]);
    expect(describeDiff(Account.EMPTY, made, "EUR").length).toBe(RECORD_TYPES.length + 1);
  });

  it("say what goes by the names it had, and no more than that", () => {
    const gone = invertDiff(diffRecords<AccountRecord>({}, ALL));
    const words = changesInWords(account, gone, "EUR").map(({ text }) => text);
    expect(words).toContain('Keyword "basil seeds (exact)" removed');
    expect(words).toContain('Ad group "Seeds · Herbs" removed');
    expect(words).toContain("Item Q7 no longer excluded");
    expect(words.length).toBe(RECORD_TYPES.length);
  });

  it("say what changed in plain words, with money as money, and never in the words of the machine", () => {
    const change = (key: string, more: object): AccountRecord => recordSchema.parse({ ...ALL[key], ...more });
    const after: Structure = {
      ...ALL,
      c: change("c", { status: "paused", flex: { below: 0.6, above: 0.5 }, inStockOnly: false, origin: "p" }),
      pool: change("pool", { dailyBudget: 60_000 }),
      k: change("k", { bid: null }),
      n: change("n", { reviewOn: "2027-03-01" }),
      "l:tiers/hot": change("l:tiers/hot", { items: [2, 3, 4, 5] }),
      p: change("p", { status: "closed" }),
    };
    const words = changesInWords(account, diffRecords(ALL, after), "EUR").map(({ text }) => text);
    expect(words).toEqual([
      'Campaign "Seeds": paused, sold-out items left out → served too, auction flex −60 % to +50 %',
      'Product group "Seeds · Herbs · all items": closed',
      'Budget pool "Spring": daily budget €50.00 → €60.00',
      'Keyword "basil seeds (exact)": bid €0.45 → the group\'s bid',
      'Shelf label "6.3 up of tiers": 2 items came, 1 left',
      'Negative "free": to look at again none → 2027-03-01',
    ]);
    for (const text of words) expect(text).not.toMatch(/[{}[\]]|null|undefined|dailyBudget|reviewOn/);
  });
});

describe("the structure's file", () => {
  it("has a row for every record of every kind, under its key, with its campaign and ad group", () => {
    const { data } = Papa.parse<Record<string, string>>(structureCsv(account), { header: true, skipEmptyLines: true });
    expect(data.map((row) => row["key"]).sort()).toEqual(Object.keys(ALL).sort());
    for (const record of Object.values(ALL)) {
      const row = data.find(({ key }) => key === record.key)!;
      expect(row["level"]).toBe(kindOf(record.type).label[0]);
      if ("adGroup" in record) expect([row["campaign"], row["ad_group"]]).toEqual(["Seeds", "Herbs"]);
      const bid = kindOf(record.type).bid?.(record);
      if (bid && record.type !== "adGroup") expect(Number(row["bid"])).toBe(bid / 1000);
    }
  });
});

describe("checks", () => {
  const codes = (from: Structure, to: Structure) =>
    checkDiff(Account.fromStructure(from), diffRecords(from, to), "EUR").flatMap(({ code, grave }) =>
      grave ? [code] : [],
    );

  it("find whatever loses what it stands on, whichever kind it is", () => {
    for (const type of RECORD_TYPES) {
      const record = Object.values(ALL).find((one) => one.type === type)!;
      for (const { key, bond } of kindOf(type).parents(record)) {
        const { [key]: _gone, ...rest } = ALL;
        expect(codes(ALL, rest)).toContain(bond === "draws on" ? "pool-gone" : "orphans");
      }
    }
  });

  it("find targets in campaigns that do nothing with them, also when the campaign's kind changes", () => {
    // A keyword fits; a listing target and a reach in a keyword campaign aim at nothing.
    expect(codes({}, ALL)).toEqual(["target-kind"]);
    const fitting: Structure = { c: ALL["c"]!, g: ALL["g"]!, k: ALL["k"]!, pool: ALL["pool"]! };
    expect(codes({}, fitting)).toEqual([]);
    const other = recordSchema.parse({ ...ALL["c"], kind: "discovery" });
    expect(codes(fitting, { ...fitting, c: other })).toEqual(["target-kind"]);
  });

  it("look at bids of every kind that has one", () => {
    for (const key of ["g", "k", "p", "r", "t"]) {
      const dear = recordSchema.parse({ ...ALL[key], bid: 60_000 });
      expect(codes(ALL, { ...ALL, [key]: dear })).toContain("bid-limits");
    }
    expect(checkDiff(account, emptyDiff(), "EUR").filter(({ grave }) => grave)).toEqual([]);
  });
});

describe("the order of changes", () => {
  const renamed = (key: string, name: string) => {
    const record = ALL[key]!;
    return { [key]: [record, { ...record, name } as AccountRecord] as [AccountRecord, AccountRecord] };
  };
  const to = (key: string, change: object) => {
    const record = ALL[key]!;
    return { [key]: [record, { ...record, ...change } as AccountRecord] as [AccountRecord, AccountRecord] };
  };

  it("begins with what stops something, then money, then who is served; what only reads otherwise comes last", () => {
    const changed = {
      ...renamed("c", "Seeds and more"),
      ...to("k", { bid: 500 }),
      ...to("p", { status: "closed" }),
      ...to("g", { campaign: "elsewhere" }),
    };
    const words = changesInWords(account, { ...emptyDiff<AccountRecord>(), changed }, "EUR");
    expect(words.map(({ key, weight }) => [key, weight])).toEqual([
      ["p", 0],
      ["k", 1],
      ["g", 2],
      ["c", 3],
    ]);
  });

  it("tells of the rest of a divided group that is closed, which takes the home of all it held", () => {
    const rest = { ...EXAMPLES.productGroup, key: "p/rest", parent: "p", role: "rest", bid: 200 };
    const added = (status: string) =>
      changesInWords(
        account,
        {
          ...emptyDiff<AccountRecord>(),
          added: { "p/rest": recordSchema.parse({ type: "productGroup", ...rest, status }) },
        },
        "EUR",
      );
    expect(added("on")).toEqual([]);
    expect(added("closed").map(({ text, weight }) => [text, weight])).toEqual([
      ['All that is not named in "Seeds · Herbs · remainder" is closed', 0],
    ]);
  });

  it("says amounts and names that people know, never those of records", () => {
    const changed = { ...to("c", { pool: null, startsOn: "2027-03-01", goal: 4 }) };
    const removed = { "day-cap": ALL["day-cap"]! };
    const texts = changesInWords(account, { ...emptyDiff<AccountRecord>(), changed, removed }, "EUR").map(
      ({ text }) => text,
    );
    expect(texts).toEqual([
      "No day cap any more; it was €90.00",
      'Campaign "Seeds": goal return none → 4, draws on no pool, first day none → 2027-03-01',
    ]);
    const draws = changesInWords(account, { ...emptyDiff<AccountRecord>(), changed: to("c", { pool: "pool" }) }, "EUR");
    expect(draws).toEqual([]);
    const other = account.with({ ...emptyDiff<AccountRecord>(), changed: to("c", { pool: null }) });
    const back = { c: [other.get("c")!, ALL["c"]!] as [AccountRecord, AccountRecord] };
    expect(changesInWords(other, { ...emptyDiff<AccountRecord>(), changed: back }, "EUR")[0]!.text).toBe(
      'Campaign "Seeds": draws on the pool "Spring"',
    );
  });
});
