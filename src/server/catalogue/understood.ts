import { z } from "zod";
import { FAULT, type FaultCode } from "@/core/catalogue/faults";
import { paidPrice, workMargins } from "@/core/catalogue/margins";
import { mappingGaps, mappingSchema, type Mapping } from "@/core/catalogue/mapping";
import { PriceJudge, type UnreadForm } from "@/core/catalogue/price-judge";
import { rowReader, type ReadItem } from "@/core/catalogue/read-row";
import { cellText, numberColumn, textColumn } from "@/core/kit/columns";
import { plural } from "@/core/kit/format";
import type { Database } from "@/db/client";
import type { WorkspaceInfo } from "../workspaces";
import { loadFeedColumns } from "./load";
import { BrokenRow, type FeedRows } from "./reading/feed-rows";
import { openFeed, readingSchema } from "./reading/open-feed";
import { knownUpload } from "./uploads";

export const understoodSchema = z.object({ mapping: mappingSchema, reading: readingSchema.nullable().default(null) });

/** An item as it would come in. Money in mills. */
export interface UnderstoodItem {
  id: string;
  title: string;
  price: number;
  salePrice: number | null;
  cost: number | null;
  /** Share of the price left, null without a cost. */
  margin: number | null;
  availability: string;
  family: string;
  category: string;
}

/** What a reading with a mapping would bring, from the rows looked at. */
export interface Understood {
  /** Rows looked at, and whether they are all of the file. */
  rows: number;
  isWhole: boolean;
  usable: number;
  items: UnderstoodItem[];
  /** Rows that would be set aside, by reason, the commonest first. */
  aside: { reason: string; rows: number }[];
  /** Ways of writing amounts that can't be read. */
  unread: UnreadForm[];
  /** Words for availability that nobody has explained, with how many items have each, the commonest first. */
  words: { word: string; items: number }[];
  /** What looks wrong about the whole of it, in sentences. */
  warnings: string[];
}

/** Words for availability that are asked about. */
const MOST_WORDS = 50;
/** Items shown. */
const SHOWN = 10;
/** Time that is given to looking through a file, ms. */
const MOST_TIME = 6000;
/** Shares from which a warning is given. */
const COST_ABOVE = 0.1;
const PRICES_CHANGED = 0.5;
/** A price counts as changed from here on: less is a sale. */
const BY_MUCH = 0.4;

/** Keeps a few of many items, spread evenly over them, without knowing how many there will be. */
class Spread<T> {
  readonly kept: T[] = [];
  private every = 1;
  private seen = 0;

  constructor(private readonly most: number) {}

  add(item: T): void {
    if (this.seen++ % this.every !== 0) return;
    this.kept.push(item);
    if (this.kept.length < 2 * this.most) return;
    for (let i = this.kept.length - 1; i > 0; i -= 2) this.kept.splice(i, 1);
    this.every *= 2;
  }

  take(): T[] {
    const step = this.kept.length / this.most;
    return step <= 1 ? this.kept : Array.from({ length: this.most }, (_, i) => this.kept[Math.floor(i * step)]!);
  }
}

/** Reads an upload as a mapping would have it and says what would come of it; nothing is stored. */
export async function understoodAs(
  db: Database,
  info: WorkspaceInfo,
  upload: string,
  { mapping, reading }: z.output<typeof understoodSchema>,
): Promise<Understood> {
  const feed = await openFeed(knownUpload(info.slug, upload), reading ?? readingSchema.parse({}));
  const missing = mappingGaps(mapping, feed.headings).missing;
  if (missing.length > 0) {
    return { ...{ rows: 0, isWhole: false, usable: 0, items: [], aside: [], unread: [], words: [] }, warnings: [] };
  }
  const first = await lookThrough(db, info, feed, mapping);
  if (!first.judge.isMisread() || mapping.decimal !== "auto") return first.understood;
  return (await lookThrough(db, info, feed, { ...mapping, decimal: first.judge.mark() })).understood;
}

