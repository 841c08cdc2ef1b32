import Papa from "papaparse";
import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { leastAssets, testCampaign } from "../market/test-shop";
import { structureCsv } from "./export";
import { readBack } from "./read-back";

const account = Account.fromStructure({
  ...testCampaign("c:a", { name: "=A, first", dailyBudget: 12_500 }, ["I0", "I1"], 455),
  ...testCampaign("c:w", { name: "Words", kind: "keyword" }, ["I0"], 900, [
    { type: "keyword", text: "rakes", match: "exact", bid: 350 },
  ]),
  ...testCampaign("c:s", { name: "Assets", kind: "asset" }, ["I2"], 300),
});
const [headings, ...rows] = Papa.parse<string[]>(structureCsv(account), { skipEmptyLines: true }).data as [
  string[],
  ...string[][],
];
const keyAt = headings.indexOf("key");

/** The file with some cells changed. */
function changed(key: string, column: string, cell: string, from = rows): string[][] {
  return from.map((row) => (row[keyAt] === key ? row.map((old, at) => (headings[at] === column ? cell : old)) : row));
}
const keyword = account.all("keyword")[0]!.key;
const assets = leastAssets("g:c:s").key;

describe("a structure's file read back", () => {
  it("as it went out changes nothing, in any order and with columns left out", () => {
    const { draft, faults, same } = readBack(account, headings, rows);
    expect([draft.diff(), faults, same]).toEqual([{ added: {}, changed: {}, removed: {} }, [], rows.length]);
    const few = [...rows].reverse().map((row) => [row[keyAt]!, row[headings.indexOf("daily_budget")]!]);
    expect(readBack(account, ["Key", "daily_budget"], few).draft.diff().changed).toEqual({});
  });

  it.each<[string, string, string, object]>([
    ["c:a", "daily_budget", "15,00", { dailyBudget: 15_000 }],
    ["c:a", "campaign", "B", { name: "B" }],
    ["c:a", "campaign_status", "paused", { status: "paused" }],
    ["c:a", "serve_order", "1", { serveOrder: 1 }],
    ["g:c:a", "ad_group_bid", "0.50", { bid: 500 }],
    ["c:a", "first_day", "2026-12-01", { startsOn: "2026-12-01" }],
    ["c:a", "folder", "Winter", { folder: "Winter" }],
    [assets, "own_brand", "no", { ownBrand: false }],
    [
      assets,
      "headlines",
      "[title] | Now [price]",
      {
        headlines: [
          [{ kind: "field", field: "title" }],
          [
            { kind: "text", text: "Now " },
            { kind: "field", field: "price" },
          ],
        ],
      },
    ],
    [keyword, "bid", "", { bid: null }],
    [keyword, "bid", "0.4", { bid: 400 }],
    [keyword, "product_group_status", "paused", { status: "paused" }],
  ])("%s: %s = %s", (key, column, cell, expected) => {
    const { draft, faults } = readBack(account, headings, changed(key, column, cell));
    expect(faults).toEqual([]);
    const diff = draft.diff();
    expect(Object.keys(diff.changed)).toEqual([key]);
    expect(diff.changed[key]![1]).toEqual({ ...account.get(key), ...expected });
  });

  it.each<[string, string, string, string]>([
    ["c:a", "daily_budget", "much", "no amount"],
    ["c:a", "daily_budget", "=1+1", "formula"],
    ["c:a", "serve_order", "12", "serve order"],
    ["c:a", "campaign_status", "stop", "neither on nor paused"],
    ["c:a", "bid", "1.00", "can't be changed in this line"],
    ["c:a", "campaign", "", "can't be empty"],
    ["c:a", "last_day", "31.12.", "no day such as"],
    [assets, "headlines", "[title", "never closes"],
    [assets, "headlines", "Now [colour]", "no field “colour”"],
    [assets, "pictures", "[other]", "can't be changed in this line"],
    ["c:a", "key", "c:zz", "no record with the key"],
  ])("%s: %s = %s is told with its line and changes nothing", (key, column, cell, said) => {
    const { draft, faults } = readBack(account, headings, changed(key, column, cell), (name) => name !== "colour");
    expect(draft.diff().changed).toEqual({});
    expect(faults).toEqual([
      { line: rows.findIndex((row) => row[keyAt] === key) + 2, message: expect.stringContaining(said) as string },
    ]);
  });

  it("takes the first of doubled lines, leaves what it does not know, and needs the key", () => {
    const twice = [...changed("c:a", "daily_budget", "20"), ...changed("c:a", "daily_budget", "30")];
    const { draft, faults } = readBack(account, [...headings, "mine"], twice);
    expect(draft.diff().changed["c:a"]![1]).toMatchObject({ dailyBudget: 20_000 });
    expect(faults).toHaveLength(rows.length + 1);
    expect(faults[0]!.message).toContain("mine");
    expect(readBack(account, ["campaign"], [["x"]]).faults[0]!.message).toContain("no column “key”");
  });
});
