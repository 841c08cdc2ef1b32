import fc from "fast-check";
import Papa from "papaparse";
import { describe, expect, it } from "vitest";
import { numberColumn, textColumn } from "../kit/columns";
import { applyDiff, diffRecords } from "../kit/diff";
import { emptyRowSums } from "../results/window-sums";
import { servingGroups } from "../account/walk";
import { Account, type Structure } from "../account/account";
import { without } from "../account/testing";
import { checkDiff } from "../account/checks";
import { neutraliseCell, toTsv } from "./cells";
import { toCsv } from "./csv";
import { budgetChange, changesInWords, describeDiff } from "../account/words";
import { estimateEffect } from "./effect";
import { structureCsv } from "./export";

const LIVE: Structure = {
  c: {
    type: "campaign",
    key: "c",
    name: "Seeds",
    kind: "feed",
    purpose: "scale",
    bidding: "fixed",
    goal: null,
    dailyBudget: 12_000,
    status: "on",
    serveOrder: 1,
    inStockOnly: true,
    origin: "p",
  },
  g: { type: "adGroup", key: "g", campaign: "c", name: "Herbs", status: "on", bid: 300 },
  p: {
    type: "productGroup",
    key: "p",
    adGroup: "g",
    parent: null,
    role: "split",
    value: null,
    by: "brand",
    status: "on",
    bid: null,
  },
  "p/A": {
    type: "productGroup",
    key: "p/A",
    adGroup: "g",
    parent: "p",
    role: "unit",
    value: "A",
    by: null,
    status: "on",
    bid: null,
  },
  "p/*": {
    type: "productGroup",
    key: "p/*",
    adGroup: "g",
    parent: "p",
    role: "remainder",
    value: null,
    by: null,
    status: "closed",
    bid: null,
  },
};

const ACCOUNT = Account.fromStructure(LIVE);

function changed(change: Structure) {
  return diffRecords(LIVE, { ...LIVE, ...change });
}

describe("a change in words", () => {
  it("names what changes, from what to what", () => {
    const diff = changed({
      c: { ...LIVE["c"]!, dailyBudget: 15_000, status: "paused" } as Structure[string],
      "p/A": { ...LIVE["p/A"]!, bid: 450 } as Structure[string],
      ...without({}, "Q1"),
    });
    expect(changesInWords(ACCOUNT, diff, "EUR").map(({ text }) => text)).toEqual([
      'Campaign "Seeds": daily budget €12.00 → €15.00, paused',
      "Item Q1 excluded everywhere: wasteful",
      'Product group "Seeds · Herbs · A": bid the group\'s bid → €0.45',
    ]);
    expect(describeDiff(ACCOUNT, diff, "EUR")).toEqual([
      "1 campaign changed.",
      "1 exclusion new.",
      "1 product group changed.",
      "Daily budgets in all: €12.00 → €0.00.",
    ]);
    expect(budgetChange(ACCOUNT, diff)).toEqual({ before: 12_000, after: 0 });
  });
});

describe("checks", () => {
  const codes = (change: Structure) =>
    checkDiff(ACCOUNT, changed(change), "EUR").map(({ code, grave }) => `${code}${grave ? "!" : ""}`);

  it("pass what is in order", () => expect(codes({ g: { ...LIVE["g"]!, bid: 350 } as Structure[string] })).toEqual([]));

  it("stop what the channel would refuse and point at what leaks", () => {
    expect(codes({ c: { ...LIVE["c"]!, dailyBudget: 400 } as Structure[string] })).toEqual(["budget-low!"]);
    expect(codes({ g: { ...LIVE["g"]!, bid: 60_000 } as Structure[string] })).toEqual(["bid-limits!"]);
    expect(codes({ "p/*": { ...LIVE["p/*"]!, status: "on" } as Structure[string] })).toEqual(["leaks"]);
    expect(codes({ d: { ...LIVE["c"]!, key: "d" } as Structure[string] })).toEqual(["name-twice!", "campaign-empty"]);
    expect(codes({ h: { ...LIVE["g"]!, key: "h", campaign: "gone" } as Structure[string] })).toEqual(["orphans!"]);
    expect(codes({ c: { ...LIVE["c"]!, bidding: "return" } as Structure[string] })).toEqual(["goal-missing!"]);
  });
});

