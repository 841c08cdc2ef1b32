import { beforeAll, describe, expect, it } from "vitest";
import { STRUCTURE_HEADINGS, structureRows } from "@/core/dispatch/export";
import { PLAIN_PROFILE, type ExportProfile } from "@/core/dispatch/export-profile";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import { plannedAccount } from "../account/state";
import { toXlsx } from "../files/sheet";
import { addToBasket, testWorkspace } from "../testing";
import { keepProfile, listProfiles, profileFile, removeProfile } from "./export-profiles";
import { cellsOfFile, keepReadBack, previewReadBack } from "./read-back";

let workspace: Awaited<ReturnType<typeof testWorkspace>>;
beforeAll(async () => {
  workspace = await testWorkspace();
  const { db } = workspace;
  await addToBasket(db, diffRecords({}, testCampaign("c:a", { name: "=A, first", dailyBudget: 12_340 }, ["I0"], 455)));
});

const bytesOf = async (file: string | ReadableStream) => new Uint8Array(await new Response(file).arrayBuffer());
const stream = (bytes: Uint8Array) => new Blob([new Uint8Array(bytes)]).stream();

const PROFILE: ExportProfile = {
  ...PLAIN_PROFILE,
  ...{ key: "books", name: "Books", decimal: ",", money: "currency", delimiter: ";" },
  columns: [
    { column: "key", heading: "No." },
    { column: "campaign", heading: "Campaign" },
    { column: "daily_budget", heading: "A day" },
  ],
};

describe("a structure file that comes back", () => {
  it("as a workbook is as it went out, and an edited cell is that change", async () => {
    const { db, info } = workspace;
    const rows = structureRows(await plannedAccount(db));
    const back = async (cells: typeof rows) => {
      const bytes = await bytesOf(toXlsx("Structure", STRUCTURE_HEADINGS, cells));
      return (await cellsOfFile(info.slug, stream(bytes))).text;
    };
    expect(await previewReadBack(db, info, await back(rows))).toMatchObject({
      ok: true,
      value: { changes: 0, faults: [], lines: rows.length },
    });
    const at = STRUCTURE_HEADINGS.indexOf("daily_budget");
    const edited = await back(rows.map((row) => (row[0] === "campaign" ? row.with(at, 20) : row)));
    const found = await previewReadBack(db, info, edited);
    expect(found.ok && found.value.changes).toBe(1);
    await expect(cellsOfFile(info.slug, stream(new Uint8Array([0x50, 0x4b, 3, 4, 0, 0])))).rejects.toThrow();
  });

  it("is written and read by a profile that is kept; the plain one stays as it is", async () => {
    const { db, info } = workspace;
    expect(await keepProfile(db, { ...PROFILE, key: "plain" })).toMatchObject({
      ok: false,
      error: { code: "profile-plain" },
    });
    expect(await keepProfile(db, PROFILE)).toMatchObject({ ok: true });
    expect((await listProfiles(db)).map(({ key }) => key)).toEqual(["plain", "books"]);
    const file = await profileFile(db, info, PROFILE);
    const text = new TextDecoder().decode(await bytesOf(file.file));
    expect([file.name, text.split("\r\n")[0]]).toEqual(["books.csv", "No.;Campaign;A day"]);
    // What a spreadsheet would run as a formula goes out behind an apostrophe and comes back without it.
    expect(text).toContain("c:a;'=A, first;12,34 EUR");
    expect(await previewReadBack(db, info, text)).toMatchObject({ ok: true, value: { changes: 0, faults: [] } });
    const edited = text.replace("c:a;'=A, first;12,34 EUR", "c:a;'=A, first;15,00 EUR");
    expect(await keepReadBack(db, "test", edited)).toMatchObject({ ok: true, value: { changes: 1 } });
    expect((await plannedAccount(db)).find("campaign", "c:a")!.dailyBudget).toBe(15_000);
    for (const format of ["tsv", "xlsx", "json"] as const) {
      const made = await profileFile(db, info, { ...PROFILE, format });
      expect((await bytesOf(made.file)).length).toBeGreaterThan(20);
      expect(made.name).toBe(`books.${format}`);
    }
    expect(await removeProfile(db, "books")).toMatchObject({ ok: true });
    expect(await removeProfile(db, "books")).toMatchObject({ ok: false, error: { code: "profile-unknown" } });
  });
});
