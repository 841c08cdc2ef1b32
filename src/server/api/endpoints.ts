import { z } from "zod";
import { FAULT } from "@/core/catalogue/faults";
import { structureCsv } from "@/core/dispatch/export";
import { toCsv } from "@/core/dispatch/csv";
import { conditionSchema } from "@/core/catalogue/find-rows";
import { cellText } from "@/core/kit/columns";
import { fail, ok } from "@/core/kit/outcome";
import { METRIC_KEYS, METRICS } from "@/core/kit/metrics";
import { toUnits } from "@/core/kit/money";
import { planogramSchema } from "@/core/planogram/planogram";
import { shelfSetSchema } from "@/core/shelves/shelf-set";
import packageJson from "../../../package.json";
import {
  diagnose,
  feedKeySchema,
  importSchema,
  inspectUpload,
  listFeeds,
  rowsSetAside,
  startImport,
  storeUpload,
} from "../catalogue/feeds";
import { findItem, findItemIds, findItems, itemsQuerySchema } from "../catalogue/items";
import { loadCatalogue } from "../catalogue/load";
import {
  basketRemoveSchema,
  listDispatches,
  removeFromBasket,
  startDispatch,
  takeBackDispatch,
  viewBasket,
  viewDispatch,
} from "../dispatch/basket";
import { plannedStructure } from "../dispatch/structure";
import { cancelJob, enqueueJob, findJob, listJobs } from "../jobs/jobs";
import { marketRunSchema, startMarketRun } from "../market/run-days";
import {
  accountEditSchema,
  editAccount,
  editDiffSchema,
  takeBackEdit,
  viewAccount,
  viewProductGroups,
} from "../planogram/account";
import {
  findPlanogram,
  listPlanograms,
  previewItems,
  previewPlanogram,
  savePlanogram,
  splitFields,
} from "../planogram/planograms";
import { resultDays } from "../results/load";
import {
  resultsSchema,
  seriesSchema,
  setUpSteps,
  tillStrip,
  viewResults,
  viewSeries,
  windowOfDays,
  windowSchema,
} from "../results/results";
import { listShelfSets, recomputeShelfSet, saveShelfSet, viewShelfSet } from "../shelves/shelves";
import {
  changeWorkspace,
  createWorkspace,
  listWorkspaces,
  newWorkspaceSchema,
  workspaceSettingsSchema,
} from "../workspaces";
import { global, inWorkspace, type BoundEndpoint } from "./endpoint";
import { shelfBlocks } from "../shelves/blocks";

const days = z.object({ days: windowSchema });
const page = z.object({
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(10_000).default(200),
});

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

function csv(name: string, headings: string[], rows: (string | number | null)[][]) {
  return { file: toCsv(headings, rows), name, contentType: "text/csv; charset=utf-8" };
}

