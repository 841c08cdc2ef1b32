import { existsSync } from "node:fs";
import { beforeAll, describe, expect, it } from "vitest";
import ExcelJS from "exceljs";
import { formatDay, parseDay } from "@/core/kit/days";
import { seenShare } from "@/core/evidence/lag";
import { diffRecords } from "@/core/kit/diff";
import { toCsv } from "@/core/dispatch/csv";
import { REPORT_KINDS, type ReportKind, type ReportMapping } from "@/core/results/reports/report-kinds";
import { testCampaign } from "@/core/market/test-shop";
import { jobHandlers } from "../../runner/handlers";
import { enqueueJob, findJob } from "../../jobs/jobs";
import { claimJob, runJob } from "../../jobs/work";
import { addToBasket, feedFile, runToEnd } from "../../testing";
import { loadLag } from "../lag";
import { loadWindow } from "../load";
import { tillStrip, windowTotal } from "../../across/results/till";
import { checkReportMapping } from "./import-report";
import { counts, look, read, shop, type Workspace } from "./testing";
import { lookIntoReport } from "./open-report";
import { exportReport } from "./reports";
import { listReportImports, reportRowsAside, takeBackReport } from "./take-back";
import { proposeReportMapping, reportGaps } from "@/core/results/reports/report-mapping";

const DAY = "2026-03-04";

const total = async ({ db }: Workspace, from = DAY, to = from) => {
  const { impressions, clicks, cost, orders, revenue } = await windowTotal(db, {
    from: parseDay(from),
    to: parseDay(to),
  });
  return [impressions, clicks, cost, orders, revenue];
};

const HEAD = "Date,Campaign,Item ID,Impressions,Clicks,Spend,Orders,Sales";
const REPORT = `${HEAD}\n${DAY},All,001,100,10,5.20,1,12.00\n${DAY},All,002,50,4,2.00,0,0\n2026-03-05,All,001,80,6,3.10,0,0\n`;

