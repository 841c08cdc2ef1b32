import { beforeAll, describe, expect, it } from "vitest";
import { CONTRACT } from "@/core/dispatch/contract";
import { formatDay } from "@/core/kit/days";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { channelState, placementReviews } from "@/db/schema";
import { readAccount } from "../../account/state";
import { counts, read, shop, type Workspace } from "../../results/reports/testing";
import { addToBasket } from "../../testing";
import { itemsStopped } from "../items-stopped";
import { keepNegatives, negativesSchema, previewNegatives } from "../negatives";
import { placementsDue } from "./due";
import { placementsFile } from "./file";
import { matchAddresses } from "./match";
import { placementsSchema, viewPlacements, type PlacementsView } from "./placements";
import { judgePlacements, safetyWords, setSafetyWords } from "./reviews";

const FIRST = 20_700;
const HEAD = "Date,Campaign,Placement URL,Placement,Placement type,Impressions";

let workspace: Workspace;
let db: Database;
const view = async (asked: Record<string, unknown> = {}): Promise<PlacementsView> =>
  (await viewPlacements(db, workspace.info, placementsSchema.parse({ show: "all", ...asked })))!;
const lineOf = async (address: string) => (await view()).lines.find((line) => line.address === address)!;

/** Forty days of two campaigns; one address is written in two ways. */
function report(): string {
  const lines = [HEAD];
  for (let day = FIRST; day < FIRST + 40; day++) {
    const date = formatDay(day);
    lines.push(
      `${date},Words,https://www.Tools-Weekly.example/,Tools weekly,Website,${300 + (day % 7) * 40}`,
      `${date},Words,crypto-uncut-7.example,Lifestyle network,Website,${200 + (day % 5) * 90}`,
      `${date},Rakes,tools-weekly.example,Tools weekly,Website,100`,
      `${date},Rakes,com.maker.puzzle,Family channel,,${150 + (day % 3) * 100}`,
    );
  }
  return `${lines.join("\n")}\n${formatDay(FIRST)},Words,сад.example,,Website,7\n`;
}

beforeAll(async () => {
  workspace = await shop();
  ({ db } = workspace);
  expect(counts(await read(workspace, "placement", report()))).toMatchObject({ stored: 161 });
});

