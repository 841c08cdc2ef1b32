import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { formatDay, parseDay } from "../../kit/days";
import { detectDateOrder, readDay, readHour } from "./report-dates";
import { reportMappingSchema, type ReportKind, type ReportMapping } from "./report-kinds";
import { guessKind, proposeReportMapping, reportGaps } from "./report-mapping";
import { currencyIn, detectDecimalMark, readAmount, readCounted } from "./report-numbers";
import { odditiesOf, readSlot, reportReader } from "./read-report";

describe("days of reports", () => {
  it.each([
    ["2026-03-04", "2026-03-04"],
    ["2026/3/4", "2026-03-04"],
    ["2026.03.04", "2026-03-04"],
    ["20260304", "2026-03-04"],
    ["04.03.2026", "2026-03-04"],
    ["4/3/26", "2026-03-04"],
    ["4-3-2026", "2026-03-04"],
    ["4 Mar 2026", "2026-03-04"],
    ["4. März 2026", "2026-03-04"],
    ["04-Mar-26", "2026-03-04"],
    ["4 mars 2026", "2026-03-04"],
    ["4 de marzo de 2026", "2026-03-04"],
    ["Wed, 4 March 2026", "2026-03-04"],
    ["Mittwoch, 4. März 2026", "2026-03-04"],
    ["Mar 4, 2026", "2026-03-04"],
    ["March 4th, 2026", "2026-03-04"],
    ["4 Juin 2026", "2026-06-04"],
    ["4 juil. 2026", "2026-07-04"],
    ["46085", "2026-03-04"],
    ["46085.75", "2026-03-04"],
    ["1772582400", "2026-03-04"],
    ["1772582400000", "2026-03-04"],
    ["2026-03-04 00:00:00", "2026-03-04"],
    ["2026-03-04T23:59:00", "2026-03-04"],
    ["04/03/2026 00:00", "2026-03-04"],
    // Berlin is an hour ahead: the last hour of the day elsewhere is the next day here.
    ["2026-03-03T23:30:00Z", "2026-03-04"],
    ["2026-03-04T23:30:00+02:00", "2026-03-04"],
    ["2026-03-04 08:00:00 -0800", "2026-03-04"],
    ["2026-03-04T20:00:00-08:00", "2026-03-05"],
  ])("%s is %s", (text, expected) => {
    const day = readDay(text, "day-month", "Europe/Berlin");
    expect(day === null ? null : formatDay(day)).toBe(expected);
  });

  it.each(["", "March 2026", "Week 12, 2026", "2026-02-30", "31.02.2026", "yesterday", "12", "99999", "2026", "Total"])(
    "%j is none",
    (text) => {
      expect(readDay(text, "day-month", "Europe/Berlin")).toBeNull();
    },
  );

  it("take day or month first as told, and as the file itself tells", () => {
    expect(formatDay(readDay("3/4/2026", "month-day", "UTC")!)).toBe("2026-03-04");
    expect(detectDateOrder(["1/2/2026", "13/2/2026"])).toEqual({ order: "day-month", isSure: true });
    expect(detectDateOrder(["1/2/2026", "1/13/2026"])).toEqual({ order: "month-day", isSure: true });
    // 1 to 7 March: one order makes a week of it, the other half a year.
    const week = [1, 2, 3, 4, 5, 6, 7].map((day) => `3/${day}/2026`);
    expect(detectDateOrder(week)).toEqual({ order: "month-day", isSure: true });
    expect(detectDateOrder(["5/5/2026"]).isSure).toBe(false);
    expect(detectDateOrder(["2026-03-04"])).toEqual({ order: "day-month", isSure: true });
  });

  it("come back from any way of writing them that is read", () => {
    const months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
    fc.assert(
      fc.property(fc.integer({ min: parseDay("2001-01-01"), max: parseDay("2090-12-31") }), (day) => {
        const [y, m, d] = formatDay(day).split("-").map(Number) as [number, number, number];
        const written: [string, "day-month" | "month-day"][] = [
          [`${d}.${m}.${y}`, "day-month"],
          [`${m}/${d}/${y}`, "month-day"],
          [`${d} ${months[m - 1]} ${y}`, "day-month"],
          [`${months[m - 1]} ${d}, ${y}`, "day-month"],
          [String(day + 25_569), "day-month"],
          [formatDay(day).replaceAll("-", ""), "day-month"],
        ];
        for (const [text, order] of written) expect(readDay(text, order, "UTC")).toBe(day);
      }),
    );
  });

  it("hours are read as people write them", () => {
    const read = ["14", "14:00", "2 PM", "12 am", "12 PM", "14-15", "14h", "2026-03-04 14:00", "25", "noon", ""].map(
      readHour,
    );
    expect(read).toEqual([14, 14, 14, 0, 12, 14, 14, 14, null, null, null]);
  });
});

