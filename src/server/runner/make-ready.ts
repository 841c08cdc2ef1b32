import { and, eq, isNull, lte, ne, or } from "drizzle-orm";
import type { Database } from "@/db/client";
import { jobs } from "@/db/schema";
import { findEndpoint } from "../api/handle";
import { queueMakeReady } from "../jobs/jobs";
import type { JobContext, JobHandler } from "../jobs/work";
import { log } from "../log";
import { actAs, NOBODY } from "../person";
import { listFirstAsks } from "../read/first-asks";
import { allStored } from "../read/ready";

/** Whether somebody waits for other work of the workspace that could begin now. */
async function isWaitedFor(db: Database): Promise<boolean> {
  const isDue = or(isNull(jobs.notBefore), lte(jobs.notBefore, Date.now()));
  const [one] = await db
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.state, "waiting"), ne(jobs.kind, "make-ready"), isDue))
    .limit(1);
  return one !== undefined;
}

/** Asks one question of the API as a page does, for what is worked out on the way. What it refuses is left to whoever asks. */
async function ask({ db, info }: JobContext, asked: string): Promise<boolean> {
  try {
    const url = new URL(`http://here/${asked}`);
    const found = findEndpoint("GET", `${info.slug}${url.pathname}`);
    if (!found?.endpoint.workspace) return false;
    const query = found.endpoint.query?.parse(Object.fromEntries(url.searchParams)) ?? {};
    const request = {
      path: found.parameters,
      query,
      body: undefined,
      raw: null,
      headers: new Headers(),
      url: url.href,
    };
    await actAs(NOBODY, () => found.endpoint.run({ ...request, who: NOBODY, asker: null, db, info }));
    return true;
  } catch (error) {
    log.debug({ err: error, asked }, "a view could not be made ready");
    return false;
  }
}

/**
 * Works out what pages ask first, so that whoever looks after a reading, a report or a market day finds it stored (see
 * `read/ready.ts`). It lets everything else pass: then it is left half done, and is queued again behind that.
 */
async function run(context: JobContext): Promise<{ asked: number }> {
  const paths = await listFirstAsks(context.db);
  let asked = 0;
  for (const path of paths) {
    if (await isWaitedFor(context.db)) {
      await queueMakeReady(context.db);
      break;
    }
    await context.progress(asked, paths.length, "views");
    if (await ask(context, path)) asked++;
  }
  await allStored();
  return { asked };
}

/** Makes views ready. Nothing of it is anybody's data, so there is nothing to roll back. */
export const makeReadyJob: JobHandler = { run, rollBack: async () => {} };
