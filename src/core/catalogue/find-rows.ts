import { z } from "zod";
import { type Column, type Columns, type TextColumn } from "../kit/columns";
import { lowered, matchRows, whereSchema, type Where } from "./where";

export const findRowsSchema = z.object({
  q: z.string().max(200).default(""),
  /** Conditions on any fields and metrics, in groups of all or any. */
  where: whereSchema.default({ match: "all", of: [] } satisfies Where),
  /** A field or metric; a leading minus sorts from high to low. Empty keeps the feed's order. */
  sort: z.string().max(120).default(""),
});

export type FindRows = z.infer<typeof findRowsSchema>;

const ranks = new WeakMap<TextColumn, Uint32Array>();

/** The place of each code in the alphabetical order of the values, worked out once a column. */
function rankOf(column: TextColumn): Uint32Array {
  let found = ranks.get(column);
  if (!found) {
    const collator = new Intl.Collator("en", { numeric: true });
    const order = [...column.values.keys()].sort((a, b) => collator.compare(column.values[a]!, column.values[b]!));
    found = new Uint32Array(order.length);
    order.forEach((code, rank) => (found![code] = rank));
    ranks.set(column, found);
  }
  return found;
}

/** The fields that a search looks into. */
export const SEARCHED_FIELDS = ["title", "id", "brand"] as const;

/**
 * The rows that match, in the asked order. Every word of `q` must be found in title, ID or brand.
 * @param columns fields and metrics by name; a condition on an unknown one matches nothing
 */
export function findRows(table: Columns, { q, where, sort }: FindRows): Uint32Array {
  const keep = matchRows(table, where);
  for (const word of q.toLowerCase().split(/\s+/).filter(Boolean)) searchWord(table, word, keep);
  let count = 0;
  for (const kept of keep) count += kept;
  const rows = new Uint32Array(count);
  for (let row = 0, at = 0; row < table.length; row++) if (keep[row]) rows[at++] = row;
  if (sort !== "") sortRows(table.columns[sort.replace(/^-/, "")], sort.startsWith("-"), rows);
  return rows;
}

function searchWord(table: Columns, word: string, keep: Uint8Array): void {
  const hits: { codes: Uint32Array; hit: Uint8Array }[] = [];
  for (const field of SEARCHED_FIELDS) {
    const column = table.columns[field];
    if (column?.kind !== "text") continue;
    const hit = new Uint8Array(column.values.length);
    lowered(column).forEach((value, code) => (hit[code] = value.includes(word) ? 1 : 0));
    hits.push({ codes: column.codes, hit });
  }
  for (let row = 0; row < keep.length; row++) {
    if (!keep[row]) continue;
    keep[row] = hits.some(({ codes, hit }) => hit[codes[row]!] === 1) ? 1 : 0;
  }
}

/** Sorts in place; rows without a value come last either way, ties keep the feed's order. */
function sortRows(column: Column | undefined, isDescending: boolean, rows: Uint32Array): void {
  if (!column) return;
  const sign = isDescending ? -1 : 1;
  if (column.kind === "text") {
    const rank = rankOf(column);
    const { codes } = column;
    rows.sort((a, b) => {
      const codeA = codes[a]!;
      const codeB = codes[b]!;
      if (codeA === codeB) return a - b;
      if (codeA === 0 || codeB === 0) return codeA === 0 ? 1 : -1;
      return sign * (rank[codeA]! - rank[codeB]!) || a - b;
    });
    return;
  }
  const { values } = column;
  rows.sort((a, b) => {
    const valueA = values[a]!;
    const valueB = values[b]!;
    if (Number.isNaN(valueA) || Number.isNaN(valueB))
      return Number(Number.isNaN(valueA)) - Number(Number.isNaN(valueB)) || a - b;
    return sign * (valueA - valueB) || a - b;
  });
}
