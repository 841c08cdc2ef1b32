import { z } from "zod";
import { cellText, type Column, type Columns, type TextColumn } from "../kit/columns";

export const CONDITION_OPS = ["is", "is-not", "contains", "at-least", "at-most", "empty", "filled"] as const;

/** One condition on a field or metric. Money and counts compare as numbers (money in mills). */
export const conditionSchema = z.object({
  field: z.string().min(1),
  op: z.enum(CONDITION_OPS),
  value: z.string().default(""),
});

export type Condition = z.infer<typeof conditionSchema>;

export const findRowsSchema = z.object({
  q: z.string().max(200).default(""),
  /** All of them must hold. */
  conditions: z.array(conditionSchema).max(20).default([]),
  /** A field or metric; a leading minus sorts from high to low. Empty keeps the feed's order. */
  sort: z.string().max(120).default(""),
});

export type FindRows = z.infer<typeof findRowsSchema>;

const lowerCase = new WeakMap<TextColumn, string[]>();
const ranks = new WeakMap<TextColumn, Uint32Array>();

function lowered(column: TextColumn): string[] {
  let found = lowerCase.get(column);
  if (!found) lowerCase.set(column, (found = column.values.map((value) => value.toLowerCase())));
  return found;
}

/** The place of each code in the alphabetical order of the values, worked out once a column. */
function rankOf(column: TextColumn): Uint32Array {
  let found = ranks.get(column);
  if (!found) {
    const collator = new Intl.Collator("en", { numeric: true });
    const order = [...column.values.keys()].sort((a, b) =>
      collator.compare(column.values[a] as string, column.values[b] as string),
    );
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
export function findRows(table: Columns, { q, conditions, sort }: FindRows): Uint32Array {
  const keep = new Uint8Array(table.length).fill(1);
  for (const word of q.toLowerCase().split(/\s+/).filter(Boolean)) searchWord(table, word, keep);
  for (const condition of conditions) applyCondition(table.columns[condition.field], condition, keep);
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
    keep[row] = hits.some(({ codes, hit }) => hit[codes[row] as number] === 1) ? 1 : 0;
  }
}

function applyCondition(column: Column | undefined, { op, value }: Condition, keep: Uint8Array): void {
  if (!column) {
    keep.fill(0);
    return;
  }
  const matches = column.kind === "text" ? textTest(column, op, value) : numberTest(column.values, op, Number(value));
  for (let row = 0; row < keep.length; row++) if (keep[row] && !matches(row)) keep[row] = 0;
}

function textTest(column: TextColumn, op: Condition["op"], value: string): (row: number) => boolean {
  const wanted = value.toLowerCase();
  const number = Number(value);
  const test: Record<Condition["op"], (text: string) => boolean> = {
    is: (text) => text === wanted,
    "is-not": (text) => text !== wanted,
    contains: (text) => text.includes(wanted),
    "at-least": (text) => text !== "" && Number(text) >= number,
    "at-most": (text) => text !== "" && Number(text) <= number,
    empty: (text) => text === "",
    filled: (text) => text !== "",
  };
  const hit = Uint8Array.from(lowered(column), (text) => (test[op](text) ? 1 : 0));
  return (row) => hit[column.codes[row] as number] === 1;
}

function numberTest(values: Float64Array, op: Condition["op"], wanted: number): (row: number) => boolean {
  const test: Record<Condition["op"], (value: number) => boolean> = {
    is: (value) => value === wanted,
    "is-not": (value) => value !== wanted,
    contains: (value) => String(value).includes(String(wanted)),
    "at-least": (value) => value >= wanted,
    "at-most": (value) => value <= wanted,
    empty: (value) => Number.isNaN(value),
    filled: (value) => !Number.isNaN(value),
  };
  return (row) => test[op](values[row] as number);
}

/** Sorts in place; rows without a value come last either way, ties keep the feed's order. */
function sortRows(column: Column | undefined, isDescending: boolean, rows: Uint32Array): void {
  if (!column) return;
  const sign = isDescending ? -1 : 1;
  if (column.kind === "text") {
    const rank = rankOf(column);
    const { codes } = column;
    rows.sort((a, b) => {
      const codeA = codes[a] as number;
      const codeB = codes[b] as number;
      if (codeA === codeB) return a - b;
      if (codeA === 0 || codeB === 0) return codeA === 0 ? 1 : -1;
      return sign * ((rank[codeA] as number) - (rank[codeB] as number)) || a - b;
    });
    return;
  }
  const { values } = column;
  rows.sort((a, b) => {
    const valueA = values[a] as number;
    const valueB = values[b] as number;
    if (Number.isNaN(valueA) || Number.isNaN(valueB))
      return Number(Number.isNaN(valueA)) - Number(Number.isNaN(valueB)) || a - b;
    return sign * (valueA - valueB) || a - b;
  });
}

/** Values of a field in given rows with their counts, most common first. */
export function countValues(column: Column, rows: Uint32Array, most: number): { value: string; count: number }[] {
  const counts = new Map<string, number>();
  for (const row of rows) {
    const value = cellText(column, row);
    counts.set(value, (counts.get(value) ?? 0) + 1);
  }
  return [...counts]
    .map(([value, count]) => ({ value, count }))
    .sort((a, b) => b.count - a.count || (a.value < b.value ? -1 : 1))
    .slice(0, most);
}
