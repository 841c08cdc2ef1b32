import { ROW_HASH } from "@/core/catalogue/catalogue-columns";
import { BACK_IN_STOCK, fieldBits, isBuyable, OTHER_COLUMNS, SOLD_OUT } from "@/core/catalogue/field-changes";
import { FIELD_KEYS, type FieldKey } from "@/core/catalogue/fields";
import { type ReadItem } from "@/core/catalogue/read-row";
import type { Columns } from "@/core/kit/columns";
import type { Database } from "@/db/client";

/** An item that was seen before. */
export interface Known {
  itemNo: number;
  /** Hash of the version in force, or null when the item is gone. */
  hash: number | null;
  /** Its row in the revision in force, or -1. */
  row: number;
  seen: boolean;
}

/** Every item ever seen, by ID: those in force from the columns of the catalogue, those gone from their closed versions. */
export async function knownItems(
  db: Database,
  earlier: Columns,
): Promise<{ byId: Map<string, Known>; highest: number; live: number }> {
  const byId = new Map<string, Known>();
  const { id, itemNo, [ROW_HASH]: hash } = earlier.columns;
  let highest = 0;
  if (id?.kind === "text" && itemNo?.kind === "number" && hash?.kind === "number") {
    for (let row = 0; row < earlier.length; row++) {
      const no = itemNo.values[row]!;
      highest = Math.max(highest, no);
      byId.set(id.values[id.codes[row]!]!, {
        itemNo: no,
        hash: hash.values[row]!,
        row,
        seen: false,
      });
    }
  }
  const live = byId.size;
  const { rows } = await db.$client.execute("SELECT DISTINCT item_id, item_no FROM items WHERE to_rev IS NOT NULL");
  for (const row of rows) {
    const no = Number(row[1]);
    highest = Math.max(highest, no);
    if (!byId.has(String(row[0]))) byId.set(String(row[0]), { itemNo: no, hash: null, row: -1, seen: false });
  }
  return { byId, highest, live };
}

/** Makes the function that tells which fields of an item differ from those it had in a row of the earlier revision. */
export function changeTeller(earlier: Columns): (row: number, item: ReadItem) => number {
  const readers = FIELD_KEYS.map((key) => {
    const column = earlier.columns[key];
    return [key, column] as const;
  });
  const availability = earlier.columns["availability"];
  return (row, item) => {
    const changed: FieldKey[] = [];
    for (const [key, column] of readers) {
      if (!column) continue;
      if (column.kind === "text") {
        if (column.values[column.codes[row]!] !== item[key]) changed.push(key);
      } else {
        const before = column.values[row]!;
        const now = item[key] as number | null;
        if (Number.isNaN(before) ? now !== null : before !== now) changed.push(key);
      }
    }
    let bits = changed.length === 0 ? OTHER_COLUMNS : fieldBits(changed);
    if (availability?.kind === "text" && changed.includes("availability")) {
      const was = isBuyable(availability.values[availability.codes[row]!]!);
      const is = isBuyable(item.availability);
      if (was && !is) bits |= SOLD_OUT;
      if (!was && is) bits |= BACK_IN_STOCK;
    }
    return bits;
  };
}
