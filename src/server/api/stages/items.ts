import { csv, xlsx } from "../../files/answers";
import { z } from "zod";
import { columnLabel } from "@/core/catalogue/catalogue-columns";
import { conditionSchema, whereSchema, type Where } from "@/core/catalogue/where";
import { METRIC_KEYS, METRICS, type MetricKey } from "@/core/kit/metrics";
import { toUnits } from "@/core/kit/money";
import { ok } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { derivedNames, listDerived } from "../../catalogue/derived";
import { stampSchema } from "../../account/edits";
import { soloStart, soloStartSchema } from "../../across/catalogue/solo-start";
import { editManySchema, startEditMany, startUndoMany } from "../../across/catalogue/edit-many";
import { findItem } from "../../across/catalogue/item-detail";
import {
  findItemIds,
  findItems,
  itemIdsSchema,
  itemsQuerySchema,
  matchIds,
  withFamilies,
  type ItemLine,
} from "../../across/catalogue/items";
import { isMoneyColumn } from "@/core/catalogue/finish";
import {
  addItemNotes,
  addNote,
  listViews,
  noteSchema,
  removeNote,
  removeView,
  savedViewSchema,
  saveView,
} from "../../catalogue/notes";
import { windowOfDays, windowSchema } from "../../results/window";
import type { WorkspaceInfo } from "../../workspaces";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";
import { days, jobAnswer } from "./shared";

/** Conditions come as JSON in the query: a list, all of which must hold, or a group of all or any. */
const filterText = z
  .string()
  .max(100_000)
  .default("[]")
  .transform((text, context): Where => {
    try {
      const parsed: unknown = JSON.parse(text);
      return Array.isArray(parsed)
        ? { match: "all", of: z.array(conditionSchema).max(50).parse(parsed) }
        : whereSchema.parse(parsed);
    } catch {
      context.addIssue({
        code: "custom",
        message: "filter must be JSON: a list of { field, op, value }, or { match: all or any, of: [...] }",
      });
      return z.NEVER;
    }
  });

const itemsQuery = itemsQuerySchema.omit({ where: true, columns: true }).extend({
  filter: filterText,
  days: windowSchema,
  /** Names of columns to give with each item, parted by commas. */
  columns: z
    .string()
    .max(4000)
    .default("")
    .transform((text) => text.split(",").filter((name) => name !== "")),
});

type ItemsParams = z.output<typeof itemsQuery>;

/** The item table's query as a body, for acting on all that it finds; a name that it does not know is refused, since without it more would be found. */
const editManyBody = editManySchema.extend({
  items: z.union([
    z.array(z.string().max(500)).min(1).max(500_000),
    z.object({ query: itemsQuery.strict() }).transform(({ query }) => ({ query: asQuery(query), days: query.days })),
  ]),
});

function asQuery({ filter, days: _days, ...query }: ItemsParams) {
  return { ...query, where: filter };
}

const DEFAULT_EXPORT = ["brand", "category", "availability", "price", "heat", ...METRIC_KEYS];

/** All items found with the asked columns, as headings and rows for a file. */
async function exportRows(db: Database, info: WorkspaceInfo, query: ItemsParams) {
  const names = query.columns.length > 0 ? query.columns.filter((name) => name !== "id") : DEFAULT_EXPORT;
  const all = { ...asQuery(query), columns: names, cursor: 0, limit: 1_000_000 };
  const { items } = await findItems(db, info, all, await windowOfDays(db, query.days));
  const labels = await derivedNames(db);
  const derived = await listDerived(db);
  const cell = (item: ItemLine, name: string): string | number | null => {
    const metric = METRICS[name as MetricKey];
    const value = metric ? metric.of(item.sums) : (item.values[name] ?? null);
    const isMoney = metric ? metric.kind === "money" : isMoneyColumn(name, derived);
    return typeof value === "number" && isMoney ? toUnits(value) : value;
  };
  const headings = [
    "id",
    "title",
    ...names.map((name) =>
      query.columns.length > 0 ? (METRICS[name as MetricKey]?.label ?? columnLabel(name, labels)) : name,
    ),
  ];
  return { headings, rows: items.map((item) => [item.id, item.title, ...names.map((name) => cell(item, name))]) };
}