describe("numbers of reports", () => {
  it.each([
    ["12.30", ".", 12_300, null],
    ["1,234.56", ".", 1_234_560, null],
    ["1.234,56 €", ",", 1_234_560, "EUR"],
    ["$1,234.50", ".", 1_234_500, "USD"],
    ["USD 3", ".", 3_000, "USD"],
    ["-12.30", ".", -12_300, null],
    ["−12.30", ".", -12_300, null],
    ["(12.30)", ".", -12_300, null],
    ["12,30-", ",", -12_300, null],
    ["€ -5,00", ",", -5_000, "EUR"],
    ["", ".", 0, null],
    ["–", ".", 0, null],
    ["n/a", ".", 0, null],
    ["-0.00", ".", 0, null],
  ])("amount %j", (text, decimal, mills, currency) => {
    expect(readAmount(text, decimal as "." | ",")).toEqual({ ok: true, value: mills, currency });
  });

  it("counts are counts, and nothing else", () => {
    const value = (text: string, decimal: "." | "," = ".") => {
      const read = readCounted(text, decimal);
      return read.ok ? read.value : null;
    };
    expect(["1,234", "12", "3.0", "1 234", "-2", "0.5", ""].map((text) => value(text))).toEqual([
      1234, 12, 3, 1234, -2, 0.5, 0,
    ]);
    expect(value("1.234", ",")).toBe(1234);
    expect(["12%", "abc", "1e5", "€12"].map((text) => value(text))).toEqual([null, null, null, null]);
  });

  it("the decimal mark and the currency are told by what can be read only one way", () => {
    expect(detectDecimalMark(["1.234,56", "12"])).toBe(",");
    expect(detectDecimalMark(["1,234.56", "12"])).toBe(".");
    expect(detectDecimalMark(["1,234", "5,678"])).toBe(".");
    expect(["Cost (USD)", "€ 3", "Spend", "Kosten in CHF", "SKU"].map(currencyIn)).toEqual([
      "USD",
      "EUR",
      null,
      "CHF",
      null,
    ]);
  });
});

const HEADINGS = [
  "Datum",
  "Kampagne",
  "Anzeigengruppe",
  "Artikelnummer",
  "Impressionen",
  "Klicks",
  "Kosten",
  "Bestellungen",
  "Umsatz",
];
const ROWS = [
  ["04.03.2026", "Alles", "G", "Q1", "1.000", "10", "5,20 €", "1", "49,00 €"],
  ["13.03.2026", "Alles", "G", "Q2", "2.000", "12", "6,20 €", "0", "0,00 €"],
];

