import { CatalogueColumnsBuilder, ROW_HASH } from "@/core/catalogue/catalogue-columns";
import { faultBits } from "@/core/catalogue/faults";
import { BACK_IN_STOCK, fieldBits, isBuyable, OTHER_COLUMNS, SOLD_OUT } from "@/core/catalogue/field-changes";
import { FIELD, FIELD_KEYS, type FieldKey } from "@/core/catalogue/fields";
import { fieldsInBits } from "@/core/catalogue/field-changes";
import type { Mapping } from "@/core/catalogue/mapping";
import { rowReader, type ReadItem } from "@/core/catalogue/read-row";
import { SINK_FROM_ROWS, type TextSink } from "@/core/catalogue/text-sink";
import type { Columns } from "@/core/kit/columns";
import { collectGarbageFully } from "../memory";
import { rowHasher } from "@/core/catalogue/row-hash";
import type { Database } from "@/db/client";
import { items, refreshChanges, setAside, type RefreshCounts } from "@/db/schema";
import { BULK_ROWS, bulkInsert } from "../bulk";
import type { JobContext } from "../jobs/work";
import { BrokenRow } from "./reading/feed-rows";
import { type OpenFeed } from "./reading/open-feed";

/** Rows set aside that are kept; their count is always true. */
const MOST_SET_ASIDE = 100_000;

interface Known {
  itemNo: number;
  /** Hash of the version in force, or null when the item is gone. */
  hash: number | null;
  /** Its row in the revision in force, or -1. */
  row: number;
  seen: boolean;
}

