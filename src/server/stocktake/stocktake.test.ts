import { beforeAll, describe, expect, it } from "vitest";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { stocktakeFile } from "./files";
import { changeReport, compareTwo, dismissFinding, listStocktakes, viewChapters, viewStocktake } from "./stocktakes";

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
  await addToBasket(db, diffRecords({}, account));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: FIRST, through: LAST, seed: "s" });
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

  it("without any results says so, and leaves nothing behind", async () => {
    const empty = await testWorkspace();
    const job = await runToEnd(empty.db, empty.info, "stocktake", {});
    expect(job.error).toMatchObject({ code: "stocktake-no-results" });
    expect(await listStocktakes(empty.db)).toEqual([]);
  });
});