describe("mappings of reports", () => {
  it("are proposed from headings in several languages, with dates, marks and currency", () => {
    expect(proposeReportMapping("item", HEADINGS, ROWS)).toEqual({
      renamed: {},
      columns: {
        day: "Datum",
        campaign: "Kampagne",
        adGroup: "Anzeigengruppe",
        item: "Artikelnummer",
        impressions: "Impressionen",
        clicks: "Klicks",
        cost: "Kosten",
        orders: "Bestellungen",
        revenue: "Umsatz",
      },
      dateOrder: "day-month",
      decimal: ",",
      currency: "EUR",
      rate: null,
      window: null,
    });
    const english = [
      "Date",
      "Campaign name",
      "Search term",
      "Keyword",
      "Impressions",
      "Clicks",
      "CTR",
      "Spend (USD)",
      "7-day orders",
    ];
    const rows = [["3/13/2026", "C", "oak rake", "rake", "100", "4", "4.00%", "1.20", "1"]];
    const { columns, currency } = proposeReportMapping("term", english, rows);
    expect(columns).toMatchObject({
      term: "Search term",
      target: "Keyword",
      cost: "Spend (USD)",
      orders: "7-day orders",
    });
    expect(Object.values(columns)).not.toContain("CTR");
    expect(currency).toBe("USD");
  });

  it("guess the kind, and say what they lack", () => {
    expect(guessKind(["Date", "Search term", "Clicks"])).toBe("term");
    expect(guessKind(["Day", "Placement", "Impressions"])).toBe("placement");
    expect(guessKind(["Date", "SKU", "Units", "Revenue"])).toBe("store");
    expect(guessKind(HEADINGS)).toBe("item");
    const mapping = reportMappingSchema.parse({ columns: { day: "Datum", item: "SKU" } });
    expect(reportGaps("item", mapping, HEADINGS)).toEqual([
      "Spend has no column.",
      'Item ID: the file has no column "SKU".',
    ]);
  });
});

