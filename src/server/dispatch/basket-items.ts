import { cellText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { readAccount } from "../account/state";
import { namerOfItems } from "../catalogue/called";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";

/** What the item or family is called that a change is about, and its picture. */
export interface CalledItem {
  item: string | null;
  image: string;
}

/** What the items that records are about are called, with a picture, by the records' keys: an ID or a family's code says nothing to people. */
export async function itemsCalled(db: Database, keys: string[]): Promise<Map<string, CalledItem>> {
  const { live, planned } = await readAccount(db);
  const about = (key: string): { by: "id" | "family"; value: string } | null => {
    const record = planned.get(key) ?? live.get(key);
    if (record?.type === "exclusion") return { by: "id", value: record.item };
    if (record?.type !== "productGroup" || record.parent === null || !record.value) return null;
    const split = planned.get(record.parent) ?? live.get(record.parent);
    const by = split?.type === "productGroup" ? split.by : null;
    return by === "id" || by === "family" ? { by, value: record.value } : null;
  };
  const asked = keys.flatMap((key) => {
    const one = about(key);
    return one ? [{ key, ...one }] : [];
  });
  if (asked.length === 0) return new Map();
  const byId = await rowsById(db);
  const families = await rowsOfFamilies(
    db,
    new Set(asked.flatMap(({ by, value }) => (by === "family" ? [value] : []))),
  );
  const { image } = (await loadCatalogue(db, ["image"])).columns;
  const called = await namerOfItems(db);
  const items = new Map<string, CalledItem>();
  for (const { key, by, value } of asked) {
    const row = byId.get(value);
    const rows = by === "family" ? (families.get(value) ?? []) : row === undefined ? [] : [row];
    const [first] = rows;
    const name = called(rows);
    if (first !== undefined && name !== "") items.set(key, { item: name, image: image ? cellText(image, first) : "" });
  }
  return items;
}

/** The rows of some families, by family. */
async function rowsOfFamilies(db: Database, families: ReadonlySet<string>): Promise<Map<string, number[]>> {
  const found = new Map([...families].map((family) => [family, [] as number[]]));
  if (found.size === 0) return found;
  const { columns, length } = await loadCatalogue(db, ["family"]);
  for (let row = 0; columns["family"] && row < length; row++) found.get(cellText(columns["family"], row))?.push(row);
  return found;
}