describe("files for spreadsheets", () => {
  it("are safe when they are pasted too: no formula, a cell a place, nothing where there is nothing", () => {
    expect(
      toTsv(
        ["id", "=sum"],
        [
          ["-12", '=HYPERLINK("x")'],
          ["A\tB", "two\r\nlines"],
          [null, 3.5],
        ],
      ),
    ).toBe("id\t'=sum\n-12\t'=HYPERLINK(\"x\")\nA B\ttwo lines\n\t3.5");
  });

  it("keep numbers with a comma where the file has such, parted by what it is parted by", () => {
    const rows = [["-1,5", "-1.5", "-1,5,2"]];
    expect(toCsv(["a", "b", "c"], rows, { delimiter: ";", decimal: "," })).toBe("a;b;c\r\n-1,5;-1.5;'-1,5,2\r\n");
    expect(toTsv(["a", "b", "c"], rows, ",")).toBe("a\tb\tc\n-1,5\t-1.5\t'-1,5,2");
    // Elsewhere a comma is no part of a number.
    expect(toTsv(["a", "b", "c"], rows)).toBe("a\tb\tc\n'-1,5\t-1.5\t'-1,5,2");
  });

  it("never begin a cell that would run, and keep numbers", () => {
    expect(["＝1+1", "\uFEFF=1", "\u200B＠x", "＋1"].map((cell) => neutraliseCell(cell))).toEqual([
      "'＝1+1",
      "'\uFEFF=1",
      "'\u200B＠x",
      "'＋1",
    ]);
    expect(["=1+1", "+x", "-2", "-2x", "@a", "ok"].map((cell) => neutraliseCell(cell))).toEqual([
      "'=1+1",
      "'+x",
      "-2",
      "'-2x",
      "'@a",
      "ok",
    ]);
  });

  it("are read back as they were", () => {
    const cell = fc.string({ maxLength: 8 }).filter((text) => !/^[=+\-@\t\r]/.test(text));
    fc.assert(
      fc.property(fc.array(fc.tuple(cell, cell), { minLength: 1 }), (rows) => {
        const { data } = Papa.parse<string[]>(toCsv(["a", "b"], rows), { newline: "\r\n", delimiter: "," });
        expect(data.slice(0, -1)).toEqual([["a", "b"], ...rows]);
      }),
    );
  });

  it("hold the whole structure, a row each", () => {
    const { data } = Papa.parse<Record<string, string>>(
      structureCsv(Account.fromStructure(without(LIVE, "Q1", "unsafe"))),
      {
        header: true,
        skipEmptyLines: true,
      },
    );
    expect(data.map((line) => [line["level"], line["campaign"], line["product_group"], line["bid"]])).toEqual([
      ["campaign", "Seeds", "", ""],
      ["ad group", "Seeds", "", ""],
      ["product group", "Seeds", "all items", ""],
      ["product group", "Seeds", "brand = A", ""],
      ["product group", "Seeds", "remainder", ""],
      ["exclusion", "", "id = Q1", ""],
    ]);
    expect(data[0]).toMatchObject({ daily_budget: "12.00", serve_order: "1", key: "c" });
  });
});

describe("the expected effect", () => {
  const catalogue = {
    length: 3,
    columns: {
      itemNo: numberColumn([1, 2, 3]),
      id: textColumn(["Q1", "Q2", "Q3"]),
      brand: textColumn(["A", "A", "B"]),
      availability: textColumn(["in stock", "in stock", "in stock"]),
    },
  };
  const serving = (structure: Structure) => servingGroups(Account.fromStructure(structure), catalogue);
  const results = emptyRowSums(3);
  results.cost.set([30_000, 60_000, 90_000]);
  results.revenue.set([10_000, 300_000, 0]);

  it("counts what stops with all its spend and sales, a day", () => {
    const after = without(LIVE, "Q1");
    expect(estimateEffect(serving(LIVE), serving(after), diffRecords(LIVE, after), 3, results, 10)).toEqual({
      cost: -3_000,
      revenue: -1_000,
      stopped: 1,
      repriced: 0,
      unknown: 0,
      isRestructured: false,
    });
  });

  it("says where campaigns come or go, in which a figure for a part would mislead", () => {
    const campaign = Object.values(LIVE).find(({ type }) => type === "campaign")!;
    const diff = diffRecords(LIVE, { ...LIVE, new: { ...campaign, key: "new" } as Structure[string] });
    const found = estimateEffect(serving(LIVE), serving(applyDiff(LIVE, diff)), diff, 3, results, 10);
    expect([found.isRestructured, found.unknown]).toEqual([true, 1]);
  });

  it("moves clicks and their price with the bid by the stated rule", () => {
    const diff = changed({ g: { ...LIVE["g"]!, bid: 600 } as Structure[string] });
    const effect = estimateEffect(serving(LIVE), serving(applyDiff(LIVE, diff)), diff, 3, results, 10);
    expect(effect.repriced).toBe(2);
    // Twice the bid: 1.515717 times the clicks, each 1.515717 times as dear, on 31 of sales and 9 of spend a day.
    expect(effect.revenue).toBeCloseTo(15_987.21, 1);
    expect(effect.cost).toBeCloseTo(11_676.57, 1);
  });
});