describe("placements of reports", () => {
  it("are one line an address, however reports write it, with sums that are those of the rows", async () => {
    const { lines, counts: lists, missing, impressions } = await view();
    expect(lines.map(({ address }) => address)).toEqual([
      ...["tools-weekly.example", "crypto-uncut-7.example", "com.maker.puzzle"],
      "xn--80ai1b.example",
    ]);
    const { rows } = await db.$client.execute(
      `SELECT sum(impressions) AS n FROM placement_facts f JOIN codes c ON c.no = f.placement WHERE lower(c.text) LIKE '%tools-weekly.example%'`,
    );
    expect(lines[0]).toMatchObject({ impressions: rows[0]!["n"], campaigns: ["Words", "Rakes"], kind: "site" });
    expect(impressions.all).toBe(lines.reduce((sum, line) => sum + line.impressions, 0));
    expect(lists).toMatchObject({ all: 4, new: 4, judged: 0, "kept out": 0 });
    // What no report tells is not 0.
    expect(missing).toEqual(expect.arrayContaining(["clicks", "cost", "orders", "revenue"]));
    expect(lines[0]).toMatchObject({ clicks: null, cost: null, orders: null, revenue: null, net: null });
    expect((await view()).worths).toBeNull();
  });

  it("are sorted by words that are not fit, by what the catalogue is about, and by what an address looks like", async () => {
    expect(await lineOf("crypto-uncut-7.example")).toMatchObject({ triage: "unsafe", unsafe: ["uncut"] });
    expect(await lineOf("tools-weekly.example")).toMatchObject({ triage: "fitting", topic: ["tool"] });
    expect(await lineOf("com.maker.puzzle")).toMatchObject({ triage: "doubtful", kind: "app", isKindTold: false });
    expect(await lineOf("xn--80ai1b.example")).toMatchObject({
      triage: "few",
      script: "Cyrillic",
      shown: "сад.example",
    });
    await setSafetyWords(db, "Ada", { words: "Puzzle, weekly" });
    expect((await lineOf("com.maker.puzzle")).triage).toBe("unsafe");
    expect((await lineOf("crypto-uncut-7.example")).triage).toBe("doubtful");
    await setSafetyWords(db, "Ada", { words: null });
    expect((await safetyWords(db)).isOwn).toBe(false);
    expect((await lineOf("crypto-uncut-7.example")).triage).toBe("unsafe");
  });

  it("are found by words and kind, and leave as a file with what is not known left empty", async () => {
    expect((await view({ q: "family rakes" })).lines.map(({ address }) => address)).toEqual(["com.maker.puzzle"]);
    expect((await view({ kind: "app" })).total).toBe(1);
    const { file } = placementsFile(await view({ show: "unsafe" }));
    const [head, row] = (file as string).replace(/^\uFEFF/, "").split(/\r?\n/);
    const cells = new Map(head!.split(",").map((name, at) => [name, row!.split(",")[at]]));
    expect([cells.get("address"), cells.get("clicks"), cells.get("spend"), cells.get("proposed")]).toEqual([
      ...["crypto-uncut-7.example", "", ""],
      "keep out",
    ]);
  });

  it("are judged by anybody's spelling, remembered with who and when, and judged again", async () => {
    const { info } = workspace;
    const { planned } = await readAccount(db);
    expect(await placementsDue(db, info, planned)).toMatchObject({ placements: 4, share: 1 });
    const first = await judgePlacements(db, info, "Ada", {
      ...{ addresses: ["HTTPS://Tools-Weekly.example", "com.maker.puzzle"], judgement: "leave", note: "our trade" },
    });
    expect(first).toMatchObject({ judged: 2, before: [{ judgement: null }, { judgement: null }] });
    expect(await lineOf("tools-weekly.example")).toMatchObject({
      review: { judgement: "leave", note: "our trade", who: "Ada" },
    });
    expect((await view()).counts).toMatchObject({ new: 2, judged: 2, fitting: 0 });
    // Judged just now: the next look is at least a month away, and Today is quiet.
    expect(await placementsDue(db, info, planned)).toBeNull();
    expect((await view()).isDue).toBe(false);
    const again = await judgePlacements(db, info, "Bo", {
      ...{ addresses: ["com.maker.puzzle"], judgement: null, note: "" },
    });
    expect(again.before).toEqual([{ address: "com.maker.puzzle", judgement: "leave", note: "our trade" }]);
    expect((await view()).counts).toMatchObject({ new: 3, judged: 1 });
    // What shows three times as much as when it was judged is to be judged again, and Today counts it.
    await db.update(placementReviews).set({ impressionsADay: 20, at: 0 });
    expect(await lineOf("tools-weekly.example")).toMatchObject({ hasGrown: true, review: { judgement: "leave" } });
    expect((await view()).counts).toMatchObject({ new: 4, judged: 1 });
    expect(await placementsDue(db, info, planned)).toMatchObject({ placements: 4 });
    await db.update(placementReviews).set({ impressionsADay: 5_000, at: Date.now() });
    expect((await view()).counts).toMatchObject({ new: 3, judged: 1 });
  });

  it("that are pasted are told apart: shown, not shown, no address, said twice", async () => {
    const lines = [
      "https://tools-weekly.example/?utm=1",
      "tools-weekly.example",
      "other.example/Path",
      "Total",
      "a b",
      "",
    ];
    expect(await matchAddresses(db, workspace.info, lines)).toEqual({
      known: [{ address: "tools-weekly.example", impressions: (await lineOf("tools-weekly.example")).impressions }],
      ...{ unknown: ["other.example/path"], junk: ["Total", "a b"], twice: 1 },
    });
    const many = Array.from({ length: 100_000 }, (_, i) => (i % 2 ? `site-${i}.example` : `junk ${i}`));
    const { unknown, junk } = await matchAddresses(db, workspace.info, many);
    expect([unknown.length, junk.length]).toEqual([50_000, 50_000]);
  });

  it("that are kept out say first what stops, what is not reported and where nothing was shown, and are out of the list", async () => {
    const asked = negativesSchema.parse({
      ...{ what: "placement", values: ["http://crypto-uncut-7.example/", "other.example"], reason: "unsafe" },
    });
    const found = await previewNegatives(db, workspace.info, asked);
    const { impressions } = await lineOf("crypto-uncut-7.example");
    expect(found).toMatchObject({ ok: true, value: { terms: 1, impressions, unmatched: ["other.example"], also: [] } });
    expect(found.ok && found.value.missing).toEqual(expect.arrayContaining(["clicks", "cost", "revenue"]));
    expect((await keepNegatives(db, "Ada", null, asked, "EUR")).ok).toBe(true);
    expect((await lineOf("crypto-uncut-7.example")).keptOut).toBe("everywhere");
    expect((await view({ show: "unsafe" })).total).toBe(0);
    expect((await view({ show: "kept out" })).total).toBe(1);
  });
});

