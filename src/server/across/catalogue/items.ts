import { z } from "zod";
import { FAULT, faultsIn } from "@/core/catalogue/faults";
import { findRows, findRowsSchema, SEARCHED_FIELDS } from "@/core/catalogue/find-rows";
import { FINDING, findingsIn } from "@/core/catalogue/findings/finding";
import { fieldsIn } from "@/core/catalogue/where";
import { cellText, type Column } from "@/core/kit/columns";
import type { Window } from "@/core/kit/days";
import type { Sums } from "@/core/kit/metrics";
import { sumsOfRow } from "@/core/results/window-sums";
import type { Heat } from "@/core/evidence/heat";
import type { Database } from "@/db/client";
import { loadWindow } from "../../results/load";
import { loadHeat } from "../../evidence/items";
import { viewShelfSet } from "../../shelves/view";
import type { WorkspaceInfo } from "../../workspaces";
import { loadCatalogue } from "../../catalogue/load";
import { loadTable } from "./table";

export const itemsQuerySchema = findRowsSchema.extend({
  limit: z.coerce.number().int().min(1).max(1000).default(100),
  /** Where the page begins, as the last answer's `nextCursor` gave it. */
  cursor: z.coerce.number().int().min(0).default(0),
  /** Only the items on one shelf: `set/shelf`. */
  shelf: z.string().max(100).default(""),
  /** More columns to give with each item, by name. */
  columns: z.array(z.string().max(200)).max(60).default([]),
});

export type ItemsQuery = z.infer<typeof itemsQuerySchema>;

export interface ItemLine {
  id: string;
  title: string;
  brand: string;
  category: string;
  image: string;
  family: string;
  availability: string;
  /** Mills. */
  price: number;
  heat: Heat;
  warnings: string[];
  sums: Sums;
  /** The columns asked for: texts, or numbers (money in mills, null for none). */
  values: Record<string, string | number | null>;
}

const LINE_COLUMNS = [
  ...["id", "title", "brand", "category", "image", "family", "availability", "price", "warnings", "findings"],
];

export function textAt(column: Column | undefined, row: number): string {
  return column ? cellText(column, row) : "";
}

/** What is wrong with an item, in words. */
export function faultWords(columns: Record<string, Column>, row: number): string[] {
  const number = (name: string) => (columns[name]?.kind === "number" ? columns[name].values[row]! : 0);
  return [
    ...faultsIn(number("warnings")).map((code) => FAULT[code].label),
    ...findingsIn(number("findings"))
      .filter((code) => FINDING[code].severity !== "note")
      .map((code) => FINDING[code].label),
  ];
}

/** The rows a query finds, in its order. Conditions may name anything that `loadTable` knows. */
async function foundRows(db: Database, info: WorkspaceInfo, query: ItemsQuery, window: Window) {
  const asked = [query.sort.replace(/^-/, ""), ...fieldsIn(query.where), ...query.columns].filter(
    (name) => name !== "",
  );
  const results = await loadWindow(db, window);
  const catalogue = await loadTable(db, info.goal, results, [...SEARCHED_FIELDS, ...LINE_COLUMNS, ...asked]);
  let rows = findRows(catalogue, query);
  if (query.shelf !== "") {
    const [setKey = "", shelfKey = ""] = query.shelf.split("/");
    const view = await viewShelfSet(db, setKey);
    if (!view.ok) return { rows: new Uint32Array(0), catalogue, results };
    const index = view.value.shelves.findIndex((shelf) => shelf.key === shelfKey);
    rows = rows.filter((row) => view.value.shelfOf[row] === index);
  }
  return { rows, catalogue, results };
}

/** A page of the item table. */
export async function findItems(
  db: Database,
  info: WorkspaceInfo,
  query: ItemsQuery,
  window: Window,
): Promise<{ items: ItemLine[]; total: number; nextCursor: number | null }> {
  const { rows, catalogue, results } = await foundRows(db, info, query, window);
  const heat = await loadHeat(db, results, info.goal);
  const { columns } = catalogue;
  const end = Math.min(rows.length, query.cursor + query.limit);
  const items = Array.from(rows.subarray(query.cursor, end), (row): ItemLine => ({
    id: textAt(columns["id"], row),
    title: textAt(columns["title"], row),
    brand: textAt(columns["brand"], row),
    category: textAt(columns["category"], row),
    image: textAt(columns["image"], row),
    family: textAt(columns["family"], row),
    availability: textAt(columns["availability"], row),
    price: columns["price"]?.kind === "number" ? columns["price"].values[row]! : 0,
    heat: heat[row]!,
    warnings: faultWords(columns, row),
    sums: sumsOfRow(results.rows, row),
    values: Object.fromEntries(query.columns.map((name) => [name, valueAt(columns[name], row)])),
  }));
  return { items, total: rows.length, nextCursor: end < rows.length ? end : null };
}

function valueAt(column: Column | undefined, row: number): string | number | null {
  if (!column) return null;
  if (column.kind === "text") return cellText(column, row);
  const value = column.values[row]!;
  return Number.isFinite(value) ? value : null;
}

/** The IDs that a query finds, for acting on a selection that spans pages. */
export async function findItemIds(
  db: Database,
  info: WorkspaceInfo,
  query: ItemsQuery,
  window: Window,
): Promise<string[]> {
  const { rows, catalogue } = await foundRows(db, info, query, window);
  return Array.from(rows, (row) => textAt(catalogue.columns["id"], row));
}

export const itemIdsSchema = z.object({ ids: z.array(z.string().max(500)).max(500_000) });

/** Which of some IDs the catalogue has, for a pasted list. */
export async function matchIds(db: Database, ids: string[]): Promise<{ known: string[]; unknown: string[] }> {
  const { columns, length } = await loadCatalogue(db, ["id"]);
  const all = new Set<string>();
  for (let row = 0; row < length; row++) all.add(textAt(columns["id"], row));
  const wanted = [...new Set(ids.map((id) => id.trim()).filter((id) => id !== ""))];
  return { known: wanted.filter((id) => all.has(id)), unknown: wanted.filter((id) => !all.has(id)) };
}

/** The given items with all members of their families. */
export async function withFamilies(db: Database, ids: string[]): Promise<string[]> {
  const { columns, length } = await loadCatalogue(db, ["id", "family"]);
  const wanted = new Set(ids);
  const families = new Set<string>();
  for (let row = 0; row < length; row++) {
    if (wanted.has(textAt(columns["id"], row))) families.add(textAt(columns["family"], row));
  }
  families.delete("");
  for (let row = 0; row < length; row++) {
    if (families.has(textAt(columns["family"], row))) wanted.add(textAt(columns["id"], row));
  }
  return [...wanted];
}
