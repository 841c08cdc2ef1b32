import { FAULT } from "@/core/catalogue/faults";
import { METRIC_KEYS, METRICS } from "@/core/kit/metrics";
import { conditionSchema } from "@/core/catalogue/find-rows";
import {
  diagnose,
  feedKeySchema,
  importSchema,
  inspectUpload,
  listFeeds,
  rowsSetAside,
  startImport,
  storeUpload,
} from "../../catalogue/feeds";
import { fail, ok } from "@/core/kit/outcome";
import { findItem, findItemIds, findItems, itemsQuerySchema } from "../../catalogue/items";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { toUnits } from "@/core/kit/money";
import { windowOfDays, windowSchema } from "../../results/results";
import { z } from "zod";
import { days, page, csv, jobAnswer } from "./shared";

/** Conditions come as JSON in the query, since a query has no lists of records. */
const filterText = z
  .string()
  .default("[]")
  .transform((text, context) => {
    try {
      return z.array(conditionSchema).max(20).parse(JSON.parse(text));
    } catch {
      context.addIssue({ code: "custom", message: "filter must be JSON: a list of { field, op, value }" });
      return z.NEVER;
    }
  });

const itemsQuery = itemsQuerySchema.omit({ conditions: true }).extend({ filter: filterText, days: windowSchema });

type ItemsParams = z.output<typeof itemsQuery>;

function asQuery({ filter, days: _days, ...query }: ItemsParams) {
  return { ...query, conditions: filter };
}

/** Operations of the catalogue stage. */
export const catalogueEndpoints: BoundEndpoint[] = [
  inWorkspace({ method: "GET", path: "feeds", summary: "Feeds with what the last reading brought." }, async ({ db }) =>
    ok({ feeds: await listFeeds(db), diagnostics: await diagnose(db) }),
  ),
  inWorkspace(
    {
      method: "POST",
      path: "uploads",
      summary: "Store a feed file (raw body) and propose a mapping for it.",
      query: z.object({ feed: feedKeySchema.default("main") }),
      rawBody: true,
      status: 201,
    },
    async ({ db, info, query, raw }) => {
      const upload = await storeUpload(info.slug, raw as never);
      return ok(await inspectUpload(db, info.slug, query.feed, upload));
    },
  ),
  inWorkspace(
    {
      method: "POST",
      path: "feeds/{feed}/import",
      summary: "Take in an upload with a mapping, as a job.",
      body: importSchema,
      status: 202,
    },
    async ({ db, info, path, body }) =>
      jobAnswer(await startImport(db, info.slug, feedKeySchema.parse(path["feed"]), body)),
  ),
  inWorkspace(
    {
      method: "POST",
      path: "feeds/{feed}/refresh",
      summary: "Read a feed file (raw body) with the saved mapping, or the proposed one for a new feed, as a job.",
      query: z.object({
        mapping: feedKeySchema.optional(),
        fileName: z.string().max(200).default("feed"),
        acceptLoss: z.stringbool().default(false),
      }),
      rawBody: true,
      status: 202,
    },
    async ({ db, info, path, query, raw }) => {
      let mapping = null;
      if (query.mapping) {
        mapping = (await listFeeds(db)).find((feed) => feed.key === query.mapping)?.mapping ?? null;
        if (!mapping) return fail("mapping-unknown", `There is no saved mapping "${query.mapping}".`);
      }
      const upload = await storeUpload(info.slug, raw as never);
      const { fileName, acceptLoss } = query;
      const feed = feedKeySchema.parse(path["feed"]);
      return jobAnswer(await startImport(db, info.slug, feed, { upload, fileName, mapping, acceptLoss }));
    },
  ),
  inWorkspace(
    {
      method: "GET",
      path: "set-aside",
      summary: "Rows of the last reading that were kept out, with reasons.",
      query: page,
    },
    async ({ db, query }) => ok(await rowsSetAside(db, query.offset, query.limit)),
  ),
  inWorkspace({ method: "GET", path: "set-aside.csv", summary: "The same as a CSV file." }, async ({ db }) => {
    const { headings, rows } = await rowsSetAside(db, 0, 100_000);
    const lines = rows.map(({ row, reasons, cells }) => [
      row,
      reasons.join("; "),
      ...headings.map((_, i) => cells[i] ?? ""),
    ]);
    return csv("set-aside.csv", ["row", "why set aside", ...headings], lines);
  }),
  inWorkspace(
    {
      method: "GET",
      path: "items",
      summary: "Items with results over the last `days`, found, filtered (JSON conditions) and sorted.",
      query: itemsQuery,
    },
    async ({ db, info, query }) => ok(await findItems(db, info, asQuery(query), await windowOfDays(db, query.days))),
  ),
  inWorkspace(
    { method: "GET", path: "items.csv", summary: "The same items, all of them, as a CSV file.", query: itemsQuery },
    async ({ db, info, query }) => {
      const all = { ...asQuery(query), cursor: 0, limit: 1_000_000 };
      const { items } = await findItems(db, info, all, await windowOfDays(db, query.days));
      const rows = items.map((item) => [
        item.id,
        item.title,
        item.brand,
        item.category,
        item.availability,
        toUnits(item.price),
        item.heat,
        ...METRIC_KEYS.map((key) => {
          const value = METRICS[key].of(item.sums);
          return value === null ? null : METRICS[key].kind === "money" ? toUnits(value) : value;
        }),
      ]);
      const headings = ["id", "title", "brand", "category", "availability", "price", "heat", ...METRIC_KEYS];
      return csv("items.csv", headings, rows);
    },
  ),
  inWorkspace(
    { method: "GET", path: "item-ids", summary: "Only the IDs of the items found.", query: itemsQuery },
    async ({ db, info, query }) =>
      ok({ ids: await findItemIds(db, info, asQuery(query), await windowOfDays(db, query.days)) }),
  ),
  inWorkspace(
    { method: "GET", path: "items/{id}", summary: "One item: fields, results, shelves, homes.", query: days },
    async ({ db, info, path, query }) => findItem(db, info, path["id"]!, await windowOfDays(db, query.days)),
  ),
  inWorkspace({ method: "GET", path: "faults", summary: "Every fault that diagnostics know." }, async () => ok(FAULT)),
];