async function lookThrough(
  db: Database,
  info: WorkspaceInfo,
  feed: FeedRows,
  mapping: Mapping,
): Promise<{ understood: Understood; judge: PriceJudge }> {
  const judge = new PriceJudge();
  const words = new Map<string, number>();
  const read = rowReader(feed.headings, mapping, info.currency, new Set(), judge, (word) => {
    if (words.size < MOST_WORDS || words.has(word)) words.set(word, (words.get(word) ?? 0) + 1);
  });
  const shown = new Spread<ReadItem>(SHOWN);
  const pricesBefore = await knownPrices(db);
  const aside = new Map<FaultCode, number>();
  const seen = { rows: 0, usable: 0, costed: 0, costAbove: 0, known: 0, changed: 0 };
  const until = Date.now() + MOST_TIME;
  let isWhole = true;
  for await (const { rows } of feed.batches()) {
    for (const cells of rows) {
      seen.rows++;
      const result = cells instanceof BrokenRow ? null : read(cells);
      if (!result?.ok) {
        const reason = result?.faults[0] ?? "row-unreadable";
        aside.set(reason, (aside.get(reason) ?? 0) + 1);
        continue;
      }
      const { item } = result;
      seen.usable++;
      shown.add(item);
      if (item.cost !== null) {
        seen.costed++;
        if (item.cost >= paidPrice(item.price, item.salePrice ?? NaN)) seen.costAbove++;
      }
      const before = pricesBefore.get(item.id);
      if (before === undefined) continue;
      seen.known++;
      if (Math.abs(item.price / before - 1) > BY_MUCH) seen.changed++;
    }
    if (Date.now() > until) {
      isWhole = false;
      break;
    }
  }
  const understood = {
    ...{ rows: seen.rows, usable: seen.usable, isWhole },
    items: asUnderstood(shown.take(), info),
    aside: [...aside].sort((a, b) => b[1] - a[1]).map(([code, rows]) => ({ reason: FAULT[code].label, rows })),
    unread: judge.unread(),
    words: [...words].sort((a, b) => b[1] - a[1]).map(([word, items]) => ({ word, items })),
    warnings: [...warningsOf(seen), ...(mapping.decimal === "auto" ? judge.notices() : [])],
  };
  return { understood, judge };
}

/** Prices in force by item ID, to see whether another column was taken for the price. */
async function knownPrices(db: Database): Promise<Map<string, number>> {
  const { columns, length } = await loadFeedColumns(db, ["id", "price"]);
  const { id, price } = columns;
  const known = new Map<string, number>();
  if (id?.kind !== "text" || price?.kind !== "number") return known;
  for (let row = 0; row < length; row++) known.set(cellText(id, row), price.values[row]!);
  return known;
}

function warningsOf(seen: { costed: number; costAbove: number; known: number; changed: number }): string[] {
  const warnings: string[] = [];
  if (seen.costAbove > COST_ABOVE * seen.costed) {
    warnings.push(
      `The cost of ${plural(seen.costAbove, "item")} of ${seen.costed} with one is not below the price. Are the two columns the right way round?`,
    );
  }
  if (seen.known > 0 && seen.changed > PRICES_CHANGED * seen.known) {
    warnings.push(
      `Of ${plural(seen.known, "item")} known before, ${seen.changed} would have another price by more than ${BY_MUCH * 100} %. Is it the right column?`,
    );
  }
  return warnings;
}

function asUnderstood(items: ReadItem[], info: WorkspaceInfo): UnderstoodItem[] {
  const table = {
    length: items.length,
    columns: {
      id: textColumn(items.map(({ id }) => id)),
      ...Object.fromEntries(
        (["price", "salePrice", "cost", "fee", "tax"] as const).map((name) => [
          name,
          numberColumn(items.map((item) => item[name])),
        ]),
      ),
    },
  };
  const { margin } = workMargins(table, new Map(), info.tax);
  return items.map((item, row) => {
    const { id, title, price, salePrice, cost, availability, family, category } = item;
    const share = margin.values[row]!;
    return {
      ...{ id, title, price, salePrice, cost, availability, family, category },
      margin: Number.isNaN(share) ? null : share,
    };
  });
}
