import { beforeAll, describe, expect, it } from "vitest";
import type { DerivedField } from "@/core/catalogue/derive/derived-field";
import type { Where } from "@/core/catalogue/where";
import { cellText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { toXlsx } from "../../files/sheet";
import { listJobs } from "../../jobs/jobs";
import { feedFile, importFeed, runWaiting, testWorkspace } from "../../testing";
import { windowOfDays } from "../../results/window";
import type { WorkspaceInfo } from "../../workspaces";
import { keepCosts, readCosts } from "../../catalogue/costs";
import { removeDerived, saveDerived } from "../../catalogue/derived";
import { derivedTrail, previewDerived } from "../../catalogue/derived-preview";
import { listFields } from "../../catalogue/field-list";
import { saveLookup } from "../../catalogue/lookups";
import { diagnose } from "./diagnose";
import { takeFamilies, teachAvailability, unknownAvailability } from "./repair";
import { listFeeds } from "../../catalogue/feeds";
import { listRefreshes, refreshItems } from "../../catalogue/history";
import { refreshEffect } from "./refresh-effect";
import { findItem } from "./item-detail";
import { findItems, itemsQuerySchema, matchIds, withFamilies } from "./items";
import { loadCatalogue } from "../../catalogue/load";
import { addItemNotes, addNote, listViews, notesOn, removeNote, saveView } from "../../catalogue/notes";

type Workspace = { db: Database; info: WorkspaceInfo };

const FIRST = [
  "id,title,price,brand,category,availability,quantity,item_group_id,cost_of_goods_sold,material",
  "1,Rose hose 15 m,10.00,Thornlea,Garden > Hoses,in stock,4,F1,6.00,rubber",
  "2,Rose hose 25 m,20.00,THORNLEA,Garden > Hoses,in stock,5,F1,12.00,rubber",
  "3,Leaf rake wide,8.00,Ottersby,Garden > Tools,in stock,2,,9.00,ash",
  "4,Primrose seeds,2.00,,Seeds,in stock,9,,,",
].join("\n");
const SECOND = [
  "id,title,price,brand,category,availability,quantity,item_group_id,cost_of_goods_sold,material",
  "1,Rose hose 15 m,11.00,Thornlea,Garden > Hoses,in stock,4,F1,6.00,rubber",
  "2,Rose hose 25 m,20.00,THORNLEA,Garden > Hoses,out of stock,0,F1,12.00,rubber",
  "4,Primrose seeds,2.00,,Seeds,in stock,9,,,paper",
  "5,Copper can 5 l,30.00,Veldine,Garden > Cans,back soon,1,,,copper",
].join("\n");

const field = (key: string, rules: DerivedField["rules"], more: Partial<DerivedField> = {}): DerivedField => ({
  ...{ key, name: key.toUpperCase(), kind: "text" as const, secondName: "", replaces: null, rules },
  ...more,
});
const always = (parts: DerivedField["rules"][number]["then"][number]["parts"], steps = []) => [
  { when: { match: "all" as const, of: [] }, then: [{ parts, by: " ", steps }] },
];

/** Lets the catalogue be made anew, as saving asked for. */
async function finish({ db, info }: Workspace): Promise<void> {
  await runWaiting(db, info);
  const failed = (await listJobs(db)).filter(({ state }) => state === "failed");
  expect(failed).toEqual([]);
}

async function values({ db }: Workspace, name: string): Promise<string[]> {
  const { columns, length } = await loadCatalogue(db, [name]);
  return Array.from({ length }, (_, row) => (columns[name] ? cellText(columns[name], row) : "–"));
}

describe("derived fields in a workspace", () => {
  let workspace: Workspace;
  beforeAll(async () => {
    workspace = await testWorkspace();
    await importFeed(workspace, FIRST);
  });

  it("are worked out on all items, filter like any field, and survive a refresh", async () => {
    const { db, info } = workspace;
    const kind = field("kind", [
      {
        when: { match: "all", of: [{ field: "title", op: "has-word", value: "rose" }] },
        then: [{ parts: [{ kind: "text", text: "flower" }], by: " ", steps: [] }],
      },
    ]);
    expect((await saveDerived(db, kind)).ok).toBe(true);
    await finish(workspace);
    expect(await values(workspace, "derived:kind")).toEqual(["flower", "flower", "", ""]);
    const where: Where = { match: "all", of: [{ field: "derived:kind", op: "is", value: "flower" }] };
    const query = itemsQuerySchema.parse({ where, columns: ["derived:kind", "unitCost"] });
    const { items, total } = await findItems(db, info, query, await windowOfDays(db, 30));
    expect(total).toBe(2);
    expect(items[0]!.values).toEqual({ "derived:kind": "flower", unitCost: 6000 });
    await importFeed(workspace, FIRST.replace("Leaf rake", "Rose rake"));
    expect(await values(workspace, "derived:kind")).toEqual(["flower", "flower", "flower", ""]);
    expect(await derivedTrail(db, 3)).toEqual([{ key: "kind", name: "KIND", values: [""], rule: null }]);
  });

  it("stand in for a field of the feed everywhere, and give it back", async () => {
    const { db } = workspace;
    const brand = field(
      "brand-one",
      [
        {
          when: { match: "all", of: [] },
          then: [{ parts: [{ kind: "field", field: "brand" }], by: " ", steps: [{ do: "case", to: "title" }] }],
        },
      ],
      { replaces: "brand" },
    );
    expect((await diagnose(db)).some(({ code }) => code === "brand-spellings")).toBe(true);
    await saveDerived(db, brand);
    await finish(workspace);
    expect(await values(workspace, "brand")).toEqual(["Thornlea", "Thornlea", "Ottersby", ""]);
    expect(await values(workspace, "own:brand")).toEqual(["Thornlea", "THORNLEA", "Ottersby", ""]);
    expect((await diagnose(db)).some(({ code }) => code === "brand-spellings")).toBe(false);
    // The preview reads the feed's own value, as the field itself does.
    const preview = await previewDerived(db, { field: brand, items: ["2", "nine"] });
    expect(preview.ok && preview.value.lookedUp[0]).toMatchObject({
      before: [{ field: "brand", value: "THORNLEA" }],
      after: ["Thornlea"],
    });
    expect(preview.ok && preview.value.unknownItems).toEqual(["nine"]);
    await importFeed(workspace, FIRST);
    expect(await values(workspace, "brand")).toEqual(["Thornlea", "Thornlea", "Ottersby", ""]);
    await removeDerived(db, "brand-one");
    await finish(workspace);
    expect(await values(workspace, "brand")).toEqual(["Thornlea", "THORNLEA", "Ottersby", ""]);
    expect(await values(workspace, "own:brand")).toEqual(["Thornlea", "THORNLEA", "Ottersby", ""]);
  });

  it("are refused in a sentence when they can't be right", async () => {
    const { db } = workspace;
    const refused = async (made: DerivedField) => {
      const outcome = await saveDerived(db, made);
      return outcome.ok ? null : outcome.error.code;
    };
    expect(await refused(field("self", always([{ kind: "field", field: "derived:self" }])))).toBe("derived-cycle");
    const lookUp = [{ do: "look-up", list: "nowhere", column: 1, missing: "empty" }] as never;
    expect(await refused(field("list", always([{ kind: "field", field: "title" }], lookUp)))).toBe("derived-invalid");
    expect(await refused(field("kind2", always([{ kind: "text", text: "x" }]), { name: "kind" }))).toBe("derived-name");
    await saveDerived(db, field("on", always([{ kind: "field", field: "derived:kind" }])));
    expect(await removeDerived(db, "kind")).toMatchObject({ ok: false, error: { code: "derived-used" } });
    await removeDerived(db, "on");
    await finish(workspace);
  });

  it("look up in pasted lists, and follow when a list changes", async () => {
    const { db } = workspace;
    const list = { key: "stuff", name: "Stuff", rows: [["rubber", "RUB", ""]] as [string, string, string][] };
    await saveLookup(db, list);
    const lookUp = [{ do: "look-up", list: "stuff", column: 1, missing: "keep" }] as never;
    await saveDerived(db, field("stuff", always([{ kind: "field", field: "feed:material" }], lookUp)));
    await finish(workspace);
    expect(await values(workspace, "derived:stuff")).toEqual(["RUB", "RUB", "ash", ""]);
    const saved = await saveLookup(db, { ...list, rows: [["ash", "ASH", ""]] });
    expect(saved.ok && saved.value.job).not.toBeNull();
    await finish(workspace);
    expect(await values(workspace, "derived:stuff")).toEqual(["rubber", "rubber", "ASH", ""]);
  });

  it("stand in the list of fields with coverage, the never filled last", async () => {
    const fields = await listFields(workspace.db);
    expect(fields.slice(0, 3).map(({ label }) => label)).toEqual(["Item ID", "Title", "Price"]);
    expect(fields.find(({ name }) => name === "brand")).toMatchObject({ filled: 3, items: 4, distinct: 3 });
    expect(fields.find(({ name }) => name === "feed:material")).toMatchObject({ group: "extra", filled: 3 });
    expect(fields.at(-1)!.filled).toBe(0);
  });
});

describe("the history of a feed", () => {
  let workspace: Workspace;
  beforeAll(async () => {
    workspace = await testWorkspace();
    await importFeed(workspace, FIRST);
    await importFeed(workspace, SECOND, { acceptLoss: true });
  });

  it("tells what each refresh changed, item by item and field by field", async () => {
    const { db, info } = workspace;
    const [latest, first] = await listRefreshes(db);
    expect(first).toMatchObject({ isFirst: true, counts: { new: 4 } });
    expect(latest!.counts).toMatchObject({ new: 1, changed: 3, gone: 1, soldOut: 1, fields: { Price: 1, Stock: 1 } });
    const { total, changes } = await refreshItems(db, info, latest!.id, "all", 0, 50);
    expect(total).toBe(5);
    expect(changes.map(({ id, kind }) => [id, kind])).toEqual([
      ["1", "changed"],
      ["2", "sold-out"],
      ["3", "gone"],
      ["4", "changed"],
      ["5", "new"],
    ]);
    expect(changes[0]!.fields).toEqual([{ field: "Price", from: "10.00", to: "11.00" }]);
    expect(changes[1]!.fields).toEqual([
      { field: "Availability", from: "in stock", to: "out of stock" },
      { field: "Stock", from: "5", to: "0" },
    ]);
    // Only a column that no field uses changed.
    expect(changes[3]!.fields).toEqual([{ field: "material", from: "", to: "paper" }]);
    for (const [kind, count] of [
      ["sold-out", 1],
      ["gone", 1],
      ["new", 1],
      ["back", 0],
    ] as const) {
      expect([kind, (await refreshItems(db, info, latest!.id, kind, 0, 50)).total]).toEqual([kind, count]);
    }
  });

  it("says what it does to shelves and structure", async () => {
    const { db } = workspace;
    const [latest] = await listRefreshes(db);
    const effect = await refreshEffect(db, latest!.id);
    expect(effect.ok && effect.value).toMatchObject({
      newItems: { total: 1, withoutHome: 1 },
      soldOut: { total: 1, stillServed: 0 },
      gone: { total: 1, namedInStructure: 0 },
    });
    expect(await refreshEffect(db, 999)).toMatchObject({ ok: false });
  });

  it("keeps old values for the item's own history, also when it leaves and comes again", async () => {
    const { db, info } = workspace;
    const item = async (id: string) => {
      const found = await findItem(db, info, id, await windowOfDays(db, 30));
      if (!found.ok) throw new Error(found.error.message);
      return found.value;
    };
    expect((await item("1")).history.map(({ price }) => price)).toEqual([10_000, 11_000]);
    expect((await item("2")).history.map(({ availability, stock }) => [availability, stock])).toEqual([
      ["in stock", 5],
      ["out of stock", 0],
    ]);
    await importFeed(workspace, FIRST, { acceptLoss: true });
    expect((await item("3")).history.map(({ isGone }) => isGone)).toEqual([false, true, false]);
    const [latest] = await listRefreshes(db);
    expect(latest!.counts).toMatchObject({ returned: 1, backInStock: 1 });
    expect((await refreshItems(db, info, latest!.id, "back", 0, 50)).changes.map(({ id }) => id)).toEqual(["2", "3"]);
  });

  it("sees nothing changed when columns only change places", async () => {
    const moved = FIRST.split("\n").map((line) => line.split(",").reverse().join(","));
    const job = await importFeed(workspace, moved.join("\n"));
    expect(job.result).toMatchObject({ changed: 0, new: 0, gone: 0, unchanged: 4 });
    const found = await findItem(workspace.db, workspace.info, "1", await windowOfDays(workspace.db, 30));
    expect(found.ok && found.value.fields.find(({ name }) => name === "material")!.value).toBe("rubber");
  });

  it("follows a renamed column and says so; a lost one stops unless it is allowed", async () => {
    const { db } = workspace;
    await importFeed(workspace, FIRST);
    await importFeed(workspace, FIRST.replace("brand,category", "maker,category"));
    expect((await listFeeds(db))[0]!.notices.join()).toContain(
      '"maker", which holds the same values, was read instead',
    );
    expect(await values(workspace, "brand")).toEqual(["Thornlea", "THORNLEA", "Ottersby", ""]);
    const without = FIRST.split("\n")
      .map((line) => line.split(",").toSpliced(3, 1).join(","))
      .join("\n");
    const lost = await importFeed(workspace, without);
    expect(lost.error).toMatchObject({ code: "feed-shape-changed" });
    expect((await listFeeds(db))[0]!.trouble).toMatchObject({ code: "feed-shape-changed" });
    expect((await importFeed(workspace, without, { acceptLoss: true })).state).toBe("done");
    expect(await values(workspace, "brand")).toEqual(["", "", "", ""]);
    // Once allowed it is not missed again.
    expect((await importFeed(workspace, without)).state).toBe("done");
  });
});

describe("costs, words, families, notes and views", () => {
  it("reads a costs file however IDs are written, and says what it could not use", async () => {
    const workspace = await testWorkspace();
    const { db, info } = workspace;
    await importFeed(workspace, FIRST.replace("\n1,", "\n001,"));
    const file = "SKU;Purchase price;Fee\n1;7,50;0,50\n2;x;\n99;5;\n";
    const read = await readCosts(db, info, feedFile(file));
    expect(read.ok && read.value).toMatchObject({
      ...{ rows: 3, matched: 1, unmatched: ["99"], unmatchedCount: 1 },
      unreadable: [{ row: 3, text: "x" }],
    });
    await finish(workspace);
    // The file's cost and fee for the first, the feed's cost for the others.
    expect(await values(workspace, "unitCost")).toEqual(["7500", "12000", "9000", ""]);
    expect((await values(workspace, "breakEven"))[0]).toBe("5");
    const found = await findItem(db, info, "001", await windowOfDays(db, 30));
    expect(found.ok && found.value).toMatchObject({ cost: 7500, fee: 500, margin: 0.2, breakEven: 5, goal: 5 });
    const losing = await findItem(db, info, "3", await windowOfDays(db, 30));
    expect(losing.ok && [losing.value.isLosing, losing.value.breakEven]).toEqual([true, null]);
    expect((await diagnose(db)).find(({ code }) => code === "cost-above-price")!.count).toBe(1);
    await keepCosts(db, [{ id: "3", cost: 1000, fee: null }], "add");
    await finish(workspace);
    expect(await values(workspace, "unitCost")).toEqual(["7500", "12000", "1000", ""]);
    expect(await readCosts(db, info, feedFile("a,b\n1,2\n"))).toMatchObject({ error: { code: "costs-columns" } });
  });

  it("learns the shop's own availability words", async () => {
    const workspace = await testWorkspace();
    const { db } = workspace;
    await importFeed(workspace, SECOND);
    expect(await unknownAvailability(db)).toEqual([{ word: "back soon", items: 1 }]);
    await finish(workspace);
    await teachAvailability(db, { "Back soon": "backorder" });
    await importFeed(workspace, SECOND);
    expect((await values(workspace, "availability")).at(-1)).toBe("backorder");
    expect(await unknownAvailability(db)).toEqual([]);
  });

  it("takes proposed families, offers whole families, and matches pasted IDs", async () => {
    const workspace = await testWorkspace();
    const { db } = workspace;
    await importFeed(workspace, FIRST.replaceAll(",F1,", ",,").replace("THORNLEA", "Thornlea"));
    expect(await withFamilies(db, ["1"])).toEqual(["1"]);
    expect((await diagnose(db)).find(({ code }) => code === "family-proposed")).toMatchObject({
      count: 2,
      action: { kind: "families" },
    });
    await takeFamilies(db, true);
    await finish(workspace);
    expect(await withFamilies(db, ["1"])).toEqual(["1", "2"]);
    expect((await diagnose(db)).some(({ code }) => code === "family-proposed")).toBe(false);
    expect(await matchIds(db, [" 1", "1", "77", ""])).toEqual({ known: ["1"], unknown: ["77"] });
  });

  it("keeps notes on items and families, found by a filter, and views under a name", async () => {
    const workspace = await testWorkspace();
    const { db, info } = workspace;
    await importFeed(workspace, FIRST);
    const note = await addNote(db, { kind: "family", key: "F1", text: "Supplier changes in May" });
    await addItemNotes(db, [{ id: "3", text: "Handle breaks" }]);
    expect((await notesOn(db, "1", "F1")).map(({ text }) => text)).toEqual(["Supplier changes in May"]);
    const where: Where = { match: "all", of: [{ field: "note", op: "filled", value: "" }] };
    const find = async () =>
      (await findItems(db, info, itemsQuerySchema.parse({ where }), await windowOfDays(db, 30))).items.map(
        ({ id }) => id,
      );
    expect(await find()).toEqual(["1", "2", "3"]);
    await removeNote(db, note.id);
    expect(await find()).toEqual(["3"]);
    await saveView(db, { screen: "catalogue", name: "Mine", state: { q: "a" } });
    await saveView(db, { screen: "catalogue", name: "Mine", state: { q: "b" } });
    expect((await listViews(db, "catalogue")).map(({ name, state }) => [name, state["q"]])).toEqual([["Mine", "b"]]);
  });

  it("writes workbooks that read back as they were, formulas as text", async () => {
    const rows = [
      ["1", "=1+1", 2.5],
      ["2", "two\nlines", null],
    ];
    const parts: Buffer[] = [];
    for await (const piece of toXlsx("Items", ["id", "title", "price"], rows) as unknown as AsyncIterable<Uint8Array>) {
      parts.push(Buffer.from(piece));
    }
    const workspace = await testWorkspace();
    const job = await importFeed(workspace, Buffer.concat(parts));
    expect(job.result).toMatchObject({ rows: 2, stored: 1, setAside: 1 });
    expect(await values(workspace, "title")).toEqual(["=1+1"]);
  });
});
