import { cellText, type Columns } from "@/core/kit/columns";
import { UNMATCHED_FROM } from "@/core/results/reports/unmatched";
import type { Database } from "@/db/client";
import { items } from "@/db/schema";
import { isNotNull } from "drizzle-orm";
import { loadCatalogue } from "../../catalogue/load";
import { remember } from "../../read/memo";
import { loadCodes } from "../../results/load";

/** IDs, titles and pictures by item number; numbers by ID, and rows of the catalogue by ID. */
export interface ItemNames {
  of: Map<number, { id: string; title: string; image: string }>;
  numberOf: Map<string, number>;
  rowOf: Map<string, number>;
}

/** Names of items: those of the catalogue, those that left it, and IDs that only reports know. Kept while they hold. */
export async function itemNames(db: Database): Promise<ItemNames> {
  const { columns, length, revision } = await loadCatalogue(db, ["id", "title", "image"]);
  const { texts, version, byText } = await loadCodes(db);
  return remember(db, "item names", [revision, version], () => nameItems(db, columns, length, { texts, byText }));
}

async function nameItems(
  db: Database,
  columns: Columns["columns"],
  length: number,
  { texts, byText }: { texts: Map<number, string>; byText: Map<string, number> },
): Promise<ItemNames> {
  const names: ItemNames = { of: new Map(), numberOf: new Map(), rowOf: new Map() };
  const put = (no: number, id: string, title: string, image: string) => {
    names.of.set(no, { id, title, image });
    names.numberOf.set(id, no);
  };
  const left = db.select({ no: items.itemNo, id: items.itemId, title: items.title }).from(items);
  for (const { no, id, title } of await left.where(isNotNull(items.toRev))) put(no, id, title, "");
  const numbers = columns["itemNo"];
  for (let row = 0; row < length; row++) {
    const no = numbers?.kind === "number" ? numbers.values[row]! : 0;
    const text = (name: string) => (columns[name] ? cellText(columns[name], row) : "");
    put(no, text("id"), text("title"), text("image"));
    names.rowOf.set(text("id"), row);
  }
  for (const [name, no] of byText) {
    if (!name.startsWith("item/")) continue;
    put(UNMATCHED_FROM + no, texts.get(no) ?? "", "(not in the catalogue)", "");
  }
  return names;
}