describe("a report file", () => {
  it("counts once, however often it is read in, and restates what it overlaps", async () => {
    const workspace = await shop();
    expect(counts(await read(workspace, "item", REPORT))).toMatchObject({
      rows: 3,
      stored: 3,
      restated: 0,
      notices: [],
    });
    expect(await total(workspace)).toEqual([150, 14, 7_200, 1, 12_000]);
    expect(counts(await read(workspace, "item", REPORT)).restated).toBe(2);
    expect(await total(workspace, DAY, "2026-03-05")).toEqual([230, 20, 10_300, 1, 12_000]);
    // A later export of the same day: an order more, and one item has gone from it.
    await read(workspace, "item", `${HEAD}\n${DAY},All,001,100,10,5.20,2,24.00\n`);
    expect(await total(workspace)).toEqual([100, 10, 5_200, 2, 24_000]);
    // Another campaign on that day stands beside it.
    await read(workspace, "item", `${HEAD}\n${DAY},Other,002,9,1,1.00,0,0\n`);
    expect(await total(workspace)).toEqual([109, 11, 6_200, 2, 24_000]);
    expect(await total(workspace, "2026-03-05")).toEqual([80, 6, 3_100, 0, 0]);
  });

  it("is taken back as a whole, the latest first, and everything is as it was", async () => {
    const workspace = await shop();
    const { db, info } = workspace;
    const first = counts(await read(workspace, "item", REPORT, {}, { fileName: "first.csv" })).import;
    const before = await total(workspace, DAY, "2026-03-05");
    const second = counts(
      await read(
        workspace,
        "item",
        `${HEAD}\n${DAY},All,Q-3,7,7,7,7,7\n2026-03-09,All,001,1,1,1,1,1\n`,
        {},
        { fileName: "second.csv" },
      ),
    ).import;
    expect(await total(workspace)).toEqual([7, 7, 7_000, 7, 7_000]);
    expect(await takeBackReport(db, first)).toMatchObject({
      ok: false,
      error: { code: "report-restated", message: `second.csv was read in later and restates ${DAY} of it.` },
    });
    expect((await runToEnd(db, info, "report-undo", { import: second })).state).toBe("done");
    expect(await total(workspace, DAY, "2026-03-09")).toEqual(before);
    expect((await runToEnd(db, info, "report-undo", { import: second })).error?.code).toBe("report-undone");
    expect((await takeBackReport(db, first)).ok).toBe(true);
    expect(await total(workspace, DAY, "2026-03-09")).toEqual([0, 0, 0, 0, 0]);
    const left = await db.$client.execute(
      "SELECT (SELECT count(*) FROM item_facts), (SELECT count(*) FROM day_rollups)",
    );
    expect([left.rows[0]![0], left.rows[0]![1]]).toEqual([0, 0]);
    expect((await listReportImports(db)).map(({ fileName, undoneAt }) => [fileName, undoneAt !== null])).toEqual([
      ["second.csv", true],
      ["first.csv", true],
    ]);
  });

  it("teaches how days fill up when later files restate them", async () => {
    const workspace = await shop();
    // Each file is of the last three days; every day is written at once with 60 orders, a day later with 30 more, then 10.
    const first = parseDay("2026-03-01");
    for (let today = first + 2; today < first + 12; today++) {
      const rows = [0, 1, 2].map((age) => `${formatDay(today - age)},All,001,900,90,9,${[60, 90, 100][age]},900`);
      await read(workspace, "item", `${HEAD}\n${rows.join("\n")}\n`, {}, { written: formatDay(today) });
    }
    const { curve, ageOf } = await loadLag(workspace.db);
    expect([ageOf(first + 11), ageOf(first + 9), ageOf(first + 2)]).toEqual([0, 2, 2]);
    expect([0, 1, 2].map((age) => seenShare(curve, age))).toEqual([
      expect.closeTo(0.6, 9) as number,
      expect.closeTo(0.9, 9) as number,
      1,
    ]);
    // Taken back, a file has taught nothing.
    const [last] = await listReportImports(workspace.db);
    expect((await takeBackReport(workspace.db, last!.id)).ok).toBe(true);
    const { rows } = await workspace.db.$client.execute(
      "SELECT (SELECT sum(orders) FROM report_arrivals), (SELECT sum(orders) FROM item_facts)",
    );
    expect(rows[0]![0]).toBe(rows[0]![1]);
  });

  it("takes days at the age they had when their file was written, and new campaigns' old days for no late orders", async () => {
    const workspace = await shop();
    const line = (day: string, campaign: string, orders: number) => `${day},${campaign},001,900,90,9,${orders},900`;
    const days = Array.from({ length: 10 }, (_, i) => formatDay(parseDay("2026-03-01") + i));
    // A file a day, of that day alone, written the day after; then one a week later of all ten.
    for (const day of days) {
      const written = formatDay(parseDay(day) + 1);
      await read(workspace, "item", `${HEAD}\n${line(day, "All", 40)}\n`, {}, { written });
    }
    const first = await loadLag(workspace.db);
    expect(days.map((day) => first.ageOf(parseDay(day)))).toEqual(days.map(() => 1));
    const all = days.map((day) => line(day, "All", 50));
    await read(workspace, "item", `${HEAD}\n${all.join("\n")}\n`, {}, { written: "2026-03-31" });
    const { curve, ageOf } = await loadLag(workspace.db);
    expect(ageOf(parseDay(days[0]!))).toBe(30);
    // Seen a day after, they held 40 of what came to be 50.
    expect(seenShare(curve, 1)).toBeCloseTo(0.8, 9);
    // A second campaign's old days are no orders that came late.
    const other = days.map((day) => line(day, "Second", 100));
    await read(workspace, "item", `${HEAD}\n${other.join("\n")}\n`, {}, { written: "2026-04-01" });
    expect(seenShare((await loadLag(workspace.db)).curve, 1)).toBeCloseTo(0.8, 9);
  });

  it("keeps parts of orders, sets aside what lies in the future, and reads sums of small currencies", async () => {
    const workspace = await shop();
    const parts = [0.4, 0.4, 0.4].map((orders, i) => `2026-03-0${i + 1},All,001,10,1,0.50,${orders},2.00`);
    const future = "2036-03-01,All,001,10,1,0.50,1,2.00";
    const large = "2026-03-04,All,002,15000000,12000000,150000000.00,1,15000000";
    const job = await read(workspace, "item", `${HEAD}\n${[...parts, future, large].join("\n")}\n`);
    expect(counts(job)).toMatchObject({ rows: 5, stored: 4, setAside: 1 });
    const aside = await reportRowsAside(workspace.db, counts(job).import);
    expect(aside.map(({ reason }) => reason)).toEqual(['"2036-03-01" lies in the future.']);
    const [, , , orders] = await total(workspace, "2026-03-01", "2026-03-03");
    expect(orders).toBeCloseTo(1.2, 9);
    expect(await total(workspace, "2026-03-04")).toEqual([15_000_000, 12_000_000, 150_000_000_000, 1, 15_000_000_000]);
  });

  it("alone answers for what it divides, and what no report tells has no value", async () => {
    const workspace = await shop();
    const { db, info } = workspace;
    const terms = `Date,Campaign,Search term,Clicks,Spend\n${DAY},Words,rake,10,300.00\n${DAY},Words,total,2,47.00\n`;
    await read(workspace, "term", terms);
    const campaigns = await look(workspace, { level: "campaign" });
    expect([campaigns.source, campaigns.total.cost, campaigns.lines[0]!.name]).toEqual(["term", 347_000, "Words"]);
    // Sales were not in the file, nor was the shop's: no value, not nought.
    expect(campaigns.missing).toEqual(["impressions", "orders", "units", "revenue", "storeOrders", "storeRevenue"]);
    const days = await look(workspace, { level: "day" });
    expect(days.lines.map(({ sums }) => sums.cost)).toEqual([347_000]);
    expect((await look(workspace, { level: "term" })).lines.map(({ name }) => name).sort()).toEqual(["rake", "total"]);
    expect(await tillStrip(db, info, 30)).toMatchObject({ cost: 347_000, lastDayCost: 347_000, source: "term" });

    await read(workspace, "placement", `Date,Campaign,Placement,Impressions\n${DAY},Words,a.example,900\n`);
    const placements = await look(workspace, { level: "placement" });
    expect(placements.total.impressions).toBe(900);
    expect(placements.missing).toContain("cost");
    expect(placements.missing).not.toContain("impressions");
    // With an item report there, totals are its own again.
    await read(workspace, "item", `${HEAD}\n${DAY},Words,001,100,12,347.00,0,0\n`);
    const again = await look(workspace, { level: "campaign" });
    expect([again.source, again.missing]).toEqual(["item", ["units", "storeOrders", "storeRevenue"]]);
  });

  it("of sums over several days counts for windows that hold them whole, never on a day, and can be taken back", async () => {
    const workspace = await shop();
    const { db } = workspace;
    const head = "First day,Last day,Campaign,Item ID,Impressions,Clicks,Spend,Orders,Sales";
    const month = `${head}\n2026-03-01,2026-03-30,All,001,900,90,30.00,3,90.00\n2026-03-01,2026-03-30,All,002,100,10,4.00,0,0\n`;
    const job = await read(workspace, "item", month);
    expect(counts(job).notices[0]).toMatch(/^2 rows are sums over several days \(2026-03-01 to 2026-03-30\)/);
    const id = counts(job).import;
    const empty = [0, 0, 0, 0, 0];
    expect(await total(workspace, "2026-03-01")).toEqual(empty);
    expect(await total(workspace, "2026-03-02", "2026-03-30")).toEqual(empty);
    expect(await total(workspace, "2026-03-01", "2026-03-30")).toEqual([1000, 100, 34_000, 3, 90_000]);
    expect(await total(workspace, "2026-02-01", "2026-04-30")).toEqual([1000, 100, 34_000, 3, 90_000]);
    const range = { from: "2026-03-01", to: "2026-03-31" };
    expect((await look(workspace, { level: "item", ...range })).lines.map(({ key, sums }) => [key, sums.cost])).toEqual(
      [
        ["001", 30_000],
        ["002", 4_000],
      ],
    );
    expect((await look(workspace, { level: "campaign", days: 30 })).total.cost).toBe(34_000);
    expect((await look(workspace, { level: "day", ...range })).lines).toEqual([]);
    // A later file of the same days counts instead; where days are known one by one, these count.
    const again = await read(workspace, "item", month.replaceAll("30.00", "31.00"));
    expect(await total(workspace, "2026-03-01", "2026-03-30")).toEqual([1000, 100, 35_000, 3, 90_000]);
    const out = await exportReport(db, "item", parseDay("2026-03-01"), parseDay("2026-03-31"));
    expect(out.ok && out.value.headings.slice(0, 2)).toEqual(["day", "last_day"]);
    expect(out.ok && out.value.rows.map((row) => [row[0], row[1], row[5]])).toEqual([
      ["2026-03-01", "2026-03-30", "001"],
      ["2026-03-01", "2026-03-30", "002"],
    ]);
    await takeBackReport(db, counts(again).import);
    const daily = await read(workspace, "item", `${HEAD}\n${DAY},All,001,5,5,5.00,0,0\n`);
    expect(await total(workspace, "2026-03-01", "2026-03-30")).toEqual([5, 5, 5_000, 0, 0]);
    await takeBackReport(db, counts(daily).import);
    expect(await total(workspace, "2026-03-01", "2026-03-30")).toEqual([1000, 100, 34_000, 3, 90_000]);
    // Sums that overlap can't be added up: which counts, and which does not, is said when it comes and where it is looked at.
    const longer = `${head}\n2026-03-16,2026-04-15,All,001,500,50,12.00,1,20.00\n`;
    const overlap = await read(workspace, "item", longer);
    const both = { from: "2026-03-01", to: "2026-04-30" };
    expect(counts(overlap).notices.at(-1)).toMatch(
      /tells of 2026-03-01 to 2026-03-30 for 1 campaign that .* tells of too\. Both can't be added up/,
    );
    const seen = await look(workspace, { level: "campaign", ...both });
    expect([seen.total.cost, seen.leftOut.map(({ from, to, campaigns }) => [from, to, campaigns])]).toEqual([
      12_000,
      [["2026-03-01", "2026-03-30", 1]],
    ]);
    expect((await look(workspace, { level: "campaign", ...range })).leftOut).toEqual([]);
    await takeBackReport(db, counts(overlap).import);
    // Of days that are known one by one a sum counts nowhere, and that is said too.
    const known = await read(workspace, "item", `${HEAD}\n${DAY},All,001,5,5,5.00,0,0\n`);
    const nowhere = await read(workspace, "item", month.replaceAll("30.00", "33.00"));
    expect(counts(nowhere).notices.at(-1)).toMatch(/are known one by one, and these count/);
    expect((await look(workspace, { level: "campaign", ...range })).leftOut.map(({ by }) => by)).toContain(null);
    for (const job of [known, nowhere]) await takeBackReport(db, counts(job).import);
    await takeBackReport(db, id);
    expect(await total(workspace, "2026-03-01", "2026-03-30")).toEqual(empty);
  });

  it("without any day is of the days that are said", async () => {
    const workspace = await shop();
    const content = "Campaign,Item ID,Impressions,Clicks,Spend,Orders,Sales\nAll,001,900,90,30.00,3,90.00\n";
    const window = { from: "2026-03-01", to: "2026-03-07" };
    await read(workspace, "item", content, { window });
    expect(await total(workspace, "2026-03-01", "2026-03-07")).toEqual([900, 90, 30_000, 3, 90_000]);
    expect(await total(workspace, "2026-03-07")).toEqual([0, 0, 0, 0, 0]);
    expect(
      reportGaps("item", { ...proposeReportMapping("item", ["Item ID", "Spend"], []) }, ["Item ID", "Spend"]),
    ).toEqual(["Day has no column; where the rows are sums over some days, say which."]);
  });

  it("matches IDs however a spreadsheet spells them, and counts what it can't match under its own ID", async () => {
    const workspace = await shop();
    const job = await read(
      workspace,
      "item",
      `${HEAD}\n${DAY},All,1,1,1,1,0,0\n${DAY},All, q-3 ,2,2,2,0,0\n${DAY},All,GONE-7,4,4,4,0,0\n`,
    );
    expect(counts(job)).toMatchObject({ stored: 3, unmatched: 1 });
    expect(counts(job).notices).toEqual([
      "1 item ID the catalogue does not have (GONE-7); their 1 row count under the ID.",
    ]);
    const { rows, gone } = await loadWindow(workspace.db, { from: parseDay(DAY), to: parseDay(DAY) });
    expect([...rows.cost]).toEqual([1_000, 0, 2_000]);
    expect(gone.cost).toBe(4_000);
    expect(await total(workspace)).toEqual([7, 7, 7_000, 0, 0]);
    const exported = await exportReport(workspace.db, "item", parseDay(DAY), parseDay(DAY));
    expect(exported.ok && exported.value.rows.map((row) => row[4]).sort()).toEqual(["001", "GONE-7", "Q-3"]);
  });

  it("tells what it left out, added up and set aside", async () => {
    const workspace = await shop();
    const content = [
      "Report of the whole account",
      "Made on 1 April",
      HEAD,
      `${DAY},All,001,100,10,5.20,1,12.00`,
      `${DAY},All,001,100,10,5.20,1,12.00`,
      `${DAY},All,001,5,1,0.50,0,0`,
      "March 2026,All,001,1,1,1,1,1",
      `${DAY},All,002,1,5,-0.70,0,0`,
      `${DAY},All,Q-3,10,0,0,1,9`,
      "Total,,,221,27,10.40,3,33",
    ].join("\n");
    const job = await read(workspace, "item", content);
    expect(counts(job)).toMatchObject({ rows: 7, stored: 4, totals: 1, setAside: 1 });
    expect(counts(job).notices).toEqual([
      "1 row stood in the file twice, cell by cell, and count once.",
      "1 row with totals left out.",
      "1 row with more clicks than impressions; taken as they are.",
      "1 row below zero, taken as corrections.",
      "1 row with orders but no click; taken as they are.",
    ]);
    // Two rows of one item differ in a column and add up; the same row twice is a mistake.
    expect(await total(workspace)).toEqual([116, 16, 5_000, 2, 21_000]);
    expect(await reportRowsAside(workspace.db, counts(job).import)).toMatchObject([
      { reason: '"March 2026" is no day that can be read.' },
    ]);
  });

  it("is read from a workbook and from other languages' exports", async () => {
    const workspace = await shop();
    const book = new ExcelJS.Workbook();
    const sheet = book.addWorksheet("Bericht");
    sheet.addRow(["Bericht März"]);
    sheet.addRow(["Datum", "Kampagne", "Artikelnummer", "Klicks", "Kosten"]);
    sheet.addRow([new Date(Date.UTC(2026, 2, 4)), "Alles", "002", 3, 1.5]);
    sheet.addRow(["Gesamt", "", "", 3, 1.5]);
    const job = await read(workspace, "item", new Uint8Array(await book.xlsx.writeBuffer()));
    expect(counts(job)).toMatchObject({ stored: 1, totals: 1 });
    expect(await total(workspace)).toEqual([0, 3, 1_500, 0, 0]);
    await read(
      workspace,
      "item",
      "Wochenbericht\nDatum;Artikelnummer;Klicks;Kosten;Umsatz\n05.03.2026;001;1.204;1.234,56 €;2.000,00 €\n",
    );
    expect(await total(workspace, "2026-03-05")).toEqual([0, 1204, 1_234_560, 0, 2_000_000]);
  });

  it("leaves nothing behind when it can't be read, or is stopped half-way", async () => {
    const workspace = await shop();
    const { db, info } = workspace;
    await read(workspace, "item", REPORT);
    const before = await total(workspace, DAY, "2026-03-05");
    const nothing = await read(workspace, "item", `${HEAD}\nsoon,All,001,1,1,1,1,1\n`);
    expect([nothing.state, nothing.error?.message]).toEqual([
      "failed",
      'None of the 1 row could be taken in. The first of them: "soon" is no day that can be read.',
    ]);
    // It breaks off after some of its days have been put in force.
    await db.$client.execute(
      `CREATE TRIGGER halt BEFORE INSERT ON report_units WHEN NEW.day = ${parseDay("2026-03-07")} BEGIN SELECT RAISE(ABORT, 'halt'); END`,
    );
    const days = Array.from({ length: 9 }, (_, i) => `2026-03-0${i + 1},All,001,9,9,9,9,9`);
    const stopped = await read(workspace, "item", `${HEAD}\n${days.join("\n")}\n`);
    await db.$client.execute("DROP TRIGGER halt");
    expect([stopped.state, stopped.error?.code]).toEqual(["failed", "unexpected"]);
    expect(await total(workspace, DAY, "2026-03-05")).toEqual(before);
    expect(await total(workspace, "2026-03-01", "2026-03-03")).toEqual([0, 0, 0, 0, 0]);
    for (const table of ["report_rows", "report_units"]) {
      const { rows } = await db.$client.execute(`SELECT count(*) FROM ${table} WHERE import > 1`);
      expect(rows[0]![0]).toBe(0);
    }
    expect(await listReportImports(db)).toHaveLength(1);
    // And a runner that takes such a job up again finishes it.
    const file = feedFile(`${HEAD}\n${days.join("\n")}\n`);
    const report = await lookIntoReport(file, null);
    const mapping = proposeReportMapping("item", report.headings, report.samples);
    const { id } = await enqueueJob(db, "report-import", { file, fileName: "x", kind: "item", mapping, reading: null });
    const job = (await claimJob(db, "again"))!;
    await runJob(db, info, jobHandlers, { ...job, attempts: 1 });
    expect((await findJob(db, id))!.state).toBe("done");
    expect(await total(workspace, "2026-03-01", "2026-03-09")).toEqual([81, 81, 81_000, 81, 81_000]);
    expect(existsSync(file)).toBe(false);
  });

  it("is refused with a sentence where reading it would give wrong numbers", async () => {
    const refusal = (kind: ReportKind, columns: ReportMapping["columns"], change: Partial<ReportMapping> = {}) => {
      try {
        const mapping = {
          dateOrder: "day-month" as const,
          decimal: "." as const,
          ...{ currency: null, rate: null, window: null, renamed: {} },
          columns,
          ...change,
        };
        checkReportMapping(kind, mapping, ["Date", "Item ID", "Spend"], "EUR");
        return null;
      } catch (error) {
        return (error as { failure: { code: string; message: string } }).failure.message;
      }
    };
    const whole = { day: "Date", item: "Item ID", cost: "Spend" };
    expect(refusal("item", whole)).toBeNull();
    expect(refusal("item", { day: "Date", item: "Item ID" })).toBe(
      "The item report can't be read: Spend has no column.",
    );
    expect(refusal("item", { ...whole, cost: "Cost" })).toMatch(/the file has no column "Cost"/);
    expect(refusal("item", whole, { currency: "USD" })).toBe(
      "The report's money is in USD, the workspace's in EUR; amounts of two currencies are never added up.",
    );
    expect(refusal("item", whole, { currency: "USD", rate: 0.92 })).toBeNull();
  });
});