/** Every item ever seen, by ID: those in force from the columns of the catalogue, those gone from their closed versions. */
async function knownItems(
  db: Database,
  earlier: Columns,
): Promise<{ byId: Map<string, Known>; highest: number; live: number }> {
  const byId = new Map<string, Known>();
  const { id, itemNo, [ROW_HASH]: hash } = earlier.columns;
  let highest = 0;
  if (id?.kind === "text" && itemNo?.kind === "number" && hash?.kind === "number") {
    for (let row = 0; row < earlier.length; row++) {
      const no = itemNo.values[row] as number;
      highest = Math.max(highest, no);
      byId.set(id.values[id.codes[row] as number] as string, {
        itemNo: no,
        hash: hash.values[row] as number,
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
function changeTeller(earlier: Columns): (row: number, item: ReadItem) => number {
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
        if (column.values[column.codes[row] as number] !== item[key]) changed.push(key);
      } else {
        const before = column.values[row] as number;
        const now = item[key] as number | null;
        if (Number.isNaN(before) ? now !== null : before !== now) changed.push(key);
      }
    }
    let bits = changed.length === 0 ? OTHER_COLUMNS : fieldBits(changed);
    if (availability?.kind === "text" && changed.includes("availability")) {
      const was = isBuyable(availability.values[availability.codes[row] as number] as string);
      const is = isBuyable(item.availability);
      if (was && !is) bits |= SOLD_OUT;
      if (!was && is) bits |= BACK_IN_STOCK;
    }
    return bits;
  };
}

export interface WrittenRows {
  counts: RefreshCounts;
  columns: CatalogueColumnsBuilder;
  /** Numbers of the items whose version in force ends with this revision. */
  closing: number[];
  /** Items in force before. */
  live: number;
}

/**
 * Reads a feed's rows and writes the versions of items that are new or changed, the rows set aside, and what changed.
 * Nothing of it shows before the revision is in force.
 * @param earlier the feed's columns in force
 * @param makeSink where the texts of a large catalogue go
 * @param isSame whether headings and mapping are those of `earlier`, so that unchanged rows can be carried over
 */
export async function writeRows(
  context: JobContext,
  rev: number,
  feed: OpenFeed,
  mapping: Mapping,
  { earlier, isSame }: { earlier: Columns; isSame: boolean },
  makeSink: (name: string) => TextSink,
): Promise<WrittenRows> {
  const { db, info } = context;
  const known = await knownItems(db, earlier);
  const taken = new Set<string>();
  const read = rowReader(feed.headings, mapping, info.currency, taken);
  const idSource = mapping.columns.id;
  const idAt = typeof idSource === "string" ? feed.headings.indexOf(idSource) : -1;
  const columns = new CatalogueColumnsBuilder(feed.headings, mapping, makeSink);
  const copy = isSame && idAt >= 0 ? columns.copyFrom(earlier) : null;
  const hashOf = rowHasher(feed.headings);
  const tell = changeTeller(earlier);
  const counts: RefreshCounts = { rows: 0, stored: 0, new: 0, changed: 0, unchanged: 0, gone: 0, setAside: 0 };
  Object.assign(counts, { returned: 0, soldOut: 0, backInStock: 0, fields: {} });
  const closing: number[] = [];
  const isFirst = known.live === 0;
  let nextNo = known.highest + 1;
  let collectedAt = 0;
  let versions: unknown[][] = [];
  let aside: unknown[][] = [];
  let changes: unknown[][] = [];
  const note = (itemNo: number, kind: (typeof refreshChanges.$inferSelect)["kind"], bits: number) => {
    if (!isFirst) changes.push([rev, itemNo, kind, bits]);
    if (bits === 0) return;
    if (bits & SOLD_OUT) counts.soldOut!++;
    if (bits & BACK_IN_STOCK) counts.backInStock!++;
    for (const key of fieldsInBits(bits))
      counts.fields![FIELD[key].label] = (counts.fields![FIELD[key].label] ?? 0) + 1;
  };
  const flush = async () => {
    const names = ["itemNo", "fromRev", "itemId", "title", "price", "warnings", "cells"] as const;
    if (versions.length > 0) await bulkInsert(db.$client, items, [...names], versions, ["cells"]);
    if (aside.length > 0) {
      await bulkInsert(db.$client, setAside, ["revision", "row", "faults", "cells"], aside, ["cells"]);
    }
    if (changes.length > 0) {
      await bulkInsert(db.$client, refreshChanges, ["revision", "itemNo", "kind", "fields"], changes);
    }
    versions = [];
    aside = [];
    changes = [];
  };
  const putAside = (faults: number, cells: string[]) => {
    counts.setAside++;
    const kept = cells.map((cell) => (cell.length > 2000 ? `${cell.slice(0, 2000)}…` : cell));
    // Row 1 of the file is the header.
    if (counts.setAside <= MOST_SET_ASIDE) aside.push([rev, counts.rows + 1, faults, kept]);
  };
  for await (const batch of feed.batches()) {
    for (const cells of batch.rows) {
      counts.rows++;
      if (cells instanceof BrokenRow) {
        putAside(faultBits(["row-unreadable"]), [cells.text]);
        continue;
      }
      const hash = hashOf(cells);
      const held = copy ? known.byId.get((cells[idAt] ?? "").trim()) : undefined;
      if (copy && held && held.hash === hash && !held.seen) {
        held.seen = true;
        taken.add((cells[idAt] as string).trim());
        copy(held.row);
        counts.stored++;
        counts.unchanged++;
        continue;
      }
      const result = read(cells);
      if (!result.ok) {
        putAside(faultBits(result.faults), cells);
        continue;
      }
      counts.stored++;
      const { item } = result;
      const before = known.byId.get(item.id);
      if (before) before.seen = true;
      const itemNo = before?.itemNo ?? nextNo++;
      columns.push(itemNo, hash, item, cells);
      // The same cells can mean something else under another mapping.
      const bits = before?.hash != null && (before.hash !== hash || !isSame) ? tell(before.row, item) : 0;
      if (before && before.hash === hash && (bits === 0 || bits === OTHER_COLUMNS)) {
        counts.unchanged++;
        continue;
      }
      if (before?.hash != null) {
        counts.changed++;
        closing.push(itemNo);
        note(itemNo, "changed", bits);
      } else {
        counts.new++;
        if (before) counts.returned!++;
        note(itemNo, before ? "returned" : "new", 0);
      }
      versions.push([itemNo, rev, item.id, item.title, item.price, item.warnings, cells]);
      if (versions.length >= BULK_ROWS) await flush();
    }
    if (aside.length >= BULK_ROWS) await flush();
    if (counts.rows - collectedAt >= SINK_FROM_ROWS) {
      collectedAt = counts.rows;
      await collectGarbageFully();
    }
    await context.progress(counts.rows, batch.share > 0.01 ? Math.round(counts.rows / batch.share) : null, "rows");
  }
  for (const entry of known.byId.values()) {
    if (entry.seen || entry.hash === null) continue;
    counts.gone++;
    closing.push(entry.itemNo);
    note(entry.itemNo, "gone", 0);
  }
  await flush();
  return { counts, columns, closing, live: known.live };
}
