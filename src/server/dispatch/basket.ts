import { desc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { checkDiff, type Check } from "@/core/dispatch/checks";
import { budgetChange, changesInWords, describeDiff, type ChangeWords } from "@/core/dispatch/describe";
import { estimateEffect, type Effect } from "@/core/dispatch/effect";
import { invertDiff } from "@/core/kit/diff";
import { windowEnding, windowLength } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { dependents, type Structure } from "@/core/planogram/structure";
import type { Database } from "@/db/client";
import { basket, dispatchChanges, dispatches } from "@/db/schema";
import { walkStructure } from "../planogram/serving";
import { enqueueJob, type JobView } from "../jobs/jobs";
import { loadWindow, resultDays, resultsVersion } from "../results/load";
import { noteChange, type WorkspaceInfo } from "../workspaces";
import { takeableDispatch } from "./send";
import { addToBasket, asDiff, basketDiff, liveStructure, plannedStructure } from "./structure";

/** The estimate looks back this many days. */
const EFFECT_DAYS = 30;

export interface BasketView {
  /** Records that change. */
  total: number;
  /** Changes worth reading: without the nodes that only hold a tree together. */
  readable: number;
  /** They in words, a page of them. */
  changes: (ChangeWords & { source: string; reason: string })[];
  summary: string[];
  checks: Check[];
  budget: { before: number; after: number };
  effect: Effect | null;
  homes: { none: number; one: number; several: number };
  leaks: { group: string; items: number }[];
}

type Worked = Omit<BasketView, "changes"> & {
  changes: ChangeWords[];
  told: Map<string, { source: string; reason: string }>;
};

/** What was worked out for a basket, kept while neither it, the account, the catalogue nor the results change. */
const worked = new WeakMap<Structure, { stamp: string; view: Worked }>();

async function workOut(db: Database, info: WorkspaceInfo): Promise<Worked> {
  const live = await liveStructure(db);
  const after = await plannedStructure(db);
  const days = await resultDays(db);
  const { proof, serving, catalogue, revision } = await walkStructure(db, after);
  const stamp = `${revision}/${await resultsVersion(db)}`;
  const kept = worked.get(after);
  if (kept?.stamp === stamp && after !== live) return kept.view;
  const rows = await db.select().from(basket);
  const diff = asDiff(rows);
  let effect: Effect | null = null;
  if (days && rows.length > 0) {
    const window = windowEnding(days.to, EFFECT_DAYS);
    const results = await loadWindow(db, window);
    const before = (await walkStructure(db, live)).serving;
    effect = estimateEffect(before, serving, diff, catalogue.length, results.rows, windowLength(window));
  }
  const words = changesInWords(live, diff, info.currency);
  const view: Worked = {
    total: rows.length,
    readable: words.length,
    changes: words,
    told: new Map(rows.map(({ key, source, reason }) => [key, { source, reason }])),
    summary: describeDiff(live, diff, info.currency),
    checks: rows.length === 0 ? [] : checkDiff(live, diff, info.currency),
    budget: budgetChange(live, diff),
    effect,
    homes: { none: proof.none, one: proof.one, several: proof.several },
    leaks: proof.leaks.map(({ group, items }) => ({ group, items })),
  };
  worked.set(after, { stamp, view });
  return view;
}

/** The basket: what changes in words and numbers, what the checks say, and the proof of homes after sending. */
export async function viewBasket(db: Database, info: WorkspaceInfo, offset = 0, limit = 200): Promise<BasketView> {
  const { changes, told, ...view } = await workOut(db, info);
  const page = changes.slice(offset, offset + limit);
  return { ...view, changes: page.map((change) => ({ ...change, source: "", reason: "", ...told.get(change.key) })) };
}

export const basketRemoveSchema = z.object({
  /** Keys to take out, or "all". */
  keys: z.union([z.literal("all"), z.array(z.string()).min(1).max(10_000)]),
});

/**
 * Takes changes out of the basket again; nothing was sent, so nothing else happens. A new campaign or group takes all
 * that is new below it along, since that could not stand alone.
 */
export async function removeFromBasket(db: Database, { keys }: z.infer<typeof basketRemoveSchema>): Promise<number> {
  const { rowsAffected } =
    keys === "all"
      ? await db.$client.execute("DELETE FROM basket")
      : await db.$client.execute({
          sql: "DELETE FROM basket WHERE key IN (SELECT value FROM json_each(?))",
          args: [JSON.stringify([...dependents(new Set(keys), Object.values((await basketDiff(db)).added))])],
        });
  await noteChange(db, `${rowsAffected} taken out of the basket`, "", "dispatch");
  return rowsAffected;
}

/** Queues the sending of the basket. */
export async function startDispatch(db: Database): Promise<Outcome<JobView>> {
  const [row] = await db.select({ count: sql<number>`count(*)` }).from(basket);
  if (!row || row.count === 0) return fail("basket-empty", "The basket is empty: there is nothing to send.");
  return ok(await enqueueJob(db, "dispatch", { takesBack: null }));
}

/** Dispatches, newest first. */
export async function listDispatches(db: Database) {
  return db.select().from(dispatches).orderBy(desc(dispatches.id)).limit(100);
}

/** One dispatch with its changes in words. */
export async function viewDispatch(db: Database, info: WorkspaceInfo, id: number, limit = 500) {
  const [row] = await db.select().from(dispatches).where(eq(dispatches.id, id));
  if (!row) return fail("dispatch-unknown", `There is no dispatch ${id}.`);
  const changes = await db.select().from(dispatchChanges).where(eq(dispatchChanges.dispatch, id)).limit(limit);
  const diff = asDiff(changes);
  return ok({ ...row, changes: changesInWords(await liveStructure(db), diff, info.currency) });
}

/**
 * Takes a dispatch back: its inverse is sent as a dispatch of its own. Refused when the basket holds changes, or when
 * a later dispatch touched the same records, since that would undo more than was asked.
 */
export async function takeBackDispatch(db: Database, id: number): Promise<Outcome<JobView>> {
  const found = await takeableDispatch(db, id);
  if (!found) return fail("dispatch-not-takeable", "That dispatch is not there, or was taken back already.");
  const [held] = await db.select({ count: sql<number>`count(*)` }).from(basket);
  if (held && held.count > 0) {
    return fail(
      "basket-in-use",
      "The basket holds changes that were not sent.",
      "Send them or clear the basket first.",
    );
  }
  const { rows: later } = await db.$client.execute({
    sql: `SELECT count(*), min(l.dispatch) FROM dispatch_changes l JOIN dispatches d ON d.id = l.dispatch
          WHERE l.dispatch > ?1 AND d.taken_back_by IS NULL AND d.takes_back IS NULL
            AND l.key IN (SELECT key FROM dispatch_changes WHERE dispatch = ?1)`,
    args: [id],
  });
  if (Number(later[0]?.[0] ?? 0) > 0) {
    return fail(
      "dispatch-overtaken",
      `Dispatch ${Number(later[0]?.[1])} changed some of the same records later.`,
      "Take that one back first.",
    );
  }
  const changes = await db.select().from(dispatchChanges).where(eq(dispatchChanges.dispatch, id));
  await addToBasket(db, invertDiff(asDiff(changes)), "take back", `Takes back dispatch ${id}`);
  return ok(await enqueueJob(db, "dispatch", { takesBack: id }));
}
