import { eq } from "drizzle-orm";
import type { Failure } from "@/core/kit/outcome";
import { jobs } from "@/db/schema";
import { recoverJob, runJob, type JobHandlers } from "../jobs/work";
import { log } from "../log";
import { endWithParent } from "../process-watch";
import { storeWhatIsReady } from "../read/ready";
import { findWorkspace } from "../workspaces";
import { BEAT_EVERY, type HandTask, type HandWord } from "./hands";
import { holdAsHand } from "../jobs/lock";

/**
 * A hand: the process in which the runner has one job done at a time. It gives a sign of life every second while its event
 * loop turns; whatever goes wrong here, the runner sees it and ends this process.
 */
endWithParent();
const say = (word: HandWord) => {
  if (process.connected) process.send?.(word);
};
setInterval(() => say({ word: "beat" }), BEAT_EVERY);
process.on("disconnect", () => process.exit(0));
// The runner's own signals go to the whole group at a terminal; the runner decides when its hands end.
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => {});

const handlersFile = process.argv[2];
if (!handlersFile) throw new Error("a hand needs the path of its handlers");
const { jobHandlers } = (await import(handlersFile)) as { jobHandlers: JobHandlers };
storeWhatIsReady();
await holdAsHand();

async function work({ slug, job: id, rollsBack, failure }: HandTask): Promise<void> {
  const found = await findWorkspace(slug);
  if (!found) return;
  const { db, info } = found;
  const [job] = await db.select().from(jobs).where(eq(jobs.id, id));
  if (!job) return;
  if (rollsBack) await recoverJob(db, info, jobHandlers, job, failure as Failure | null);
  else await runJob(db, info, jobHandlers, job);
}

process.on("message", (task) => {
  work(task as HandTask)
    .then(() => say({ word: "ended" }))
    .catch((error: unknown) => {
      log.error({ err: error }, "a hand broke off");
      process.exit(1);
    });
});
say({ word: "ready" });
