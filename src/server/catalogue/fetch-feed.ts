import { copyFile, rm } from "node:fs/promises";
import path from "node:path";
import { eq } from "drizzle-orm";
import { z } from "zod";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { feeds } from "@/db/schema";
import { enqueueJob } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import { decoded } from "../outside/fetch-safely";
import { download } from "../outside/download";
import { keptSourceSchema, loginOf, type feedVersionSchema } from "./feed-source";
import { markOf, newestInInbox } from "./inbox";
import { newUpload } from "./uploads";

export const feedFetchSchema = z.object({
  feed: z.string(),
  /** Null takes the feed's saved source. */
  source: keptSourceSchema.nullable(),
  /** What becomes of the file: it is read into the catalogue, or kept as an upload so that its columns can be checked. */
  into: z.enum(["catalogue", "upload"]),
  acceptLoss: z.boolean(),
});

export type FeedFetch = z.infer<typeof feedFetchSchema>;

export interface FetchResult {
  isNew: boolean;
  fileName: string;
  bytes: number;
  upload: string | null;
  /** The job that reads the file in. */
  job: string | null;
}

async function run(context: JobContext, raw: unknown): Promise<FetchResult> {
  const input = feedFetchSchema.parse(raw);
  const { db } = context;
  try {
    const result = await fetchNow(context, input);
    await db.update(feeds).set({ lookedAt: Date.now(), trouble: null }).where(eq(feeds.key, input.feed));
    return result;
  } catch (error) {
    if (error instanceof FailureError) {
      const trouble = { ...error.failure, at: Date.now() };
      await db.update(feeds).set({ lookedAt: Date.now(), trouble }).where(eq(feeds.key, input.feed));
    }
    throw error;
  }
}

async function fetchNow(context: JobContext, input: FeedFetch): Promise<FetchResult> {
  const { db, info } = context;
  const [feed] = await db.select().from(feeds).where(eq(feeds.key, input.feed));
  const source = input.source ?? feed?.source;
  if (!source)
    giveUp("feed-no-source", "The feed has no address and no watched folder.", "Upload the file, or connect a source.");
  const { upload, file } = await newUpload(info.slug);
  const isLook = input.into === "upload";
  const known = isLook ? {} : (feed?.version ?? {});
  let version: z.infer<typeof feedVersionSchema> | null = null;
  let result: FetchResult = { isNew: true, fileName: "feed", bytes: 0, upload: null, job: null };
  if (source.kind === "url") {
    const login = loginOf(source);
    const asked = { url: source.url, login };
    const got = await download(asked, file, known, (bytes, total) => context.progress(bytes, total, "bytes"));
    const fileName = decoded(path.posix.basename(new URL(source.url).pathname)) || new URL(source.url).host;
    result = { ...result, isNew: got.isNew, fileName, bytes: got.bytes };
    version = got.version;
  } else {
    const found = await newestInInbox(info.slug, source.pattern);
    if (!found) {
      giveUp(
        "inbox-empty",
        `No file named "${source.pattern}" lies in the watched folder.`,
        "Put the feed there, whole, under that name.",
      );
    }
    await copyFile(found.file, file);
    if ((await markOf(found.file)) !== found.mark) {
      await rm(file, { force: true });
      giveUp("inbox-growing", `${found.name} changed while it was copied.`, "It is read once it stays as it is.");
    }
    result = { ...result, fileName: found.name, bytes: found.size };
    version = { file: found.mark };
  }
  if (!result.isNew) return result;
  if (isLook) return { ...result, upload };
  const { fileName } = result;
  const reading = {
    feed: input.feed,
    file,
    fileName,
    mapping: null,
    reading: null,
    acceptLoss: input.acceptLoss,
    version,
  };
  const job = await enqueueJob(db, "feed-import", reading).catch(async (error: unknown) => {
    await rm(file, { force: true });
    throw error;
  });
  return { ...result, job: job.id };
}

export const feedFetch: JobHandler = { run, rollBack: async () => {} };
