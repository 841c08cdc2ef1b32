import { CatalogueColumnsBuilder } from "@/core/catalogue/catalogue-columns";
import { faultBits } from "@/core/catalogue/faults";
import { BACK_IN_STOCK, OTHER_COLUMNS, SOLD_OUT } from "@/core/catalogue/field-changes";
import { FIELD } from "@/core/catalogue/fields";
import { fieldsInBits } from "@/core/catalogue/field-changes";
import type { Mapping } from "@/core/catalogue/mapping";
import { PriceJudge } from "@/core/catalogue/price-judge";
import { rowReader } from "@/core/catalogue/read-row";
import { SINK_FROM_ROWS, type TextSink } from "@/core/catalogue/text-sink";
import type { Columns } from "@/core/kit/columns";
import { collectGarbageFully } from "../memory";
import { rowHasher } from "@/core/catalogue/row-hash";
import type { Database } from "@/db/client";
import { items, refreshChanges, setAside, type RefreshCounts } from "@/db/schema";
import { BULK_ROWS, bulkInsert } from "../bulk";
import { changeTeller, knownItems } from "./known-items";
import type { JobContext } from "../jobs/work";
import { BrokenRow } from "./reading/feed-rows";
import { type OpenFeed } from "./reading/open-feed";

/** Rows set aside that are kept; their count is always true. */
const MOST_SET_ASIDE = 100_000;

export interface WrittenRows {
  counts: RefreshCounts;
  columns: CatalogueColumnsBuilder;
  /** Numbers of the items whose version in force ends with this revision. */
  closing: number[];
  /** Items in force before. */
  live: number;
  /** What all amounts together tell of how they are written. */
  judge: PriceJudge;
}

/** Gathers what a reading writes and stores it a thousand rows at a time. */
class RowWriter {
  private versions: unknown[][] = [];
  private aside: unknown[][] = [];
  private changes: unknown[][] = [];

  constructor(
    private readonly db: Database,
    private readonly rev: number,
    private readonly counts: RefreshCounts,
    /** A first reading, where every item is new, keeps no changes. */
    private readonly isFirst: boolean,
  ) {}

  /** A version of an item: its cells in the order of the columns. */
  putVersion(cells: unknown[]): void {
    this.versions.push(cells);
  }

  /** Notes and counts what the reading did to an item. */
  note(itemNo: number, kind: (typeof refreshChanges.$inferSelect)["kind"], bits: number): void {
    const { counts } = this;
    if (!this.isFirst) this.changes.push([this.rev, itemNo, kind, bits]);
    if (bits === 0) return;
    if (bits & SOLD_OUT) counts.soldOut!++;
    if (bits & BACK_IN_STOCK) counts.backInStock!++;
    for (const key of fieldsInBits(bits))
      counts.fields![FIELD[key].label] = (counts.fields![FIELD[key].label] ?? 0) + 1;
  }

  /** @param row where it stands in the file */
  putAside(row: number, faults: number, cells: string[]): void {
    const { counts } = this;
    counts.setAside++;
    const kept = cells.map((cell) => (cell.length > 2000 ? `${cell.slice(0, 2000)}…` : cell));
    if (counts.setAside <= MOST_SET_ASIDE) this.aside.push([this.rev, row, faults, kept]);
  }

  isFull(): boolean {
    return this.versions.length >= BULK_ROWS || this.aside.length >= BULK_ROWS;
  }

  async flush(): Promise<void> {
    const { db, versions, aside, changes } = this;
    const names = ["itemNo", "fromRev", "itemId", "title", "price", "warnings", "cells"] as const;
    if (versions.length > 0) await bulkInsert(db.$client, items, [...names], versions, ["cells"]);
    if (aside.length > 0) {
      await bulkInsert(db.$client, setAside, ["revision", "row", "faults", "cells"], aside, ["cells"]);
    }
    if (changes.length > 0) {
      await bulkInsert(db.$client, refreshChanges, ["revision", "itemNo", "kind", "fields"], changes);
    }
    this.versions = [];
    this.aside = [];
    this.changes = [];
  }
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
  const judge = new PriceJudge();
  const read = rowReader(feed.headings, mapping, info.currency, taken, judge);
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
  const out = new RowWriter(db, rev, counts, isFirst);
  for await (const batch of feed.batches()) {
    for (const [at, cells] of batch.rows.entries()) {
      counts.rows++;
      const row = batch.numbers[at]!;
      if (cells instanceof BrokenRow) {
        out.putAside(row, faultBits(["row-unreadable"]), [cells.text]);
        continue;
      }
      const hash = hashOf(cells);
      const held = copy ? known.byId.get((cells[idAt] ?? "").trim()) : undefined;
      if (copy && held && held.hash === hash && !held.seen) {
        held.seen = true;
        taken.add(cells[idAt]!.trim());
        copy(held.row);
        counts.stored++;
        counts.unchanged++;
        continue;
      }
      const result = read(cells);
      if (!result.ok) {
        out.putAside(row, faultBits(result.faults), cells);
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
        out.note(itemNo, "changed", bits);
      } else {
        counts.new++;
        if (before) counts.returned!++;
        out.note(itemNo, before ? "returned" : "new", 0);
      }
      out.putVersion([itemNo, rev, item.id, item.title, item.price, item.warnings, cells]);
      if (out.isFull()) await out.flush();
    }
    if (out.isFull()) await out.flush();
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
    out.note(entry.itemNo, "gone", 0);
  }
  await out.flush();
  if (counts.stored + counts.setAside !== counts.rows) {
    throw new Error(`Of ${counts.rows} rows ${counts.stored} were stored and ${counts.setAside} set aside.`);
  }
  return { counts, columns, closing, live: known.live, judge };
}
