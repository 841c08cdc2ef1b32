import { sql } from "drizzle-orm";
import { z } from "zod";
import { HEADINGS } from "@/core/catalogue/field-headings";
import { foldHeading } from "@/core/catalogue/fields";
import { foldId } from "@/core/catalogue/findings/find";
import { cellText } from "@/core/kit/columns";
import { plural } from "@/core/kit/format";
import { PriceJudge } from "@/core/catalogue/price-judge";
import { isOf, parseMoney, type DecimalMark } from "@/core/kit/money";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { itemCosts } from "@/db/schema";
import { noteChange, type WorkspaceInfo } from "../workspaces";
import { startFinish } from "./finish";
import { loadCatalogue } from "./load";
import { BrokenRow, type FeedRows } from "./reading/feed-rows";
import { lookBeforeReading } from "./reading/look";
import { NO_CHOICE, openFeed } from "./reading/open-feed";

/** One line of costs as a person gives it. Mills; null leaves a value as it is not known. */
export interface CostLine {
  id: string;
  cost: number | null;
  fee: number | null;
}

export interface CostsRead {
  rows: number;
  matched: number;
  /** IDs the catalogue does not have, the first of them. */
  unmatched: string[];
  unmatchedCount: number;
  /** Rows whose amounts could not be read, with the text. */
  unreadable: { row: number; text: string }[];
  unreadableCount: number;
  job: string | null;
}

const SHOWN = 50;

/** The catalogue's IDs, also by how a careless spreadsheet writes them; folded ones that stand for several are left out. */
async function idIndex(db: Database): Promise<(id: string) => string | null> {
  const { columns, length } = await loadCatalogue(db, ["id"]);
  const exact = new Set<string>();
  const folded = new Map<string, string | null>();
  for (let row = 0; row < length; row++) {
    const id = cellText(columns["id"]!, row);
    exact.add(id);
    const key = foldId(id);
    folded.set(key, folded.has(key) ? null : id);
  }
  return (id) => (exact.has(id) ? id : (folded.get(foldId(id)) ?? null));
}

/** Reads a file of costs: an ID, a cost and perhaps a fee in each row. Rows are matched to items however IDs are spelled. */
export async function readCosts(db: Database, info: WorkspaceInfo, file: string): Promise<Outcome<CostsRead>> {
  await lookBeforeReading(file, NO_CHOICE);
  const feed = await openFeed(file);
  const folded = feed.headings.map(foldHeading);
  const find = (known: readonly string[]) => known.map((one) => folded.indexOf(one)).find((at) => at >= 0) ?? -1;
  const [idAt, costAt, feeAt] = [find(HEADINGS.id), find(HEADINGS.cost), find(HEADINGS.fee)];
  if (idAt < 0 || (costAt < 0 && feeAt < 0)) {
    return fail(
      "costs-columns",
      `The file needs a column with the item ID and one with the cost or fee. It has: ${feed.headings.join(", ")}.`,
      "Name them id, cost and fee.",
    );
  }
  const lines: CostLine[] = [];
  const unreadable: CostsRead["unreadable"] = [];
  const mark = await markOf(feed, [costAt, feeAt]);
  let rows = 0;
  for await (const batch of feed.batches()) {
    for (const [at, cells] of batch.rows.entries()) {
      rows++;
      const row = batch.numbers[at]!;
      if (cells instanceof BrokenRow) {
        unreadable.push({ row, text: cells.text.slice(0, 100) });
        continue;
      }
      const amount = (at: number) => {
        const text = at < 0 ? "" : (cells[at] ?? "").trim();
        if (text === "") return null;
        const parsed = parseMoney(text, mark);
        if (parsed.ok && isOf(parsed, info.currency)) return parsed.mills as number;
        unreadable.push({ row, text });
        return null;
      };
      const line = { id: (cells[idAt] ?? "").trim(), cost: amount(costAt), fee: amount(feeAt) };
      if (line.id !== "" && (line.cost !== null || line.fee !== null)) lines.push(line);
    }
  }
  return ok({
    rows,
    ...(await keepCosts(db, lines, "replace")),
    unreadable: unreadable.slice(0, SHOWN),
    unreadableCount: unreadable.length,
  });
}

/** The decimal mark that all amounts of some columns together tell. */
async function markOf(feed: FeedRows, columns: number[]): Promise<DecimalMark> {
  const judge = new PriceJudge();
  for await (const { rows } of feed.batches()) {
    for (const cells of rows) {
      if (!(cells instanceof BrokenRow)) for (const at of columns) if (at >= 0) judge.see(cells[at] ?? "");
    }
  }
  return judge.mark();
}

export const costLinesSchema = z.object({
  lines: z
    .array(z.object({ id: z.string().max(500), cost: z.number().int().nullable(), fee: z.number().int().nullable() }))
    .max(100_000),
});

/**
 * Keeps costs. `replace` forgets those of an earlier file; `add` changes only the items named.
 */
export async function keepCosts(db: Database, lines: CostLine[], how: "replace" | "add") {
  const idOf = await idIndex(db);
  const known = new Map<string, CostLine>();
  const unmatched = new Set<string>();
  for (const line of lines) {
    const id = idOf(line.id);
    if (id === null) unmatched.add(line.id);
    else known.set(id, { ...line, id });
  }
  const values = JSON.stringify([...known.values()].map(({ id, cost, fee }) => [id, cost, fee]));
  await db.transaction(async (tx) => {
    if (how === "replace") await tx.delete(itemCosts);
    await tx.run(
      sql`INSERT OR REPLACE INTO ${itemCosts} (item_id, cost, fee) SELECT value ->> 0, value ->> 1, value ->> 2 FROM json_each(${values})`,
    );
  });
  await noteChange(db, `Costs of ${plural(known.size, "item")} read in`, "", "catalogue");
  return {
    matched: known.size,
    unmatched: [...unmatched].slice(0, SHOWN),
    unmatchedCount: unmatched.size,
    job: await startFinish(db),
  };
}

/** Forgets the costs file; the feed's own costs count again. */
export async function forgetCosts(db: Database): Promise<string | null> {
  await db.delete(itemCosts);
  await noteChange(db, "Costs file forgotten", "", "catalogue");
  return startFinish(db);
}

export async function countCosts(db: Database): Promise<number> {
  const [row] = await db.select({ count: sql<number>`count(*)` }).from(itemCosts);
  return row?.count ?? 0;
}
