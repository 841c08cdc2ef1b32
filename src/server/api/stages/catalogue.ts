import { z } from "zod";
import { derivedFieldSchema, lookupListSchema } from "@/core/catalogue/derive/derived-field";
import { FAULT } from "@/core/catalogue/faults";
import { FINDING } from "@/core/catalogue/findings/finding";
import { fail, ok } from "@/core/kit/outcome";
import { countCosts, costLinesSchema, forgetCosts, keepCosts, readCosts } from "../../catalogue/costs";
import { loadCategories } from "../../across/catalogue/categories";
import { listDerived, removeDerived, saveDerived } from "../../catalogue/derived";
import { derivedPreviewSchema, previewDerived } from "../../catalogue/derived-preview";
import { listFields } from "../../catalogue/field-list";
import { listLookups, removeLookup, saveLookup } from "../../catalogue/lookups";
import { diagnose } from "../../across/catalogue/diagnose";
import { takeFamilies, teachAvailability, teachSchema, unknownAvailability } from "../../across/catalogue/repair";
import { feedSourceSchema, type SourceInput } from "../../catalogue/feed-source";
import type { Asker } from "../../sign-in/asker";
import { mustHold } from "../../sign-in/kept-out";
import {
  feedKeySchema,
  importSchema,
  inspectUpload,
  listFeeds,
  rowsSetAside,
  startImport,
} from "../../catalogue/feeds";
import { CHANGE_KINDS, listRefreshes, refreshItems } from "../../catalogue/history";
import { renamedValues } from "../../across/catalogue/renamed-values";
import { refreshEffect } from "../../across/catalogue/refresh-effect";
import { linkCheckSchema, linkCheckSummary, startLinkCheck } from "../../across/catalogue/link-check";
import { setSource, sourceSettingsSchema, startFetch } from "../../catalogue/schedule";
import { knownUpload, takeUpload } from "../../catalogue/uploads";
import { workspace } from "@/db/schema";
import { understoodAs, understoodSchema } from "../../catalogue/understood";
import { sinceSchema } from "../../meanwhile";
import { inboxDir } from "../../settings";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";
import { windowOfDays } from "../../results/window";
import { choiceIn, csv, days, jobAnswer, page, readingQuerySchema } from "./shared";

/** Operations on feeds: taking in, sources, history, what is wrong. */
/** Where a feed comes from is an owner's to say, be it only for once. @throws FailureError for others */
async function checkSource(asker: Asker | null, slug: string, source: SourceInput | null | undefined): Promise<void> {
  if (source) await mustHold(asker, slug, "owner");
}

