import { beforeAll, describe, expect, it } from "vitest";
import { testCampaign } from "@/core/market/test-shop";
import { findUnmasked } from "@/core/stocktake/masking";
import type { Database } from "@/db/client";
import { read } from "../results/reports/testing";
import { importFeed, runAccount, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { stocktakeFile } from "./files";
import {
  changeReport,
  compareTwo,
  dismissFinding,
  listStocktakes,
  removeStocktake,
  viewChapters,
  viewStocktake,
  type ChapterView,
} from "./stocktakes";

const FIRST = 20_700;
const LAST = FIRST + 59;
const FEED = `id,title,price,brand,category\n${Array.from(
  { length: 30 },
  (_, i) => `I${i},${["Oak", "Steel"][i % 2]} Rake ${i},${3 + i},Makerly${i % 3},Garden > ${i % 2 ? "Hoses" : "Rakes"}`,
).join("\n")}\n`;

let workspace: { db: Database; info: WorkspaceInfo };
let stocktake: number;
beforeAll(async () => {
  workspace = await testWorkspace();
  const { db, info } = workspace;
  await importFeed(workspace, FEED);
  const all = Array.from({ length: 30 }, (_, i) => `I${i}`);
  const account = {
    ...testCampaign("c:f", { name: "Secretive spring feed", dailyBudget: 900_000 }, all, 900),
    ...testCampaign("c:k", { name: "Words", kind: "keyword", serveOrder: 2 }, all, 1200, [
      { type: "keyword", text: "rakes", match: "broad" },
    ]),
  };
  await runAccount(workspace, account, { from: FIRST, through: LAST, seed: "s" });
  const job = await runToEnd(db, info, "stocktake", {});
  expect(job.error).toBeNull();
  stocktake = (job.result as { stocktake: number }).stocktake;
});

const value = <T>(outcome: { ok: true; value: T } | { ok: false; error: { message: string } }): T => {
  if (!outcome.ok) throw new Error(outcome.error.message);
  return outcome.value;
};

describe("a stocktake", () => {
  it("has the figures that SQL has on the same rows", async () => {
    const { db } = workspace;
    const { head } = value(await viewStocktake(db, stocktake));
    const { rows } = await db.$client.execute("SELECT sum(cost), sum(revenue), sum(orders) FROM item_facts");
    const { cost, revenue, orders } = head.total;
    expect([cost, revenue, orders]).toEqual([0, 1, 2].map((at) => Number(rows[0]![at])));
    const [campaigns] = value(await viewChapters(db, stocktake, "campaigns"));
    const by = await db.$client.execute("SELECT sum(cost) FROM item_facts GROUP BY campaign ORDER BY sum(cost) DESC");
    expect(campaigns!.table!.rows.map((row) => row[4])).toEqual(by.rows.map((row) => Number(row[0])));
    const shares = campaigns!.table!.rows.map((row) => row[1] as number);
    expect(shares.reduce((sum, one) => sum + one, 0)).toBeCloseTo(1);
  });

  it("keeps a finding aside with its reason in later ones, and takes it up again", async () => {
    const { db, info } = workspace;
    const { head } = value(await viewStocktake(db, stocktake));
    const [first] = head.findings;
    expect(first).toBeDefined();
    await dismissFinding(db, "ann", { finding: first!.key, reason: "on purpose" });
    await runToEnd(db, info, "stocktake", {});
    const [later, earlier] = await listStocktakes(db);
    expect([later!.findings, earlier!.findings]).toEqual([head.findings.length - 1, head.findings.length - 1]);
    const compared = value(await compareTwo(db, later!.id, earlier!.id));
    expect(new Set(compared.findings.map(({ became }) => became))).toEqual(new Set(["still there"]));
    await dismissFinding(db, "ann", { finding: first!.key, reason: "" });
    expect((await listStocktakes(db))[0]!.findings).toBe(head.findings.length);
  });

  it("masked, tells no name, ID or brand, and refuses a remark that does", async () => {
    const { db, info } = workspace;
    const asked = { format: "html", masked: true, paper: "A4" } as const;
    const plain = value(await stocktakeFile(db, info, stocktake, { ...asked, masked: false })).file as string;
    expect(plain).toContain("Secretive spring feed");
    const masked = value(await stocktakeFile(db, info, stocktake, asked)).file as string;
    for (const name of ["Secretive", "Makerly", "Oak Rake", "Steel Rake"]) expect(masked).not.toContain(name);
    expect(masked.match(/(?:Campaign|Item|Brand) \w+/g)).toEqual(
      expect.arrayContaining(["Campaign 1", "Item 1", "Brand A"]),
    );
    expect(value(await stocktakeFile(db, info, stocktake, asked)).file).toBe(masked);
    value(await changeReport(db, stocktake, { remark: { chapter: "items", text: "Ask Makerly1 for prices." } }));
    expect(await stocktakeFile(db, info, stocktake, asked)).toMatchObject({
      error: { code: "stocktake-unmasked", message: expect.stringContaining("makerly1") },
    });
  });

  it("of a number for an ID finds it in what somebody wrote", async () => {
    expect(findUnmasked("Ask for 80421, and for 14,000", ["80421", "14000", "12"], "")).toEqual(["80421"]);
  });

  it("is taken away and brought back with its remarks", async () => {
    const { db } = workspace;
    value(await removeStocktake(db, stocktake));
    expect(await viewStocktake(db, stocktake)).toMatchObject({ error: { code: "stocktake-unknown" } });
    expect((await listStocktakes(db)).map(({ id }) => id)).not.toContain(stocktake);
    value(await removeStocktake(db, stocktake, true));
    expect(value(await viewStocktake(db, stocktake)).remarks).toEqual({ items: "Ask Makerly1 for prices." });
  });

  it("of one report alone says less and nothing wrong: what it does not tell is no value", async () => {
    const alone = await testWorkspace();
    const lines = Array.from({ length: 28 }, (_, at) => {
      const day = `2026-09-${String(at + 1).padStart(2, "0")}`;
      return [
        `${day},Brand words,oak rake,900,40,20.00,4,400.00`,
        `${day},Other words,free plans,4000,60,30.00,0,0.00`,
      ];
    });
    const file = `Day,Campaign,Search term,Impressions,Clicks,Spend,Orders,Sales\n${lines.flat().join("\n")}\n`;
    expect((await read(alone, "term", file)).error).toBeNull();
    const job = await runToEnd(alone.db, alone.info, "stocktake", {});
    expect(job.error).toBeNull();
    const { head, chapters } = value(await viewStocktake(alone.db, (job.result as { stocktake: number }).stocktake));
    expect([head.days, head.total.cost, head.total.revenue]).toEqual([28, 28 * 50_000, 28 * 400_000]);
    const waste = head.findings.find(({ fault }) => fault === "waste-terms")!;
    expect(waste.about.map(({ name }) => name)).toEqual(["free plans"]);
    expect(waste.month!.mean).toBeCloseTo(30 * 30_000);
    expect(new Map(chapters.map(({ key, lacks }) => [key, lacks])).get("hours")).toMatch(/^Needs a report by hour/);
    expect(head.findings.map(({ fault }) => fault)).not.toContain("waste-items");
  });

  it("of placements without sales names none of them wasteful, and gives them no return", async () => {
    const alone = await testWorkspace();
    const file =
      "Day,Placement,Impressions,Clicks,Spend\n2026-09-01,a.example,9000,400,200.00\n2026-09-01,b.example,100,4,2.00\n";
    expect((await read(alone, "placement", file)).error).toBeNull();
    const job = await runToEnd(alone.db, alone.info, "stocktake", {});
    const id = (job.result as { stocktake: number }).stocktake;
    expect(value(await viewStocktake(alone.db, id)).head.findings).toEqual([]);
    const [{ table }] = value(await viewChapters(alone.db, id, "placements")) as [ChapterView];
    const of = (label: string) => table!.columns.findIndex((column) => column.label === label);
    expect(
      ["Share of sales", "Gap, points", "ROAS", "Ad sales", "Ad orders"].map((label) => table!.rows[0]![of(label)]),
    ).toEqual(Array.from({ length: 5 }, () => null));
    expect(table!.rows[0]![of("Spend")]).toBe(200_000);
  });

  it("of days without results says which there are", async () => {
    const { db, info } = workspace;
    const job = await runToEnd(db, info, "stocktake", { from: "2020-01-01", to: "2020-01-31" });
    expect(job.error).toMatchObject({ code: "stocktake-days" });
    expect((await runToEnd(db, info, "stocktake", { from: "2026-09-10" })).error).not.toBeNull();
  });

  it("without any results says so, and leaves nothing behind", async () => {
    const empty = await testWorkspace();
    const job = await runToEnd(empty.db, empty.info, "stocktake", {});
    expect(job.error).toMatchObject({ code: "stocktake-no-results" });
    expect(await listStocktakes(empty.db)).toEqual([]);
  });
});