describe("a report of terms or items without sales", () => {
  it("leaves them unknown in the look before something is kept out", async () => {
    const own = await shop();
    const day = formatDay(FIRST);
    await read(own, "term", `Date,Campaign,Search term,Clicks,Spend\n${day},Words,rake,10,3.00\n`);
    await read(own, "item", `Date,Campaign,Item ID,Clicks,Spend\n${day},Words,001,10,3.00\n`);
    const asked = negativesSchema.parse({ what: "term", values: ["rake"] });
    const found = await previewNegatives(own.db, own.info, asked);
    expect(found).toMatchObject({ value: { terms: 1, clicks: 10, cost: 3_000, whole: null } });
    expect(found.ok && found.value.missing).toEqual(expect.arrayContaining(["orders", "revenue"]));
    expect(found.ok && found.value.missing).not.toContain("cost");
    const stops = await itemsStopped(own.db, own.info, { items: ["001", "gone"], campaign: null });
    expect(stops).toMatchObject({ sums: { clicks: 10, cost: 3_000 }, paid: 0 });
    expect(stops!.missing).toEqual(expect.arrayContaining(["orders", "revenue"]));
  });

  it("leaves items out that another campaign shows, and names those that pay", async () => {
    const own = await shop();
    const day = formatDay(FIRST);
    const head = "Date,Campaign,Item ID,Clicks,Spend,Orders,Sales";
    await read(
      own,
      "item",
      `${head}\n${day},Words,001,10,3.00,2,24.00\n${day},Other,001,5,2.00,0,0\n${day},Words,002,9,4.00,0,0\n`,
    );
    const stops = await itemsStopped(own.db, own.info, { items: ["001", "002", "001"], campaign: null });
    // 24.00 of 5.00 is 4.8, above the goal of 3; the other brought nothing.
    expect(stops).toMatchObject({
      sums: { clicks: 24, cost: 9_000, orders: 2, revenue: 24_000 },
      paid: 1,
      missing: ["impressions", "units"],
    });
    expect(stops!.paying).toEqual([{ id: "001", title: "Rake", cost: 5_000, revenue: 24_000, orders: 2 }]);
    const { rows } = await own.db.$client.execute(
      "SELECT text FROM codes WHERE kind = 'campaign' AND text LIKE '%ther%'",
    );
    const other = await itemsStopped(own.db, own.info, { items: ["001", "002"], campaign: String(rows[0]!["text"]) });
    expect(other).toMatchObject({ sums: { clicks: 5, cost: 2_000, orders: 0 }, paid: 0 });
  });
});

describe("placements that a channel can't keep out", () => {
  it("are said to be so before they are in the basket, by what the channel told of itself", async () => {
    const own = await shop();
    const asked = negativesSchema.parse({ what: "placement", values: ["a.example"] });
    expect(await previewNegatives(own.db, own.info, asked)).toMatchObject({ value: { uncarried: [] } });
    await own.db.insert(channelState).values({
      ...{ id: 1, kind: "http", address: "http://channel.example" },
      about: {
        ...{ contract: CONTRACT, name: "Shopfront", tellsPlaces: false, reports: [] },
        carries: { exclusions: { workspace: ["item", "term"], feed: ["placement"] } },
      },
    });
    expect(await previewNegatives(own.db, own.info, asked)).toMatchObject({
      value: { channel: "Shopfront", uncarried: ["placements can't be excluded for the whole workspace there"] },
    });
    await addToBasket(own.db, diffRecords({}, testCampaign("c:f", { name: "Feed" }, ["001"], 500)));
    for (const scope of ["c:f", "g:c:f"]) {
      expect(await previewNegatives(own.db, own.info, { ...asked, scope })).toMatchObject({ value: { uncarried: [] } });
    }
  });
});

describe("placements whose report counts clicks, cost and orders", () => {
  it("are worth what was counted, and one that only costs is said to", async () => {
    const own = await shop();
    const head = "Date,Campaign,Placement,Impressions,Clicks,Spend,Orders,Sales";
    const day = formatDay(FIRST);
    await read(
      own,
      "placement",
      `${head}\n${day},Words,good.example,20000,400,80.00,40,2000.00\n${day},Words,bad.example,30000,900,180.00,0,0\n`,
    );
    const found = (await viewPlacements(own.db, own.info, placementsSchema.parse({ show: "all" })))!;
    const line = (address: string) => found.lines.find((one) => one.address === address)!;
    expect(found.missing).not.toContain("cost");
    expect(line("bad.example")).toMatchObject({ clicks: 900, cost: 180_000, revenue: 0, triage: "loses" });
    expect(line("good.example").triage).toBe("pays");
    expect(line("bad.example").net!.high).toBeLessThan(0);
  });
});