export const catalogueEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "feeds",
      heavy: true,
      summary: "Feeds with what the last reading brought, and what is wrong.",
    },
    async ({ db, info }) => {
      const [settings] = await db.select({ families: workspace.proposedFamilies }).from(workspace);
      return ok({
        feeds: await listFeeds(db),
        diagnostics: await diagnose(db),
        inbox: inboxDir(info.slug),
        proposedFamilies: settings?.families ?? false,
        costs: await countCosts(db),
        links: await linkCheckSummary(db),
      });
    },
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "uploads",
      heavy: true,
      summary: "Store a feed file (raw body) and propose a mapping for it.",
      query: readingQuerySchema,
      rawBody: true,
      status: 201,
    },
    async ({ db, info, query, raw }) => {
      const look = (upload: string) => inspectUpload(db, info.slug, upload, choiceIn(query));
      return ok(await takeUpload(info.slug, raw, look, true));
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "uploads/{upload}",
      heavy: true,
      summary: "Look at an upload again, with another encoding, delimiter or part.",
      query: readingQuerySchema,
    },
    async ({ db, info, path, query }) =>
      ok(await inspectUpload(db, info.slug, z.uuid().parse(path["upload"]), choiceIn(query))),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "uploads/{upload}/understood",
      heavy: true,
      summary:
        "What an upload would bring with a mapping: some items as understood, what would be set aside, what looks wrong.",
      body: understoodSchema,
    },
    async ({ db, info, path, body }) => ok(await understoodAs(db, info, z.uuid().parse(path["upload"]), body)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "feeds/{feed}/import",
      heavy: true,
      summary: "Take in an upload with a mapping, as a job.",
      body: importSchema,
      status: 202,
    },
    async ({ db, info, asker, path, body }) => {
      await checkSource(asker, info.slug, body.source);
      return jobAnswer(await startImport(db, info.slug, feedKeySchema.parse(path["feed"]), body));
    },
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "feeds/{feed}/refresh",
      heavy: true,
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
      const { fileName, acceptLoss } = query;
      const feed = feedKeySchema.parse(path["feed"]);
      const start = (upload: string) => startImport(db, info.slug, feed, { upload, fileName, mapping, acceptLoss });
      return jobAnswer(await takeUpload(info.slug, raw, start, true));
    },
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "feeds/{feed}/fetch",
      summary: "Fetch the feed from its source, or look at another source without reading it in, as a job.",
      body: z.object({
        source: feedSourceSchema.nullable().default(null),
        into: z.enum(["catalogue", "upload"]).default("catalogue"),
        acceptLoss: z.boolean().default(false),
      }),
      status: 202,
    },
    async ({ db, info, asker, path, body }) => {
      await checkSource(asker, info.slug, body.source);
      return ok({ job: (await startFetch(db, feedKeySchema.parse(path["feed"]), body)).id });
    },
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "owner",
      isGrave: true,
      path: "feeds/{feed}/source",
      summary: "Say where the feed is read from by itself, and when.",
      query: sinceSchema,
      body: sourceSettingsSchema,
    },
    async ({ db, info, path, query, body }) =>
      setSource(db, info, feedKeySchema.parse(path["feed"]), body, query.since),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "set-aside",
      summary: "Rows of the last reading that were kept out, with reasons.",
      query: page,
    },
    async ({ db, query }) => ok(await rowsSetAside(db, query.offset, query.limit)),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "set-aside.csv", heavy: true, summary: "The same as a CSV file." },
    async ({ db }) => {
      const { headings, rows } = await rowsSetAside(db, 0, 100_000);
      const lines = rows.map(({ row, reasons, cells }) => [
        row,
        reasons.join("; "),
        ...headings.map((_, i) => cells[i] ?? ""),
      ]);
      return csv("set-aside.csv", ["row", "why set aside", ...headings], lines);
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "faults",
      heavy: true,
      summary: "Every fault and finding that diagnostics know.",
    },
    async () => ok({ ...FAULT, ...FINDING }),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "refreshes", summary: "Readings of the feed, newest first." },
    async ({ db }) => ok(await listRefreshes(db)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "refreshes/{refresh}/items",
      heavy: true,
      summary: "What a reading changed, item by item and field by field.",
      query: page.extend({ kind: z.enum(["all", ...CHANGE_KINDS]).default("all") }),
    },
    async ({ db, info, path, query }) =>
      ok(
        await refreshItems(db, info, pathNumber(path, "refresh"), query.kind, query.offset, Math.min(500, query.limit)),
      ),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "refreshes/{refresh}/renames",
      heavy: true,
      summary: "Values that groups are named for and that the feed calls by another name since a refresh.",
    },
    async ({ db, info, path }) => ok(await renamedValues(db, info, pathNumber(path, "refresh"))),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "refreshes/{refresh}/effect",
      heavy: true,
      summary: "What a reading does to shelves and structure.",
    },
    async ({ db, path }) => refreshEffect(db, pathNumber(path, "refresh")),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "availability-words",
      heavy: true,
      summary: "Availability words that were not understood.",
    },
    async ({ db }) => ok(await unknownAvailability(db)),
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "editor",
      path: "availability-words",
      heavy: true,
      summary: "Say what availability words mean, from the next reading on.",
      body: teachSchema,
    },
    async ({ db, body }) => {
      await teachAvailability(db, body.words);
      return ok({});
    },
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "editor",
      path: "proposed-families",
      summary: "Take proposed families as families, or leave them.",
      body: z.object({ take: z.boolean() }),
    },
    async ({ db, body }) => takeFamilies(db, body.take),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "categories",
      heavy: true,
      summary: "The category tree with items and results.",
      query: days,
    },
    async ({ db, query }) => ok(await loadCategories(db, await windowOfDays(db, query.days))),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "link-checks",
      summary: "Look at landing pages, as a job.",
      body: linkCheckSchema,
      status: 202,
    },
    async ({ db, body }) => ok({ job: (await startLinkCheck(db, body)).id }),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "costs",
      heavy: true,
      summary: "Read a file of costs and fees by item ID (raw body). It replaces an earlier one.",
      rawBody: true,
    },
    async ({ db, info, raw }) => {
      return takeUpload(info.slug, raw, (upload) => readCosts(db, info, knownUpload(info.slug, upload)), false);
    },
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "editor",
      path: "costs",
      heavy: true,
      summary: "Change the costs of single items.",
      body: costLinesSchema,
      bodyMb: 32,
    },
    async ({ db, body }) => ok(await keepCosts(db, body.lines, "add")),
  ),
  inWorkspace(
    { method: "DELETE", role: "editor", path: "costs", heavy: true, summary: "Forget the costs file." },
    async ({ db }) => {
      await forgetCosts(db);
      return ok({});
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "fields",
      heavy: true,
      summary: "Every field that rules and splits can use, with its coverage.",
    },
    async ({ db }) => ok(await listFields(db)),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "derived", summary: "Derived fields and look-up lists." },
    async ({ db }) =>
      ok({
        fields: await listDerived(db),
        lists: (await listLookups(db)).map(({ key, name, rows }) => ({ key, name, entries: rows.length })),
      }),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "derived",
      summary: "Keep a derived field, new or changed.",
      query: sinceSchema,
      body: derivedFieldSchema,
    },
    async ({ db, query, body }) => saveDerived(db, body, query.since),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "viewer",
      path: "derived/preview",
      heavy: true,
      summary: "What a derived field would do, without keeping it.",
      body: derivedPreviewSchema,
    },
    async ({ db, body }) => previewDerived(db, body),
  ),
  inWorkspace(
    { method: "DELETE", role: "editor", path: "derived/{key}", summary: "Remove a derived field." },
    async ({ db, path }) => removeDerived(db, path["key"]!),
  ),
  inWorkspace(
    { method: "GET", role: "viewer", path: "lookups", summary: "Look-up lists with their entries." },
    async ({ db }) => ok(await listLookups(db)),
  ),
  inWorkspace(
    {
      method: "POST",
      role: "editor",
      path: "lookups",
      summary: "Keep a look-up list, new or changed.",
      query: sinceSchema,
      body: lookupListSchema,
      bodyMb: 32,
    },
    async ({ db, query, body }) => saveLookup(db, body, query.since),
  ),
  inWorkspace(
    { method: "DELETE", role: "editor", path: "lookups/{key}", summary: "Remove a look-up list." },
    async ({ db, path }) => removeLookup(db, path["key"]!),
  ),
];