describe("rows of reports", () => {
  const reader = (change: Partial<ReportMapping> = {}, kind: ReportKind = "item") =>
    reportReader(kind, { ...proposeReportMapping(kind, HEADINGS, ROWS), ...change }, HEADINGS, "EUR", "Europe/Berlin");

  it("are read with money in mills", () => {
    expect(reader()(ROWS[0]!)).toEqual({
      is: "line",
      line: {
        day: parseDay("2026-03-04"),
        lastDay: parseDay("2026-03-04"),
        dimensions: {
          campaign: "Alles",
          adGroup: "G",
          target: "",
          item: "Q1",
          term: "",
          placement: "",
          slot: "",
          hour: "",
        },
        traits: {},
        counts: { impressions: 1000, clicks: 10, cost: 5_200, orders: 1, units: 0, revenue: 49_000 },
      },
    });
  });

  it("of totals and of nothing are left out", () => {
    const read = reader();
    expect(read(["Gesamt", "", "", "", "3.000", "22", "11,40", "1", "49"]).is).toBe("totals");
    expect(read(["04.03.2026", "Total: Alles", "", "", "3.000", "22", "11,40", "1", "49"]).is).toBe("totals");
    expect(read(["", "", "", "", "3.000", "22", "11,40", "1", "49"]).is).toBe("totals");
    expect(read(["", " ", "", "", "", "", "", "", ""]).is).toBe("empty");
    // Things may be called so; only what says it sums others is left out.
    expect(read(["04.03.2026", "Alles", "G", "Subtotal-7x", "1", "1", "1", "1", "1"]).is).toBe("line");
    expect(read(["04.03.2026", "Total garden care", "G", "Q7", "1", "1", "1", "1", "1"]).is).toBe("line");
    expect(read(["04.03.2026", "Totally oak", "G", "Q7", "1", "1", "1", "1", "1"]).is).toBe("line");
  });

  it("that can't be read say why", () => {
    const read = reader();
    const reason = (cells: string[]) => {
      const result = read(cells);
      return result.is === "aside" ? result.reason : result.is;
    };
    expect(reason(["März 2026", "A", "G", "Q1", "1", "1", "1", "0", "0"])).toBe(
      '"März 2026" is no day that can be read.',
    );
    expect(reason(["04.03.2026", "A", "G", "", "1", "1", "1", "0", "0"])).toBe("No Item ID.");
    expect(reason(["04.03.2026", "A", "G", "Q1", "1", "viele", "1", "0", "0"])).toBe('Clicks "viele" is no number.');
    expect(reason(["04.03.2026", "A", "G", "Q1", "1", "1", "$ 3", "0", "0"])).toBe("Spend is in USD, the file in EUR.");
  });

  it("say what else they know of campaign and target, and of a placement by which address it is told apart", () => {
    const headings = [
      "Day",
      "Campaign",
      "Campaign ID",
      "Campaign type",
      "Keyword",
      "Match type",
      "Search term",
      "Clicks",
    ];
    const mapping = proposeReportMapping("term", headings, []);
    const read = reportReader("term", mapping, headings, "EUR", "UTC");
    const result = read(["2026-03-04", "Hoses", "77", "Search", "hose", "Exact", "garden hose", "3"]);
    expect(result).toMatchObject({
      line: {
        dimensions: { campaign: "Hoses", target: "hose" },
        traits: { campaignId: "77", campaignKind: "Search", matchType: "Exact" },
      },
    });
    const sites = ["Day", "Placement", "Placement URL", "Placement type", "Impressions"];
    const seen = [["2026-03-04", "Family channel", "a.example/x", "Site", "10"]];
    expect(proposeReportMapping("placement", sites, seen).columns).toMatchObject({
      placement: "Placement URL",
      placementName: "Placement",
      placementKind: "Placement type",
    });
    expect(proposeReportMapping("placement", ["Day", "Placement", "Impressions"], []).columns).toMatchObject({
      placement: "Placement",
    });
    expect(guessKind(["Day", "Item ID", "URL", "Clicks", "Spend"])).toBe("item");
  });

  it("of another currency than the file's are set aside, whatever their amounts look like", () => {
    const columns = { day: "Day", item: "Item", cost: "Spend", currency: "Currency" };
    const mapping = reportMappingSchema.parse({ columns });
    const read = reportReader("item", mapping, ["Day", "Item", "Spend", "Currency"], "EUR", "UTC");
    expect(read(["2026-03-04", "A", "3.00", "EUR"]).is).toBe("line");
    expect(read(["2026-03-04", "A", "3.00", ""]).is).toBe("line");
    expect(read(["2026-03-04", "A", "3.00", "usd"])).toEqual({
      is: "aside",
      reason: "The row is in USD, the file in EUR.",
    });
  });

  it("in another currency are turned by the rate that was stated", () => {
    const read = reader({ currency: "USD", rate: 0.9 });
    const cells = ["04.03.2026", "A", "G", "Q1", "100", "10", "10,00", "1", "50,01"];
    const result = read(cells);
    expect(result.is === "line" && [result.line.counts.cost, result.line.counts.revenue]).toEqual([9_000, 45_009]);
  });

  it("are told apart where something about them is odd", () => {
    const line = (counts: object) =>
      ({
        ...{ day: 1, lastDay: 1 },
        dimensions: {} as never,
        traits: {},
        counts: { impressions: 0, clicks: 0, cost: 0, orders: 0, units: 0, revenue: 0, ...counts },
      }) as Parameters<typeof odditiesOf>[0];
    const all = new Set(["impressions", "clicks", "orders"] as const);
    expect(odditiesOf(line({ impressions: 1, clicks: 2 }), all)).toEqual(["clicks-above-impressions"]);
    expect(odditiesOf(line({ impressions: 1, orders: 2 }), all)).toEqual(["orders-without-clicks"]);
    expect(odditiesOf(line({ impressions: 1, cost: -2 }), all)).toEqual(["below-zero"]);
    expect(odditiesOf(line({ clicks: 2 }), new Set(["clicks"] as const))).toEqual([]);
  });

  it("keep a column of networks as where ads stood", () => {
    const headings = ["Date", "Campaign", "Network", "Impr.", "Clicks", "Cost"];
    const mapping = proposeReportMapping("slot", headings, [["2026-10-01", "A", "Display Network", "9", "1", "0.10"]]);
    expect(mapping.columns.slot).toBe("Network");
    expect(["Display Network", "Search network"].map(readSlot)).toEqual([3, 1]);
  });

  it("know slots by their names and by telling words", () => {
    const known = [
      "lead-row",
      "Lead row",
      "Lower results",
      "top of the results",
      "Product pages",
      "partner media",
      "Off-site",
      "lower in the search",
    ];
    expect(known.map(readSlot)).toEqual([0, 0, 1, 0, 2, 3, 3, 1]);
    expect(readSlot("elsewhere entirely")).toBeNull();
  });
});
