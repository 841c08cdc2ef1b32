import { randomUUID } from "node:crypto";
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import type { Structure } from "@/core/account/account";
import type { AccountRecord } from "@/core/account/records";
import { diffRecords, diffSize, type Diff } from "@/core/kit/diff";
import { ok } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { commit } from "./account/commit";
import { redraft } from "./account/edits";
import { liveAccount, plannedAccount } from "./account/state";
import { jobHandlers } from "./runner/handlers";
import { enqueueJob, findJob, type JobKind, type JobView } from "./jobs/jobs";
import { claimJob, runJob } from "./jobs/work";
import { dataDir } from "./settings";
import { createWorkspace, findWorkspace, type WorkspaceInfo } from "./workspaces";

/** For tests: a new workspace in the test's own data folder. */
export async function testWorkspace(goal = 3): Promise<{ db: Database; info: WorkspaceInfo }> {
  const slug = `t-${randomUUID().slice(0, 12)}`;
  const made = await createWorkspace({
    slug,
    name: "Test",
    currency: "EUR",
    timeZone: "Europe/Berlin",
    goal,
    market: "middling",
  });
  if (!made.ok) throw new Error(made.error.message);
  // The market's world is seeded by the workspace's own name; in tests all are alike.
  const { db } = (await findWorkspace(slug))!;
  await db.$client.execute("UPDATE workspace SET market_seed = 'test'");
  return (await findWorkspace(slug))!;
}

/** For tests: a feed file with this content. */
export function feedFile(content: string | Uint8Array): string {
  const folder = path.join(dataDir(), "feeds");
  mkdirSync(folder, { recursive: true });
  const file = path.join(folder, randomUUID());
  writeFileSync(file, content);
  return file;
}

/** For tests: runs a job to its end as the runner would, and no other that waits, such as a recompute of shelves. */
export async function runToEnd(db: Database, info: WorkspaceInfo, kind: JobKind, input: unknown): Promise<JobView> {
  const { id } = await enqueueJob(db, kind, input);
  const job = await claimJob(db, "test", { id });
  await runJob(db, info, jobHandlers, job!);
  return (await findJob(db, id))!;
}

/** For tests: runs the jobs that wait, oldest first, until none does. */
export async function runWaiting(db: Database, info: WorkspaceInfo): Promise<void> {
  for (let job = await claimJob(db, "test"); job; job = await claimJob(db, "test")) {
    await runJob(db, info, jobHandlers, job);
  }
}

/** For tests: reads a feed in with the proposed or saved mapping. */
export function importFeed(
  workspace: { db: Database; info: WorkspaceInfo },
  content: string | Uint8Array,
  more: object = {},
): Promise<JobView> {
  const input = {
    feed: "main",
    file: feedFile(content),
    fileName: "feed.csv",
    mapping: null,
    acceptLoss: false,
    ...more,
  };
  return runToEnd(workspace.db, workspace.info, "feed-import", input);
}

/** For tests: puts a change into the basket as it is. */
export async function addToBasket(db: Database, diff: Diff<AccountRecord>, reason = "test"): Promise<number> {
  const done = await commit(db, "tester", null, ({ planned }) => {
    const draft = redraft(planned, diff, "Nothing was put in.");
    if (!draft.ok) return draft;
    const into = { draft: draft.value, cause: { kind: "records" as const, id: "test" }, reason };
    return ok({ into, told: null, value: diffSize(diff) });
  });
  if (!done.ok) throw new Error(done.error.message);
  return done.value;
}

/** For tests: sends an account to a workspace that has none, and runs days of the test market on it. */
export async function runAccount(
  { db, info }: { db: Database; info: WorkspaceInfo },
  account: Structure,
  market: { from: number; through: number; seed: string },
): Promise<void> {
  await addToBasket(db, diffRecords({}, account));
  for (const [kind, input] of [
    ["dispatch", { takesBack: null }],
    ["market-run", market],
  ] as const) {
    const { error } = await runToEnd(db, info, kind, input);
    if (error) throw new Error(error.message);
  }
}

/** For tests: the account as sent, by key. */
export async function liveStructure(db: Database): Promise<Structure> {
  return (await liveAccount(db)).toStructure();
}

/** For tests: the account with the basket, by key. */
export async function plannedStructure(db: Database): Promise<Structure> {
  return (await plannedAccount(db)).toStructure();
}
