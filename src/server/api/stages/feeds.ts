import { csv } from "../../files/answers";
import { z } from "zod";
import { fail, ok } from "@/core/kit/outcome";
import { countCosts } from "../../catalogue/costs";
import { diagnose } from "../../across/catalogue/diagnose";
import { cutSource, feedSourceSchema, type SourceInput } from "../../catalogue/feed-source";
import type { Asker } from "../../sign-in/asker";
import { holds } from "../../sign-in/roles";
import { mustHold } from "../../sign-in/kept-out";
import {
  feedKeySchema,
  importSchema,
  inspectUpload,
  listFeeds,
  rowsSetAside,
  startImport,
} from "../../catalogue/feeds";
import { linkCheckSummary } from "../../across/catalogue/link-check";
import { setSource, sourceSettingsSchema, startFetch } from "../../catalogue/schedule";
import { takeUpload } from "../../catalogue/uploads";
import { workspace } from "@/db/schema";
import { understoodAs, understoodSchema } from "../../catalogue/understood";
import { sinceSchema } from "../../meanwhile";
import { inboxDir } from "../../settings";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { choiceIn, jobAnswer, page, readingQuerySchema } from "./shared";

/** Where a feed comes from is an owner's to say, be it only for once. @throws FailureError for others */
async function checkSource(asker: Asker | null, slug: string, source: SourceInput | null | undefined): Promise<void> {
  if (source) await mustHold(asker, slug, "owner");
}

/** Feeds: uploads, readings, sources, and rows that were set aside. */
export const feedEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "feeds",
      heavy: true,
      summary: "Feeds with what the last reading brought, and what is wrong.",
    },
    async ({ db, info, asker }) => {
      const mayChange = holds((await asker?.roleIn(info.slug)) ?? null, "owner");
      const feeds = await listFeeds(db);
      const [settings] = await db.select({ families: workspace.proposedFamilies }).from(workspace);
      return ok({
        feeds: mayChange ? feeds : feeds.map((feed) => ({ ...feed, source: cutSource(feed.source) })),
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
];
