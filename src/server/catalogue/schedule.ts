import { Cron } from "croner";
import { eq } from "drizzle-orm";
import { z } from "zod";
import { type Outcome, fail, ok } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { feeds } from "@/db/schema";
import { enqueueJob, listJobs, type JobView } from "../jobs/jobs";
import { changedMeanwhile } from "../meanwhile";
import type { WorkspaceInfo } from "../workspaces";
import { noteChange } from "../workspaces";
import { feedSourceSchema, placeOf, sealSource, showSource, type ShownSource, type SourceInput } from "./feed-source";
import { newestInInbox } from "./inbox";

/** How often a source may be looked at, at most. */
const LEAST_GAP_MS = 5 * 60 * 1000;

/** The next time of a cron pattern in a time zone, in milliseconds; null when it never comes. */
export function nextTime(pattern: string, timeZone: string, after = new Date()): number | null {
  return new Cron(pattern, { timezone: timeZone, paused: true }).nextRun(after)?.getTime() ?? null;
}

/** Whether a pattern can be read and does not ask too often. @returns a sentence when not */
function scheduleFault(pattern: string, timeZone: string): string | null {
  try {
    const runs = new Cron(pattern, { timezone: timeZone, paused: true }).nextRuns(3);
    const [first, second] = runs;
    if (first && second && second.getTime() - first.getTime() < LEAST_GAP_MS) {
      return "Once every five minutes is the most.";
    }
    return runs.length === 0 ? "This time never comes." : null;
  } catch {
    return "The times can't be read: five parts, minute hour day month weekday.";
  }
}

export const sourceSettingsSchema = z.object({
  source: feedSourceSchema.nullable(),
  /** A cron pattern in the workspace's time zone, or null for by hand only. */
  schedule: z.string().trim().max(100).nullable(),
});

export type SourceSettings = z.infer<typeof sourceSettingsSchema>;

/**
 * Changes where a feed is read from and when.
 *
 * @param since the version that was seen; left out, what is there is written over
 */
export async function setSource(
  db: Database,
  info: WorkspaceInfo,
  feed: string,
  { source: given, schedule }: SourceSettings,
  since?: string,
): Promise<Outcome<{ nextAt: number | null; source: ShownSource | null }>> {
  const fault = schedule === null ? null : scheduleFault(schedule, info.timeZone);
  if (fault) return fail("schedule-unreadable", fault, "For example 30 6 * * * for half past six every morning.");
  const [known] = await db.select().from(feeds).where(eq(feeds.key, feed));
  if (!known)
    return fail("feed-unknown", `There is no feed "${feed}" yet.`, "Read it in once; then it can be scheduled.");
  const source = given === null ? null : sealSource(given, known.source);
  const shown = showSource(source);
  const seen = await changedMeanwhile(db, since, {
    what: "The feed's source",
    about: "feed-source",
    stored: { source: showSource(known.source), schedule: known.schedule },
    given: { source: shown, schedule },
  });
  if (!seen.ok) return seen;
  const nextAt = schedule === null || source?.kind !== "url" ? null : nextTime(schedule, info.timeZone);
  // Another source is another file: what was said about the old one's version does not hold.
  const isOther = JSON.stringify(known.source) !== JSON.stringify(source);
  await db
    .update(feeds)
    .set({ source, schedule, nextAt, trouble: null, ...(isOther ? { version: null, attempt: null } : {}) })
    .where(eq(feeds.key, feed));
  const where =
    source === null ? "upload only" : source.kind === "url" ? placeOf(source.url) : `folder, ${source.pattern}`;
  await noteChange(db, `Feed source: ${where}${schedule ? `, at ${schedule}` : ""}`, "", "catalogue", "feed-source");
  return ok({ nextAt, source: shown });
}

/** Queues a fetch unless one of the feed waits or runs already. */
export async function startFetch(
  db: Database,
  feed: string,
  more: { source?: SourceInput | null; into?: "catalogue" | "upload"; acceptLoss?: boolean } = {},
): Promise<JobView> {
  const { source = null, into = "catalogue", acceptLoss = false } = more;
  const open = (await listJobs(db)).find(
    (job) => job.kind === "feed-fetch" && (job.state === "waiting" || job.state === "running"),
  );
  return open ?? enqueueJob(db, "feed-fetch", { feed, source: source && sealSource(source), into, acceptLoss });
}

/** How often a file that could not be read in is tried again by itself, and after how long, longer each time. */
const MOST_TRIES = 5;
const TRY_AGAIN_MS = 5 * 60 * 1000;

/** Whether a file that failed may be tried again: what kept it out can pass, but not at once. */
function isWorthTrying({ tries, at }: { tries: number; at: number }, now: number): boolean {
  return tries === 0 || (tries < MOST_TRIES && now - at >= TRY_AGAIN_MS * 2 ** (tries - 1));
}

/** Seals a password that an earlier version kept within the address. */
async function sealOldLogin(db: Database, { key, source }: typeof feeds.$inferSelect): Promise<void> {
  if (source?.kind !== "url" || !/^https?:\/\/[^/?#]*@/i.test(source.url)) return;
  await db
    .update(feeds)
    .set({ source: sealSource(source) })
    .where(eq(feeds.key, key));
}

/** Queues the fetches that are due: scheduled addresses whose time has come, watched folders with a new file. */
export async function queueDueFetches(db: Database, info: WorkspaceInfo, now = Date.now()): Promise<number> {
  let queued = 0;
  for (const feed of await db.select().from(feeds)) {
    await sealOldLogin(db, feed);
    if (feed.source?.kind === "url" && feed.schedule && feed.nextAt !== null && feed.nextAt <= now) {
      const nextAt = nextTime(feed.schedule, info.timeZone, new Date(now));
      await db.update(feeds).set({ nextAt }).where(eq(feeds.key, feed.key));
      await startFetch(db, feed.key);
      queued++;
    } else if (feed.source?.kind === "folder") {
      const found = await newestInInbox(info.slug, feed.source.pattern, now);
      if (!found || found.mark === feed.version?.file) continue;
      const last = feed.attempt?.mark === found.mark ? feed.attempt : { tries: 0, at: 0 };
      if (!isWorthTrying(last, now)) continue;
      const attempt = { mark: found.mark, tries: last.tries + 1, at: now };
      await db.update(feeds).set({ attempt }).where(eq(feeds.key, feed.key));
      await startFetch(db, feed.key);
      queued++;
    }
  }
  return queued;
}
