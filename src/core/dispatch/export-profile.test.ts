import fc from "fast-check";
import Papa from "papaparse";
import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { testCampaign } from "../market/test-shop";
import { STRUCTURE_HEADINGS } from "./export";
import { exportProfileSchema, PLAIN_PROFILE, profileRows, withoutProfile, type ExportProfile } from "./export-profile";
import { readBack } from "./read-back";

const live = Account.fromStructure({
  ...testCampaign("c:a", { name: "A, first", dailyBudget: 12_345, goal: 3.5, bidding: "return" }, ["I0", "I1"], 455),
  ...testCampaign("c:b", { name: "B", dailyBudget: 8_000 }, ["I2"], 300),
});
const campaign = live.find("campaign", "c:b")!;
const account = live.with({
  added: {},
  removed: {},
  changed: { "c:b": [campaign, { ...campaign, dailyBudget: 9_500 }] },
});
const profile = (change: Partial<ExportProfile>): ExportProfile =>
  exportProfileSchema.parse({ ...PLAIN_PROFILE, key: "p", name: "P", ...change });
const some = (...columns: string[]) => columns.map((column) => ({ column, heading: column.toUpperCase() }));
const money = some("key", "daily_budget", "goal_return");

describe("an export profile", () => {
  it("writes chosen columns in its order under its headings, money and numbers in its form", () => {
    const row = (change: Partial<ExportProfile>) =>
      profileRows(account, live, profile({ columns: money, ...change }), "EUR").rows[0];
    expect(profileRows(account, live, profile({ columns: money }), "EUR").headings).toEqual([
      "KEY",
      "DAILY_BUDGET",
      "GOAL_RETURN",
    ]);
    expect(row({})).toEqual(["c:a", "12.345", "3.5"]);
    expect(row({ decimal: "," })).toEqual(["c:a", "12,345", "3,5"]);
    expect(row({ money: "cents" })).toEqual(["c:a", "1234.5", "3.5"]);
    expect(row({ money: "currency", decimal: "," })).toEqual(["c:a", "12,345 EUR", "3,5"]);
    expect(row({ format: "xlsx" })).toEqual(["c:a", 12.345, 3.5]);
    expect(row({ format: "json", money: "cents" })).toEqual(["c:a", 1234.5, 3.5]);
  });

  it("writes only what differs from what the channel has, where it is to", () => {
    const { rows } = profileRows(account, live, profile({ columns: money, what: "differences" }), "EUR");
    // The campaign itself; what stands below it is told with its campaign's budget and so differs too.
    expect(rows[0]).toEqual(["c:b", "9.50", null]);
    expect(rows.every(([, budget]) => budget === "9.50")).toBe(true);
    expect(profileRows(live, live, profile({ what: "differences" }), "EUR").rows).toEqual([]);
  });

  it("refuses two columns of one heading and columns that are not there", () => {
    const twice = [...some("key"), { column: "bid", heading: "key" }];
    expect(exportProfileSchema.safeParse({ ...PLAIN_PROFILE, columns: twice }).success).toBe(false);
    expect(exportProfileSchema.safeParse({ ...PLAIN_PROFILE, columns: some("nothing") }).success).toBe(false);
  });

  it("is read back as it was written, and an edited amount as that edit (property)", () => {
    const columns = fc
      .shuffledSubarray(STRUCTURE_HEADINGS.filter((name) => name !== "key" && name !== "daily_budget"))
      .chain((names) => fc.shuffledSubarray([...names, "key", "daily_budget"], { minLength: names.length + 2 }));
    const forms = fc.record({
      decimal: fc.constantFrom("." as const, "," as const),
      money: fc.constantFrom("units" as const, "cents" as const, "currency" as const),
    });
    fc.assert(
      fc.property(columns, forms, (names, form) => {
        const one = profile({ columns: names.map((column) => ({ column, heading: `My ${column}` })), ...form });
        const { headings, rows } = profileRows(account, live, one, "EUR");
        const cells = Papa.parse<string[]>(Papa.unparse([headings, ...rows], { delimiter: ";" }), {
          delimiter: ";",
        }).data;
        const plain = withoutProfile(cells[0]!, cells.slice(1), one)!;
        const back = readBack(account, plain.headings, plain.rows);
        expect([back.faults, back.draft.diff().changed]).toEqual([[], {}]);

        const at = names.indexOf("daily_budget");
        const line = cells.findIndex((row) => row[names.indexOf("key")] === "c:a");
        const written = { units: "77.5", cents: "7750", currency: "77.5 EUR" }[form.money].replace(".", form.decimal);
        const edited = cells.slice(1).map((row, i) => (i === line - 1 ? row.with(at, written) : row));
        const changed = withoutProfile(cells[0]!, edited, one)!;
        const { draft } = readBack(account, changed.headings, changed.rows);
        expect(Object.values(draft.diff().changed).map(([, to]) => to)).toEqual([
          { ...account.find("campaign", "c:a"), dailyBudget: 77_500 },
        ]);
      }),
    );
    expect(withoutProfile(["other"], [], PLAIN_PROFILE)).toBeNull();
  });
});
