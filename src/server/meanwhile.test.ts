import { describe, expect, it } from "vitest";
import { versionOf } from "@/core/kit/version-of";
import { workspace } from "@/db/schema";
import { returnTiers } from "@/core/shelves/ready-made";
import { listShelfSets, saveShelfSet } from "./shelves/sets";
import { importFeed, testWorkspace } from "./testing";
import { listFeeds, startImport } from "./catalogue/feeds";
import { actAs } from "./person";
import { listLookups, saveLookup } from "./catalogue/lookups";
import { setSource } from "./catalogue/schedule";
import { changeWorkspace } from "./workspaces";

describe("what was changed meanwhile", () => {
  it("is told by what it holds, not by the order of its keys", () => {
    expect(versionOf({ a: 1, b: { c: [1, 2], d: undefined } })).toBe(versionOf({ b: { c: [1, 2] }, a: 1 }));
    expect(versionOf({ a: 1 })).not.toBe(versionOf({ a: 2 }));
    expect(versionOf([1, 2])).not.toBe(versionOf([2, 1]));
    expect(versionOf(null)).not.toBe(versionOf({}));
  });

  it("is not overwritten, said by whom and in what it differs; without a version it is as asked", async () => {
    const { db } = await testWorkspace();
    const { definition } = (await listShelfSets(db)).find((set) => set.definition.key === returnTiers(3).key)!;
    const seen = versionOf(definition);
    const first = await actAs("Maya", () => saveShelfSet(db, { ...definition, goal: 4 }, seen));
    expect(first).toMatchObject({ ok: true });
    const late = await saveShelfSet(db, { ...definition, windowDays: 14 }, seen);
    expect(late.ok ? "" : late.error.message).toBe(
      `The shelf set "${definition.name}" was changed meanwhile by Maya. Yours differs from it in: window days, goal. Nothing was kept.`,
    );
    // Who decided the same is in nobody's way, and neither is who did not look.
    expect(await saveShelfSet(db, { ...definition, goal: 4 }, seen)).toMatchObject({ ok: true });
    expect(await saveShelfSet(db, { ...definition, windowDays: 14 })).toMatchObject({ ok: true });
  });

  it("holds for look-up lists, and a new one takes no other's name away", async () => {
    const { db } = await testWorkspace();
    const list = { key: "colours", name: "Colours", rows: [["red", "R", ""]] as [string, string, string][] };
    const none = versionOf(null);
    expect(await saveLookup(db, list, none)).toMatchObject({ ok: true });
    const another = { ...list, rows: [["blue", "B", ""]] as typeof list.rows };
    expect(await saveLookup(db, another, none)).toMatchObject({
      ok: false,
      error: { code: "lookup-named", message: 'There is a look-up list "Colours" already.' },
    });
    expect(await saveLookup(db, another, versionOf(list))).toMatchObject({ ok: true });
    expect(await saveLookup(db, { ...list, name: "Paints" }, versionOf(list))).toMatchObject({
      ok: false,
      error: { code: "changed-meanwhile" },
    });
    expect(await listLookups(db)).toEqual([another]);
  });

  it("holds for settings, each for what it changes", async () => {
    const { db } = await testWorkspace();
    const seen = versionOf({ taxRate: 0, pricesWithTax: true });
    expect(await changeWorkspace(db, { goal: 5 })).toMatchObject({ ok: true });
    expect(await changeWorkspace(db, { taxRate: 0.19, pricesWithTax: false }, seen)).toMatchObject({ ok: true });
    const late = await actAs("Maya", () => changeWorkspace(db, { taxRate: 0.2, pricesWithTax: false }, seen));
    expect(late.ok ? "" : late.error.message).toContain("Yours differs from it in: tax rate.");
    const [kept] = await db.select().from(workspace);
    expect(kept).toMatchObject({ goal: 5, taxRate: 0.19, pricesWithTax: false });
  });

  it("holds for a feed's source", async () => {
    const shop = await testWorkspace();
    const { db, info } = shop;
    await importFeed(shop, "id,title,price\n1,Rake,5\n");
    const seen = versionOf({ source: null, schedule: null });
    const folder = (pattern: string) => ({ source: { kind: "folder" as const, pattern }, schedule: null });
    expect(await setSource(db, info, "main", folder("a*.csv"), seen)).toMatchObject({ ok: true });
    expect(await setSource(db, info, "main", folder("b*.csv"), seen)).toMatchObject({
      ok: false,
      error: { code: "changed-meanwhile" },
    });
    expect((await listFeeds(db))[0]!.source).toEqual({ kind: "folder", pattern: "a*.csv" });
  });

  it("holds for how a feed's columns are read", async () => {
    const shop = await testWorkspace();
    const { db, info } = shop;
    await importFeed(shop, "id,title,price,brand\n1,Rake,5,Oak\n2,Hoe,6,Elm\n");
    const [feed] = await listFeeds(db);
    const mapping = { ...feed!.mapping, columns: { ...feed!.mapping.columns, brand: null } };
    const input = { upload: crypto.randomUUID(), mapping };
    const refused = await startImport(db, info.slug, "main", { ...input, since: "another" });
    expect(refused).toMatchObject({ ok: false, error: { code: "changed-meanwhile" } });
    // With the version that holds it goes on, to the upload that is not there.
    await expect(
      startImport(db, info.slug, "main", { ...input, since: versionOf(feed!.mapping) }),
    ).rejects.toMatchObject({
      failure: { code: "upload-gone" },
    });
  });
});
