import { describe, expect, it } from "vitest";
import { returnTiers } from "@/core/shelves/ready-made";
import { decodeLive, liveFigures } from "@/core/shelves/live";
import { importFeed } from "../testing";
import { recomputeAll } from "./compute";
import { fetchLabels, labelSettings, renewLabelToken, setLabelColumns } from "./labels";
import { liveSet } from "./live";
import { saveShelfSet } from "./sets";
import { viewShelfSet } from "./view";
import { FEED, day, db, rule, set, withFreshWorkspace, workspace } from "./testing";

withFreshWorkspace();

describe("what a screen cuts by itself", () => {
  it("agrees with the server's preview of the same set, figure by figure", async () => {
    await day(20_100, 100_000, 40_000, 30_000, 0);
    const made = {
      ...returnTiers(3),
      windowDays: 1,
      shelves: [rule("Home", "category", "Home"), ...returnTiers(3).shelves],
    };
    const bytes = await liveSet(db, made);
    if (!bytes.ok) throw new Error(bytes.error.message);
    const figures = liveFigures(made, decodeLive(bytes.value.buffer));
    const view = await viewShelfSet(db, made.key, made);
    if (!view.ok) throw new Error(view.error.message);
    expect(view.value.shelves.map(({ items }) => items)).toEqual([2, 1, 1, 0, 0, 0, 0]);
    figures.shelves.forEach(({ came: _, left: __, ...one }, at) => {
      const { items, families, spendShare, salesShare, gap, priceFrom, priceTo, sums } = view.value.shelves[at]!;
      expect({ ...one, sums: one.sums.revenue }).toEqual({
        items,
        families,
        spendShare,
        salesShare,
        gap,
        priceFrom,
        priceTo,
        sums: sums.revenue,
      });
    });
  });
});

describe("the label feed", () => {
  it("is read with its token only, in three forms, and counts what changed since", async () => {
    await saveShelfSet(db, set("stock", rule("Sold & <out>", "availability", "out of stock")));
    await recomputeAll(db);
    await setLabelColumns(db, { columns: [{ name: "shelf_stock", setKey: "stock" }] });
    const { token, changedSince } = await labelSettings(db);
    expect(changedSince).toBeNull();
    expect(await fetchLabels(db, "guessed", "csv")).toMatchObject({ error: { code: "label-feed-unknown" } });
    expect(await fetchLabels(db, token, "exe")).toMatchObject({ error: { code: "label-feed-unknown" } });
    const file = await fetchLabels(db, token, "csv");
    expect("file" in file && file.file).toBe(
      "id,shelf_stock\r\nA,All others\r\nB,Sold & <out>\r\nC,All others\r\nD,All others\r\n",
    );
    const xml = await fetchLabels(db, token, "xml");
    expect("file" in xml && xml.file).toContain(
      "<item><id>B</id><shelf_stock>Sold &amp; &lt;out&gt;</shelf_stock></item>",
    );
    expect((await labelSettings(db)).changedSince).toBe(0);
    await importFeed(
      workspace,
      FEED.replace("C,Pot,10,Home,in stock", "C,Pot,10,Home,out of stock").replace(/D,.*\n/, ""),
      { acceptLoss: true },
    );
    await recomputeAll(db);
    // C has another label, D is gone.
    expect((await labelSettings(db)).changedSince).toBe(2);
    const renewed = await renewLabelToken(db);
    expect(await fetchLabels(db, token, "csv")).toMatchObject({ error: { code: "label-feed-unknown" } });
    expect("file" in (await fetchLabels(db, renewed.token, "tsv"))).toBe(true);
  });
});