describe("the market's own reports", () => {
  let market: Workspace;
  const span = [20_700, 20_719] as const;
  beforeAll(async () => {
    market = await shop();
    const account = {
      ...testCampaign("c:f", { name: "Feed" }, ["001", "002"], 900),
      ...testCampaign("c:k", { name: "Words", kind: "keyword" }, ["Q-3"], 700, [
        { type: "keyword", text: "tools", match: "broad" },
      ]),
    };
    await addToBasket(market.db, diffRecords({}, account));
    await runToEnd(market.db, market.info, "dispatch", { takesBack: null });
    await runToEnd(market.db, market.info, "market-run", { from: span[0], through: span[1], seed: "s" });
  });

  it("go through the same door as files: written out and read into another workspace they give the same numbers", async () => {
    const other = await shop();
    const account = {
      ...testCampaign("c:f", { name: "Feed" }, ["001", "002"], 900),
      ...testCampaign("c:k", { name: "Words", kind: "keyword" }, ["Q-3"], 700, [
        { type: "keyword", text: "tools", match: "broad" },
      ]),
    };
    await addToBasket(other.db, diffRecords({}, account));
    await runToEnd(other.db, other.info, "dispatch", { takesBack: null });
    for (const kind of REPORT_KINDS) {
      const out = await exportReport(market.db, kind, ...span);
      if (!out.ok) throw new Error(out.error.message);
      expect(out.value.rows.length).toBeGreaterThan(0);
      const job = await read(other, kind, toCsv(out.value.headings, out.value.rows));
      expect(counts(job)).toMatchObject({ rows: out.value.rows.length, setAside: 0, unmatched: 0 });
      const again = await exportReport(other.db, kind, ...span);
      const sorted = (rows: (string | number | null)[][]) => rows.map((row) => row.join("|")).sort();
      expect(again.ok && sorted(again.value.rows)).toEqual(sorted(out.value.rows));
    }
    expect(await windowTotal(other.db, { from: span[0], to: span[1] })).toEqual(
      await windowTotal(market.db, { from: span[0], to: span[1] }),
    );
  });
});
