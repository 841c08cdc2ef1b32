import { randomUUID } from "node:crypto";
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { describe, expect, it } from "vitest";
import { mappingFrom, mappingSchema, proposeMapping, type Mapping } from "@/core/catalogue/mapping";
import { importFeed, testWorkspace } from "../testing";
import { changeWorkspace, findWorkspace } from "../workspaces";
import { understoodAs } from "./understood";
import { uploadFile } from "./uploads";

type Workspace = Awaited<ReturnType<typeof testWorkspace>>;

/** Looks at a feed as it would be understood with the mapping that is proposed, changed as asked. */
async function look({ db, info }: Workspace, content: string, change: (mapping: Mapping) => Mapping = (same) => same) {
  const upload = randomUUID();
  const file = uploadFile(info.slug, upload);
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(file, content);
  const [head, ...rows] = content
    .trim()
    .split("\n")
    .map((line) => line.split(","));
  const mapping = change(mappingSchema.parse(mappingFrom(proposeMapping(head!, rows), head!, rows)));
  return understoodAs(db, info, upload, { mapping, reading: null });
}

const many = (n: number, row: (i: number) => string) => Array.from({ length: n }, (_, i) => row(i)).join("\n");

describe("a feed as it would be understood", () => {
  it("shows ten items spread over all of it, with what would be set aside and why", async () => {
    const workspace = await testWorkspace();
    const content = `id,title,price,cost\n${many(1000, (i) => `A${i},Rake ${i},${i % 10 === 3 ? "ask" : "10.00"},4.00`)}\n`;
    const { rows, isWhole, usable, items, aside, unread, warnings } = await look(workspace, content);
    expect([rows, isWhole, usable, items.length]).toEqual([1000, true, 900, 10]);
    expect(aside).toEqual([{ reason: "Price not readable", rows: 100 }]);
    expect(unread).toEqual([{ form: "ask", example: "ask", count: 100, words: [], open: null }]);
    expect(warnings).toEqual([]);
    expect(items[0]).toMatchObject({ id: "A0", price: 10_000, cost: 4_000, margin: 0.6, availability: "in stock" });
    const places = items.map(({ id }) => Number(id.slice(1)));
    expect(places.at(-1)).toBeGreaterThan(700);
    expect([...places].sort((a, b) => a - b)).toEqual(places);
  });

  it("asks what words for availability and open amounts mean, with how many there are, until that is said", async () => {
    const workspace = await testWorkspace();
    const content =
      "id,title,price,availability\n1,Mower,1.299,when ready\n2,Rake,8,when ready\n3,Hoe,9,sold out\n4,Pot,7,on the way\n5,Can,6,when ready\n";
    const before = await look(workspace, content);
    expect(before.unread).toEqual([{ form: "9.9", example: "1.299", count: 1, words: [], open: "." }]);
    expect(before.words).toEqual([
      { word: "when ready", items: 2 },
      { word: "on the way", items: 1 },
    ]);
    expect(before.warnings.join()).toContain("can be read two ways");
    const after = await look(workspace, content, (mapping) => ({
      ...mapping,
      decimal: ",",
      availability: { whenready: "backorder", ontheway: "preorder" },
    }));
    expect([after.unread, after.words, after.warnings, after.usable]).toEqual([[], [], [], 5]);
    expect(after.items.map(({ price, availability }) => [price, availability])).toEqual([
      [1_299_000, "backorder"],
      [8000, "backorder"],
      [9000, "out of stock"],
      [7000, "preorder"],
      [6000, "backorder"],
    ]);
  });

  it("counts tax as the workspace says", async () => {
    const workspace = await testWorkspace();
    await changeWorkspace(workspace.db, { taxRate: 0.19 });
    const { info } = (await findWorkspace(workspace.info.slug))!;
    const { items } = await look({ ...workspace, info }, "id,title,price,cost\n1,Rake,11.90,5.00\n2,Hoe,11.90,5.00\n");
    expect(items[0]!.margin).toBeCloseTo(5 / 11.9, 12);
  });

  it("warns where cost is not below price, and where most prices would change", async () => {
    const workspace = await testWorkspace();
    await importFeed(workspace, `id,title,price,cost\n${many(20, (i) => `A${i},Rake,10.00,4.00`)}\n`);
    const swapped = `id,title,price,cost\n${many(20, (i) => `A${i},Rake,4.00,10.00`)}\n`;
    const { warnings } = await look(workspace, swapped);
    expect(warnings[0]).toContain("The cost of 20 items of 20 with one is not below the price");
    expect(warnings[1]).toContain("Of 20 items known before, 20 would have another price by more than 40 %");
    // A fifth off is a sale and no other column.
    expect((await look(workspace, swapped.replaceAll("4.00,10.00", "8.00,3.00"))).warnings).toEqual([]);
  });

  it("reads amounts once the words beside them are said to mean nothing", async () => {
    const workspace = await testWorkspace();
    const content = "id,title,price\n1,Rake,Netz 7.50 €\n2,Hoe,Netz 9.99 €\n3,Pot,3.00\n";
    const before = await look(workspace, content);
    expect([before.usable, before.unread[0]?.words]).toEqual([1, ["netz"]]);
    const after = await look(workspace, content, (mapping) => ({ ...mapping, moneyWords: ["netz"] }));
    expect([after.usable, after.unread, after.items.map(({ price }) => price)]).toEqual([3, [], [7_500, 9_990, 3_000]]);
  });
});
