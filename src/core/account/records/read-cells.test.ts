import { describe, expect, it } from "vitest";
import { field, text } from "../../parts/part";
import type { ExportColumn, Known } from "../record-kind";
import { kindOf, RECORD_TYPES, recordSchema, type AccountRecord, type RecordType } from ".";

const campaign = {
  ...{ type: "campaign", key: "c", name: "Rakes", kind: "feed", purpose: "scale", bidding: "fixed", goal: null },
  ...{ dailyBudget: 12_345, status: "on", serveOrder: 3, inStockOnly: false, origin: null },
};
const group = { type: "productGroup", key: "p", adGroup: "g", parent: "r", role: "unit", value: "Oak", by: null };
const target = { adGroup: "g", status: "on", bid: 250 };
const assets = { type: "assets", key: "a:g", adGroup: "g", pictures: [], logo: null };

/** Two records of each kind whose cells can be read, alike but for what the file can change. */
const PAIRS: Partial<Record<RecordType, [object, object]>> = {
  campaign: [
    campaign,
    {
      ...{ ...campaign, name: "Oak | rakes [new]", dailyBudget: 1, status: "paused", serveOrder: 9 },
      ...{ country: "DE", startsOn: "2026-03-01", endsOn: "2026-04-30", folder: "Spring" },
    },
  ],
  adGroup: [
    { type: "adGroup", key: "g", campaign: "c", name: "Oak", status: "on", bid: 300 },
    { type: "adGroup", key: "g", campaign: "c", name: "Elm", status: "paused", bid: 1 },
  ],
  productGroup: [
    { ...group, status: "on", bid: null },
    { ...group, status: "closed", bid: 1_010 },
  ],
  assets: [
    { ...assets, headlines: [[field("title")]], descriptions: [[text("Good")]], ownBrand: true },
    {
      ...{ ...assets, ownBrand: false, descriptions: [] },
      headlines: [[field("title", { do: "shorten", most: 20 }), text(" | now")], [text("[free]")]],
    },
  ],
  ad: [
    {
      type: "ad",
      key: "ad",
      adGroup: "g",
      name: "Ad 1",
      status: "on",
      headlines: ["Oak", "Now | here"],
      descriptions: ["Good"],
    },
    {
      ...{ type: "ad", key: "ad", adGroup: "g", name: "Ad 1", status: "paused", headlines: ["Elm", "Ash"] },
      ...{ descriptions: ["Better", "Best"], address: "rakes", link: "https://shop.example/x" },
    },
  ],
  keyword: [
    { type: "keyword", key: "k", text: "rake", match: "exact", ...target },
    { type: "keyword", key: "k", text: "rake", match: "exact", ...target, status: "paused", bid: null },
  ],
  listingTarget: [
    { type: "listingTarget", key: "l", aim: { by: "listing", listing: "L1" }, ...target },
    { type: "listingTarget", key: "l", aim: { by: "listing", listing: "L1" }, ...target, status: "paused", bid: 5 },
  ],
  reach: [
    { type: "reach", key: "r", kind: "searches-alike", ...target },
    { type: "reach", key: "r", kind: "searches-alike", ...target, status: "paused", bid: null },
  ],
  pool: [
    { type: "pool", key: "pool:s", name: "Spring", dailyBudget: 9_000 },
    { type: "pool", key: "pool:s", name: "Spring", dailyBudget: 0 },
  ],
  dayCap: [
    { type: "dayCap", key: "day-cap", dailyBudget: 9_000 },
    { type: "dayCap", key: "day-cap", dailyBudget: 90_010 },
  ],
};

const KNOWN: Known = { get: () => undefined, nameOf: () => null, valueName: (_, value) => value };

const cellsOf = (record: AccountRecord) => {
  const cells = kindOf(record.type).cells(record, KNOWN);
  return (column: ExportColumn) => String(cells[column] ?? "");
};

describe("cells of a file", () => {
  it("are read for the kinds that stand here", () => {
    expect(RECORD_TYPES.filter((type) => kindOf(type).reads).sort()).toEqual(Object.keys(PAIRS).sort());
  });

  it.each(Object.keys(PAIRS) as RecordType[])("of a kind, %s, make the record again that wrote them", (type) => {
    const pair = PAIRS[type]!.map((one) => recordSchema.parse(one));
    for (const [from, to] of [pair, pair.toReversed()] as [AccountRecord, AccountRecord][]) {
      const wanted = cellsOf(to);
      let made = from;
      for (const [column, read] of Object.entries(kindOf(type).reads!)) {
        const edited = read(made, wanted(column as ExportColumn), () => true);
        expect([column, typeof edited]).toEqual([column, "object"]);
        made = edited as AccountRecord;
      }
      // A day that is not set can be none or left out: the file writes nothing for either.
      const plain = (record: AccountRecord) =>
        Object.fromEntries(Object.entries(record).filter(([, value]) => value !== null));
      expect(plain(made)).toEqual(plain(to));
    }
  });
});