/** Operations on items: the table, one item, notes, views. */
export const itemEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "account/edits/many",
      bodyMb: 32,
      heavy: true,
      summary: "Bid on, exclude or include many items, named or found by filters, as a job; goes into the basket.",
      query: z.object({ version: stampSchema }),
      body: editManyBody,
      status: 202,
    },
    async ({ db, query, body }) => jobAnswer(await startEditMany(db, { ...body, seen: query.version ?? body.seen })),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "account/edits/solo-start",
      bodyMb: 32,
      heavy: true,
      summary: "What a campaign of their own for some items would begin with: name, budget and bid by house rule.",
      body: soloStartSchema,
    },
    async ({ db, info, body }) => ok(await soloStart(db, info, body)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "account/edits/many/{edit}/take-back",
      summary: "Take an edit of many items back as a whole while it was not sent, as a job.",
      status: 202,
    },
    async ({ db, path }) => jobAnswer(await startUndoMany(db, path["edit"]!)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "items",
      summary: "Items with results over the last `days`, found, filtered (JSON conditions) and sorted.",
      query: itemsQuery,
    },
    async ({ db, info, query }) => ok(await findItems(db, info, asQuery(query), await windowOfDays(db, query.days))),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "items.csv",
      heavy: true,
      summary: "The same items, all of them, as a CSV file.",
      query: itemsQuery,
    },
    async ({ db, info, query }) => {
      const { headings, rows } = await exportRows(db, info, query);
      return csv("items.csv", headings, rows);
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "items.xlsx",
      heavy: true,
      summary: "The same items as an XLSX workbook.",
      query: itemsQuery,
    },
    async ({ db, info, query }) => {
      const { headings, rows } = await exportRows(db, info, query);
      return xlsx("items.xlsx", headings, rows);
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "item-ids",
      heavy: true,
      summary: "Only the IDs of the items found.",
      query: itemsQuery,
    },
    async ({ db, info, query }) =>
      ok({ ids: await findItemIds(db, info, asQuery(query), await windowOfDays(db, query.days)) }),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "item-ids/match",
      bodyMb: 32,
      heavy: true,
      summary: "Which of some IDs the catalogue has.",
      body: itemIdsSchema,
    },
    async ({ db, body }) => ok(await matchIds(db, body.ids)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "item-ids/families",
      bodyMb: 32,
      heavy: true,
      summary: "The given items with all members of their families.",
      body: itemIdsSchema,
    },
    async ({ db, body }) => ok({ ids: await withFamilies(db, body.ids) }),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "items/{id}",
      summary: "One item: fields, results, shelves, homes, history.",
      query: days,
    },
    async ({ db, info, path, query }) => findItem(db, info, path["id"]!, await windowOfDays(db, query.days)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "notes",
      summary: "Keep a note on an item or a family.",
      body: noteSchema,
      status: 201,
    },
    async ({ db, body }) => ok(await addNote(db, body)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "notes/many",
      bodyMb: 32,
      summary: "Keep a note on each of many items.",
      body: z.object({
        lines: z.array(z.object({ id: z.string().max(500), text: z.string().trim().min(1).max(2000) })).max(20_000),
      }),
      status: 201,
    },
    async ({ db, body }) => {
      await addItemNotes(db, body.lines);
      return ok({ notes: body.lines.length });
    },
  ),
  inWorkspace(
    { method: "DELETE", role: "editor", path: "notes/{id}", summary: "Remove a note." },
    async ({ db, path }) => {
      await removeNote(db, pathNumber(path, "id"));
      return ok({});
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "views",
      summary: "Saved views of a screen.",
      query: z.object({ screen: z.string().max(40).default("catalogue") }),
    },
    async ({ db, query }) => ok(await listViews(db, query.screen)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "views",
      summary: "Keep a view under a name.",
      body: savedViewSchema,
      status: 201,
    },
    async ({ db, body }) => ok(await saveView(db, body)),
  ),
  inWorkspace(
    { method: "DELETE", role: "editor", path: "views/{id}", summary: "Remove a saved view." },
    async ({ db, path }) => {
      await removeView(db, pathNumber(path, "id"));
      return ok({});
    },
  ),
];
