import { describe, expect, it } from "vitest";
import { cellText, textColumn, type Columns } from "../../kit/columns";
import { evaluateField, indexLists } from "../derive/evaluate";
import { findFindings } from "./find";
import { FINDING_CODES, type FindingCode } from "./finding";
import { repairOf } from "./repairs";

const table = (columns: Record<string, string[]>): Columns => ({
  length: Object.values(columns)[0]!.length,
  columns: Object.fromEntries(Object.entries(columns).map(([name, values]) => [name, textColumn(values)])),
});

const countsOf = (of: Columns) => findFindings(of, new Uint8Array(of.length)).found;

/** The catalogue once the one-click repair of a finding is in force, as a new derived field in the field's place. */
function repaired(of: Columns, code: FindingCode, brands: string[] = []): Columns {
  const repair = repairOf(code, countsOf(of), brands);
  if (repair?.kind !== "derived") throw new Error(`${code} has no derived repair`);
  const settings = { lists: indexLists(repair.list ? [repair.list] : []), isMoney: () => false };
  const [column] = evaluateField(of, repair.field, settings).columns;
  return { ...of, columns: { ...of.columns, [repair.field.replaces!]: column! } };
}

const texts = (of: Columns, name: string) =>
  Array.from({ length: of.length }, (_, row) => cellText(of.columns[name]!, row));

describe("a repair by one click", () => {
  it("of titles takes shouting, markup and hidden signs away together, and the findings with them", () => {
    const before = table({
      title: [
        "BRASS HOSE NOZZLE WITH LOCK",
        "Copper <b>trowel</b> &amp; fork",
        "Seed\u200b tray of 40",
        "Plain rain barrel",
      ],
    });
    expect(countsOf(before)).toMatchObject({
      "title-shouting": { count: 1 },
      "title-markup": { count: 1 },
      "title-hidden": { count: 1 },
    });
    for (const code of ["title-shouting", "title-markup", "title-hidden"] as const) {
      const after = repaired(before, code);
      expect(texts(after, "title")).toEqual([
        "Brass Hose Nozzle With Lock",
        "Copper trowel & fork",
        "Seed tray of 40",
        "Plain rain barrel",
      ]);
      const left = countsOf(after);
      expect([left["title-shouting"], left["title-markup"], left["title-hidden"]]).toEqual([
        undefined,
        undefined,
        undefined,
      ]);
    }
  });

  it("of spellings takes the one that most items have", () => {
    const before = table({ brand: ["Thornlea", "thornlea", "Thornlea", "Veldine", "THORNLEA"] });
    expect(countsOf(before)["brand-spellings"]?.count).toBeGreaterThan(0);
    const after = repaired(before, "brand-spellings");
    expect(texts(after, "brand")).toEqual(["Thornlea", "Thornlea", "Thornlea", "Veldine", "Thornlea"]);
    expect(countsOf(after)["brand-spellings"]).toBeUndefined();
  });

  it("of missing brands reads them from titles, leaves those that are there, and does not guess", () => {
    const before = table({
      brand: ["Ottersby", "", "", ""],
      title: ["Veldine-style pot", "Veldine clay pot", "Otters by the river, print", "Pot by Ottersby"],
    });
    expect(countsOf(before)["brand-missing"]?.count).toBe(3);
    const after = repaired(before, "brand-missing", ["Ottersby", "Veldine"]);
    expect(texts(after, "brand")).toEqual(["Ottersby", "Veldine", "", "Ottersby"]);
    // Without a brand to look for there is nothing to offer.
    expect(repairOf("brand-missing", countsOf(before), [])).toBeNull();
  });

  it("is offered where a rule can put it right, and nowhere else", () => {
    const offered = FINDING_CODES.filter((code) => repairOf(code, { [code]: { count: 1 } }, ["Thornlea"]) !== null);
    expect(offered.sort()).toEqual([
      ...["brand-missing", "brand-spellings", "category-spellings", "cost-above-price", "family-proposed"],
      ...["title-hidden", "title-markup", "title-same", "title-short", "title-shouting"],
    ]);
  });
});
