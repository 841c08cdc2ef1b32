import { getTableColumns, getTableName, type Table } from "drizzle-orm";
import type { Database } from "@/db/client";

/** Rows a statement: at 1,000 the write lock is held for some 20 ms, so other writers barely wait. */
export const BULK_ROWS = 1000;

/**
 * Inserts many rows by one bound JSON parameter, which measured as fast as the widest VALUES list here and needs no
 * statement of its own for each row count.
 * @param columns the table's property names, in the order of the cells
 */
export async function bulkInsert<T extends Table>(
  db: Pick<Database, "$client">["$client"] | { execute: Database["$client"]["execute"] },
  table: T,
  columns: (keyof T["_"]["columns"] & string)[],
  rows: unknown[][],
  /** Columns whose cells are lists or records, stored as their JSON text. */
  asJson: (keyof T["_"]["columns"] & string)[] = [],
): Promise<void> {
  const all = getTableColumns(table);
  const names = columns.map((name) => `"${all[name]!.name}"`).join(", ");
  const values = columns.map((_, i) => `value ->> ${i}`).join(", ");
  // Written out here: passed through as a text, a list need not be taken apart and put together again by the database.
  const asText = columns.map((name) => asJson.includes(name));
  const sql = `INSERT INTO "${getTableName(table)}" (${names}) SELECT ${values} FROM json_each(?)`;
  for (let from = 0; from < rows.length; from += BULK_ROWS) {
    const part = rows.slice(from, from + BULK_ROWS);
    const shown =
      asJson.length === 0 ? part : part.map((row) => row.map((cell, i) => (asText[i] ? JSON.stringify(cell) : cell)));
    await db.execute({ sql, args: [JSON.stringify(shown)] });
  }
}

/** Rows a statement when reading: some 20 ms of work, so that other requests get their turn. */
const PAGE = 5000;

/**
 * Reads many rows as lists of cells, a page at a time, in the order in which they were stored. JSON of many at once is read
 * twenty times as fast as row objects. Cells are as the database holds them.
 * @param columns the table's property names, in the order of the cells
 * @param where SQL that narrows the rows, without parameters
 */
export async function* bulkSelect<T extends Table>(
  db: Pick<Database["$client"], "execute">,
  table: T,
  columns: (keyof T["_"]["columns"] & string)[],
  where = "true",
): AsyncIterable<unknown[][]> {
  const all = getTableColumns(table);
  const cells = columns.map((name) => `"${all[name]!.name}"`).join(", ");
  for (let after = 0; ;) {
    const { rows } = await db.execute({
      sql: `SELECT max(id), count(*), '[' || group_concat(cells, ',') || ']' FROM
            (SELECT rowid AS id, json_array(${cells}) AS cells FROM "${getTableName(table)}"
             WHERE rowid > ? AND (${where}) ORDER BY rowid LIMIT ${PAGE})`,
      args: [after],
    });
    const count = Number(rows[0]![1]);
    if (count === 0) return;
    yield JSON.parse(String(rows[0]![2])) as unknown[][];
    if (count < PAGE) return;
    after = Number(rows[0]![0]);
    await new Promise((resolve) => setImmediate(resolve));
  }
}
