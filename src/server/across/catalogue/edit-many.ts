import { gunzipSync, gzipSync } from "node:zlib";
import { desc, eq, lt } from "drizzle-orm";
import { z } from "zod";
import { editInWords, itemActSchema, makeEdit, type Edit } from "@/core/account/acts";
import type { AccountRecord } from "@/core/account/records";
import { diffSize, type Diff } from "@/core/kit/diff";
import { FailureError, fail, giveUp, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { bulkEdits } from "@/db/schema";
import { commit } from "../../account/commit";
import { takeBackEdit } from "../../account/edits";
import { itemFacts } from "../../account/serving";
import { clickWorths } from "../../goals/click-worths";
import { enqueueJob, type JobView } from "../../jobs/jobs";
import type { JobContext, JobHandler } from "../../jobs/work";
import { windowOfDays, windowSchema } from "../../results/window";
import { findItemIds, itemsQuerySchema } from "./items";

/** The items that an edit is for: named one by one, or all that the item table finds. */
export const editManySchema = z.object({
  intent: itemActSchema,
  items: z.union([
    z.array(z.string().max(500)).min(1).max(500_000),
    z.object({ query: itemsQuerySchema, days: windowSchema }),
  ]),
  /** The account's version that the person saw; null where what is asked does not rest on what somebody saw. */
  seen: z.int().min(0).nullable().default(null),
});

export type EditMany = z.output<typeof editManySchema>;

/** What an edit of many items came to. */
export interface EditedMany {
  items: number;
  changes: number;
  /** Items left out, since nothing serves them. */
  leftOut?: number;
  words: string;
  /** By which it can be taken back; null where nothing changed. */
  edit: string | null;
}

/** Edits that can still be taken back. */
const KEPT_EDITS = 20;

/** Queues an edit of many items. */
export async function startEditMany(db: Database, input: EditMany): Promise<Outcome<JobView>> {
  return ok(await enqueueJob(db, "account-edit", input));
}

/** The same edit with its items. */
function withItems(intent: EditMany["intent"], items: string[]): Edit {
  return { ...intent, items } as Edit;
}

async function run(context: JobContext, raw: unknown): Promise<EditedMany> {
  const input = editManySchema.parse(raw);
  const { db, info, who, id } = context;
  const [done] = await db.select().from(bulkEdits).where(eq(bulkEdits.id, id));
  if (done) return { items: done.items, changes: done.changes, words: done.words, edit: id };
  const items = Array.isArray(input.items)
    ? input.items
    : await findItemIds(db, info, input.items.query, await windowOfDays(db, input.items.days));
  if (items.length === 0) giveUp("items-none", "No item is found by these filters any more. Nothing was changed.");
  await context.progress(0, items.length, "items");
  const intent = withItems(input.intent, items);
  const words = editInWords(intent, info.currency);
  const outcome = await commit<EditedMany>(db, who, input.seen, async ({ planned }) => {
    const edited = makeEdit(planned, intent, await itemFacts(db, planned, intent, clickWorths), info.currency);
    if (!edited.ok) return edited;
    const diff = edited.value.diff();
    const changes = diffSize(diff);
    const into = { draft: edited.value, cause: { kind: "act" as const, id: intent.action }, reason: words };
    const told = { items: items.length, changes, leftOut: edited.value.leftOut.size, words };
    if (changes === 0) return ok({ told: null, value: { ...told, edit: null } });
    return ok({
      into,
      told: null,
      // In the same transaction: an edit that is in the basket can always be taken back.
      also: async (tx) => {
        await tx.execute({
          sql: "INSERT INTO bulk_edits (id, at, items, changes, words, diff) VALUES (?, ?, ?, ?, ?, ?)",
          args: [id, Date.now(), items.length, changes, words, gzipSync(JSON.stringify(diff), { level: 1 })],
        });
      },
      value: { ...told, edit: id },
    });
  });
  if (!outcome.ok) throw new FailureError(outcome.error);
  await context.progress(items.length, items.length, "items");
  await forgetOldEdits(db);
  return outcome.value;
}

async function forgetOldEdits(db: Database): Promise<void> {
  const [oldest] = await db
    .select({ at: bulkEdits.at })
    .from(bulkEdits)
    .orderBy(desc(bulkEdits.at))
    .limit(1)
    .offset(KEPT_EDITS - 1);
  if (oldest) await db.delete(bulkEdits).where(lt(bulkEdits.at, oldest.at));
}

/** What is in the basket is there as a whole or not at all, so there is nothing to undo. */
async function rollBack(): Promise<void> {}

export const accountEdit: JobHandler = { run, rollBack };

/** Queues the taking back of an edit of many items. */
export async function startUndoMany(db: Database, id: string): Promise<Outcome<JobView>> {
  const [found] = await db.select({ undone: bulkEdits.undoneAt }).from(bulkEdits).where(eq(bulkEdits.id, id));
  if (!found) return fail("edit-unknown", "That edit is too old to be taken back as a whole.");
  if (found.undone !== null) return fail("edit-undone", "That edit was taken back already.");
  return ok(await enqueueJob(db, "account-edit-undo", { edit: id }));
}

export const accountEditUndo: JobHandler = {
  async run({ db, who }, raw) {
    const { edit: id } = z.object({ edit: z.string() }).parse(raw);
    const [found] = await db.select().from(bulkEdits).where(eq(bulkEdits.id, id));
    if (!found) giveUp("edit-unknown", "That edit is too old to be taken back as a whole.");
    if (found.undoneAt !== null) return { changes: found.changes };
    const diff = JSON.parse(gunzipSync(found.diff).toString()) as Diff<AccountRecord>;
    const outcome = await takeBackEdit(db, who, diff);
    if (!outcome.ok) throw new FailureError(outcome.error);
    await db.update(bulkEdits).set({ undoneAt: Date.now() }).where(eq(bulkEdits.id, id));
    return outcome.value;
  },
  rollBack,
};