const catalogueEndpoints: BoundEndpoint[] = [
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

const shelfEndpoints: BoundEndpoint[] = [
  inWorkspace({ method: "GET", path: "shelf-sets", summary: "Shelf sets." }, async ({ db }) =>
    ok(await listShelfSets(db)),
  ),
  inWorkspace(
    {
      method: "PUT",
      path: "shelf-sets",
      summary: "Keep a shelf set, new or changed, and compute it.",
      body: shelfSetSchema,
    },
    async ({ db, body }) => {
      await saveShelfSet(db, body);
      const computed = await recomputeShelfSet(db, body.key);
      return ok({ key: body.key, computed: computed.ok ? computed.value : null });
    },
  ),
  inWorkspace(
    {
      method: "POST",
      path: "shelf-sets/preview",
      summary: "What a definition would make of the latest results.",
      body: shelfSetSchema,
    },
    async ({ db, info, body }) => shelfBlocks(db, info, body.key, body),
  ),
  inWorkspace(
    { method: "POST", path: "shelf-sets/{set}/recompute", summary: "Recompute from the latest results." },
    async ({ db, path }) => recomputeShelfSet(db, path["set"]!),
  ),
  inWorkspace(
    {
      method: "GET",
      path: "shelf-sets/{set}",
      summary: "A set's shelves with items, spend, sales, shares, gap and return.",
    },
    async ({ db, info, path }) => shelfBlocks(db, info, path["set"]!),
  ),
  inWorkspace(
    { method: "GET", path: "shelf-sets/{set}/labels.csv", summary: "The shelf of every item, keyed by item ID." },
    async ({ db, path }) => {
      const view = await viewShelfSet(db, path["set"]!);
      if (!view.ok) return view;
      const { columns } = await loadCatalogue(db, ["id"]);
      const rows = Array.from(view.value.shelfOf, (shelf, row) => [
        cellText(columns["id"]!, row),
        view.value.shelves[shelf]!.name,
      ]);
      return csv(`${path["set"]}-labels.csv`, ["id", view.value.definition.key], rows);
    },
  ),
];

const planogramEndpoints: BoundEndpoint[] = [
  inWorkspace({ method: "GET", path: "split-fields", summary: "What a ladder can split by." }, async ({ db }) =>
    ok(await splitFields(db)),
  ),
  inWorkspace({ method: "GET", path: "planograms", summary: "Planograms." }, async ({ db }) =>
    ok(await listPlanograms(db)),
  ),
  inWorkspace(
    { method: "POST", path: "planograms", summary: "Keep a planogram.", body: planogramSchema, status: 201 },
    async ({ db, body }) => {
      await savePlanogram(db, body);
      return ok({ key: body.key });
    },
  ),
  inWorkspace(
    {
      method: "POST",
      path: "planograms/preview",
      summary: "What a planogram would make: counts, homes, leaks, warnings, campaigns.",
      body: planogramSchema,
    },
    async ({ db, body }) => previewPlanogram(db, body),
  ),
  inWorkspace(
    {
      method: "POST",
      path: "planograms/preview/items",
      summary: "The items of one planned campaign or ad group.",
      query: page.extend({ node: z.coerce.number().int().min(-1) }),
      body: planogramSchema,
    },
    async ({ db, body, query }) => previewItems(db, body, query.node, query.offset, query.limit),
  ),
  inWorkspace(
    {
      method: "POST",
      path: "planograms/{planogram}/apply",
      summary: "Put the difference to the account into the basket, as a job.",
      status: 202,
    },
    async ({ db, path }) => {
      const found = await findPlanogram(db, path["planogram"]!);
      if (!found) return fail("planogram-unknown", `There is no planogram "${path["planogram"]}".`);
      return jobAnswer(ok(await enqueueJob(db, "planogram-apply", { planogram: found.key })));
    },
  ),
  inWorkspace(
    { method: "GET", path: "account", summary: "Campaigns and ad groups, basket included, with results.", query: days },
    async ({ db, query }) =>
      ok(await viewAccount(db, (await resultDays(db)) ? await windowOfDays(db, query.days) : null)),
  ),
  inWorkspace(
    {
      method: "GET",
      path: "product-groups",
      summary: "Product groups of an ad group.",
      query: z.object({ adGroup: z.string() }),
    },
    async ({ db, query }) => ok(await viewProductGroups(db, query.adGroup)),
  ),
  inWorkspace(
    {
      method: "POST",
      path: "account/edits",
      summary: "Change the account by hand; goes into the basket.",
      body: accountEditSchema,
    },
    async ({ db, info, body }) => editAccount(db, body, info.currency),
  ),
  inWorkspace(
    { method: "POST", path: "account/edits/take-back", summary: "Take an unsent edit back.", body: editDiffSchema },
    async ({ db, body }) => ok({ changes: await takeBackEdit(db, body) }),
  ),
  inWorkspace(
    {
      method: "GET",
      path: "structure",
      summary: "The account's structure, basket included, as CSV or JSON.",
      query: z.object({ format: z.enum(["csv", "json"]).default("json") }),
    },
    async ({ db, query }) => {
      const structure = await plannedStructure(db);
      return query.format === "csv"
        ? { file: structureCsv(structure), name: "structure.csv", contentType: "text/csv; charset=utf-8" }
        : {
            file: JSON.stringify(Object.values(structure), null, 1),
            name: "structure.json",
            contentType: "application/json",
          };
    },
  ),
];

const runEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      path: "basket",
      summary: "What waits to be sent, in words and numbers, with checks.",
      query: page,
    },
    async ({ db, info, query }) => ok(await viewBasket(db, info, query.offset, query.limit)),
  ),
  inWorkspace(
    { method: "POST", path: "basket/remove", summary: "Take changes out of the basket.", body: basketRemoveSchema },
    async ({ db, body }) => ok({ removed: await removeFromBasket(db, body) }),
  ),
  inWorkspace({ method: "GET", path: "dispatches", summary: "Dispatches, newest first." }, async ({ db }) =>
    ok(await listDispatches(db)),
  ),
  inWorkspace(
    { method: "POST", path: "dispatches", summary: "Send the basket, as a job.", status: 202 },
    async ({ db }) => jobAnswer(await startDispatch(db)),
  ),
  inWorkspace(
    { method: "GET", path: "dispatches/{id}", summary: "A dispatch with its changes." },
    async ({ db, info, path }) => viewDispatch(db, info, Number(path["id"])),
  ),
  inWorkspace(
    { method: "POST", path: "dispatches/{id}/take-back", summary: "Take a dispatch back, as a job.", status: 202 },
    async ({ db, path }) => jobAnswer(await takeBackDispatch(db, Number(path["id"]))),
  ),
  inWorkspace(
    { method: "GET", path: "results", summary: "Results by campaign, ad group or shelf.", query: resultsSchema },
    async ({ db, query }) => ok(await viewResults(db, query)),
  ),
  inWorkspace(
    { method: "GET", path: "results/series", summary: "Results day by day.", query: seriesSchema },
    async ({ db, query }) => ok(await viewSeries(db, query)),
  ),
  inWorkspace(
    {
      method: "POST",
      path: "market/run",
      summary: "Run the test market for some days, as a job.",
      body: marketRunSchema,
      status: 202,
    },
    async ({ db, info, body }) => jobAnswer(await startMarketRun(db, info, body)),
  ),
  inWorkspace(
    { method: "GET", path: "till", summary: "The figures of the till strip.", query: days },
    async ({ db, info, query }) => ok(await tillStrip(db, info, query.days)),
  ),
  inWorkspace(
    { method: "GET", path: "set-up", summary: "What is still missing on the way round the loop." },
    async ({ db }) => ok(await setUpSteps(db)),
  ),
  inWorkspace({ method: "GET", path: "jobs", summary: "Jobs under way and the last that ended." }, async ({ db }) =>
    ok(await listJobs(db)),
  ),
  inWorkspace({ method: "GET", path: "jobs/{id}", summary: "A job." }, async ({ db, path }) => {
    const job = await findJob(db, path["id"]!);
    return job ? ok(job) : fail("job-unknown", "There is no such job.");
  }),
  inWorkspace({ method: "POST", path: "jobs/{id}/cancel", summary: "Ask a job to stop." }, async ({ db, path }) => {
    const job = await cancelJob(db, path["id"]!);
    return job ? ok(job) : fail("job-unknown", "There is no such job.");
  }),
  inWorkspace(
    { method: "PUT", path: "settings", summary: "Change the goal or a house rule.", body: workspaceSettingsSchema },
    async ({ db, body }) => {
      await changeWorkspace(db, body);
      return ok({});
    },
  ),
];

const globalEndpoints: BoundEndpoint[] = [
  global({ method: "GET", path: "health", summary: "Whether the server answers." }, async () =>
    ok({ status: "ok", version: packageJson.version }),
  ),
  global({ method: "GET", path: "workspaces", summary: "Workspaces." }, async () => ok(await listWorkspaces())),
  global(
    { method: "POST", path: "workspaces", summary: "Make an empty workspace.", body: newWorkspaceSchema, status: 201 },
    async ({ body }) => createWorkspace(body),
  ),
];

function jobAnswer(outcome: Awaited<ReturnType<typeof startDispatch>>) {
  return outcome.ok ? ok({ job: outcome.value.id }) : outcome;
}

/** Every operation of the API, in the order of the stages. */
export const ENDPOINTS: BoundEndpoint[] = [
  ...globalEndpoints,
  ...catalogueEndpoints,
  ...shelfEndpoints,
  ...planogramEndpoints,
  ...runEndpoints,
];
