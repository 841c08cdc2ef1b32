import { z } from "zod";
import { ok } from "@/core/kit/outcome";
import { CHAPTER_KEYS, type ChapterKey } from "@/core/stocktake/chapters";
import { PAPERS } from "@/core/stocktake/html";
import { enqueueJob } from "../../jobs/jobs";
import { FILE_FORMATS, stocktakeFile } from "../../stocktake/files";
import { takeStockSchema } from "../../stocktake/job";
import {
  changeReport,
  compareTwo,
  dismissFinding,
  dismissSchema,
  listStocktakes,
  removeStocktake,
  reportChangeSchema,
  setStyle,
  styleSchema,
  viewChapters,
  viewStocktake,
} from "../../stocktake/stocktakes";
import { inWorkspace, pathNumber, type BoundEndpoint } from "../endpoint";

const chapterKey = z.enum(CHAPTER_KEYS as [ChapterKey, ...ChapterKey[]]);
const idOf = (path: Record<string, string>) => pathNumber(path, "stocktake");

/** Operations of stocktakes. */
export const stocktakeEndpoints: BoundEndpoint[] = [
  inWorkspace(
    { ...({ method: "GET", role: "viewer", path: "stocktakes" } as const), summary: "Stocktakes, newest first." },
    async ({ db }) => ok(await listStocktakes(db)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "stocktakes", body: takeStockSchema, status: 202 } as const),
      summary: "Take stock, as a job: of some days, or of the last ninety with results.",
    },
    async ({ db, body }) => ok({ job: (await enqueueJob(db, "stocktake", body)).id }),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "stocktakes/{stocktake}" } as const),
      summary: "One stocktake: what was found, ranked by money a month, and which chapters it has.",
    },
    async ({ db, path }) => viewStocktake(db, idOf(path)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "stocktakes/{stocktake}/chapters" } as const),
      summary: "Its chapters with their tables and findings, all or one.",
      query: z.object({ chapter: chapterKey.optional() }),
    },
    async ({ db, path, query }) => viewChapters(db, idOf(path), query.chapter ?? null),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "stocktakes/{stocktake}", body: reportChangeSchema } as const),
      summary: "Name it, write a remark into a chapter, or choose its chapters and their order.",
    },
    async ({ db, path, body }) => changeReport(db, idOf(path), body),
  ),
  inWorkspace(
    {
      ...({ method: "DELETE", role: "editor", path: "stocktakes/{stocktake}" } as const),
      summary: "Take a stocktake away with its remarks.",
    },
    async ({ db, path }) => removeStocktake(db, idOf(path)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "stocktakes/{stocktake}/bring-back" } as const),
      summary: "Bring a stocktake back that was taken away.",
    },
    async ({ db, path }) => removeStocktake(db, idOf(path), true),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "stocktakes/{stocktake}/file", heavy: true } as const),
      summary:
        "The report as one HTML file that opens without a network, or its tables as a workbook; masked if asked.",
      query: z.object({
        format: z.enum(FILE_FORMATS).default("html"),
        masked: z.stringbool().default(false),
        paper: z.enum(PAPERS).default("A4"),
      }),
    },
    async ({ db, info, path, query }) => {
      const made = await stocktakeFile(db, info, idOf(path), query);
      return made.ok ? made.value : made;
    },
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "stocktakes/{stocktake}/compare/{other}" } as const),
      summary: "Two stocktakes beside each other: what was mended, what is still there, what is new or came back.",
    },
    async ({ db, path }) => compareTwo(db, idOf(path), pathNumber(path, "other")),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "stocktake-findings", body: dismissSchema } as const),
      summary: "Put a finding aside with a reason, in this and every later stocktake; no reason takes it up again.",
    },
    async ({ db, who, body }) => dismissFinding(db, who, body),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "stocktake-style", body: styleSchema } as const),
      summary: "How reports are headed: a name and a picture.",
    },
    async ({ db, body }) => setStyle(db, body),
  ),
];
