import { createLoader, parseAsBoolean, parseAsJson, parseAsString, type inferParserType } from "nuqs/server";
import { conditionSchema, whereSchema, type Where } from "@/core/catalogue/where";
import type { Asks } from "../../../_lib/first-answers";
import { daysOf, PAGE_ROWS } from "../../../_lib/view-defaults";
import { askedColumns, DEFAULT_COLUMNS } from "./item-columns";

export const NO_FILTER: Where = { match: "all", of: [] };

/** A filter from the URL: a group, or a list of conditions that must all hold. */
export function parseFilter(value: unknown): Where {
  return Array.isArray(value) ? { match: "all", of: conditionSchema.array().parse(value) } : whereSchema.parse(value);
}

/** What the address of the item table holds. */
export const itemsState = {
  q: parseAsString.withDefault(""),
  filter: parseAsJson(parseFilter).withDefault(NO_FILTER),
  sort: parseAsString.withDefault("-cost"),
  shelf: parseAsString.withDefault(""),
  columns: parseAsString.withDefault(DEFAULT_COLUMNS.join(",")),
  item: parseAsString,
  upload: parseAsBoolean.withDefault(false),
};

const load = createLoader(itemsState);

export const chosenColumns = (columns: string) => columns.split(",").filter(Boolean);

/** The query that finds the items of a view. */
export function itemsQuery(state: inferParserType<typeof itemsState>, days: number): URLSearchParams {
  const query = new URLSearchParams({ q: state.q, sort: state.sort, shelf: state.shelf, days: String(days) });
  query.set("filter", JSON.stringify(state.filter));
  query.set("columns", askedColumns(chosenColumns(state.columns)).join(","));
  return query;
}

/** The path of a page of items. @param base the query that finds them */
export const itemsPath = (base: string, offset: number, limit: number) =>
  `items?${base}&limit=${limit}&cursor=${offset}`;

/** What the item table asks first. */
export const asks: Asks = (search) => {
  const query = itemsQuery(load(search), daysOf(search));
  return ["feeds", "fields", "shelf-sets", "views?screen=catalogue", itemsPath(query.toString(), 0, PAGE_ROWS)];
};
