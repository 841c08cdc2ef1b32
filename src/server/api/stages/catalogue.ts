import { z } from "zod";
import { derivedFieldSchema, lookupListSchema } from "@/core/catalogue/derive/derived-field";
import { FAULT } from "@/core/catalogue/faults";
import { FINDING } from "@/core/catalogue/findings/finding";
import { ok } from "@/core/kit/outcome";
import { costLinesSchema, forgetCosts, keepCosts, readCosts } from "../../catalogue/costs";
import { loadCategories } from "../../across/catalogue/categories";
import { listDerived, removeDerived, saveDerived } from "../../catalogue/derived";
import { derivedPreviewSchema, previewDerived } from "../../catalogue/derived-preview";
import { listFields } from "../../catalogue/field-list";
import { listLookups, removeLookup, saveLookup } from "../../catalogue/lookups";
import { takeFamilies, teachAvailability, teachSchema, unknownAvailability } from "../../across/catalogue/repair";
import { CHANGE_KINDS, listRefreshes, refreshItems } from "../../catalogue/history";
import { renamedValues } from "../../across/catalogue/renamed-values";
import { refreshEffect } from "../../across/catalogue/refresh-effect";
import { linkCheckSchema, startLinkCheck } from "../../across/catalogue/link-check";
import { knownUpload, takeUpload } from "../../catalogue/uploads";
import { sinceSchema } from "../../meanwhile";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";
import { windowOfDays } from "../../results/window";
import { days, page } from "./shared";

/** What is made of the catalogue beside its feed. */
export const catalogueEndpoints: BoundEndpoint[] = [
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
