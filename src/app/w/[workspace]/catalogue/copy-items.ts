import { toast } from "sonner";
import { toTsv } from "@/core/dispatch/cells";
import { plural } from "@/core/kit/format";
import type { ItemLine } from "@/server/across/catalogue/items";
import { apiGet } from "../../../_lib/api";
import { askedColumns, lineCells } from "./item-columns";
import type { ItemPage } from "./use-item-pages";
import type { FieldChoice } from "./where-builder";

/** Most rows that are copied with their columns; more are exported as a file. */
const MOST_COPIED = 5000;
/** Rows asked for at a time. */
const PAGE = 1000;

export interface CopiedItems {
  apiPath: (path: string) => string;
  items: string[];
  /** Columns shown. */
  chosen: string[];
  fields: FieldChoice[];
  days: number;
  sort: string;
}

/** Copies items with the columns shown, ready for a spreadsheet; very many as their IDs alone. */
export async function copyItems({ apiPath, items, chosen, fields, days, sort }: CopiedItems): Promise<void> {
  if (items.length > MOST_COPIED) {
    await navigator.clipboard.writeText(items.join("\n"));
    toast.success(`${plural(items.length, "ID")} copied, one a line. For all columns, export the view.`);
    return;
  }
  const of = JSON.stringify({ match: "all", of: [{ field: "id", op: "one-of", value: items.join("\n") }] });
  const ask = new URLSearchParams({ days: String(days), sort, filter: of });
  ask.set("columns", askedColumns(chosen).join(","));
  const lines: ItemLine[] = [];
  for (let at = 0; at < items.length; at += PAGE) {
    lines.push(...(await apiGet<ItemPage>(apiPath(`items?${ask}&limit=${PAGE}&cursor=${at}`))).items);
  }
  const names = chosen.includes("id") ? chosen : ["id", ...chosen];
  const heads = names.map((name) => (name === "id" ? "id" : (fields.find((one) => one.name === name)?.label ?? name)));
  const rows = lines.map((line) => [line.title, ...lineCells(line, names, fields)]);
  await navigator.clipboard.writeText(toTsv(["title", ...heads], rows));
  toast.success(`${plural(lines.length, "row")} copied, ready for a spreadsheet`);
}
