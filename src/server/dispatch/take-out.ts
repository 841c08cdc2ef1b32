import { randomUUID } from "node:crypto";
import { gunzipSync, gzipSync } from "node:zlib";
import { and, desc, eq, gt, isNotNull, lt } from "drizzle-orm";
import { z } from "zod";
import { withDependents } from "@/core/account/account";
import type { AccountRecord } from "@/core/account/records";
import { diffOf } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { basketUndo, planograms } from "@/db/schema";
import { commit } from "../account/commit";
import { redraft } from "../account/edits";
import type { BasketRow } from "../account/state";
import type { WorkspaceInfo } from "../workspaces";
import { basketFilterSchema, listedChanges, matchesFilter } from "./basket";

export const basketRemoveSchema = z.object({
  /** Keys to take out, "all", or all that a filter finds; a filter that is not understood takes nothing out. */
  keys: z.union([
    z.literal("all"),
    z.array(z.string()).min(1).max(10_000),
    z.strictObject({ ...basketFilterSchema.shape, all: z.boolean().default(false) }),
  ]),
});

/** Takings out that can still be put back. */
const KEPT = 20;

/** What was taken out, as it is kept to be put back. */
type KeptRow = [key: string, before: AccountRecord | null, after: AccountRecord | null, cause: number, who: string];

/**
 * Takes changes out of the basket again; nothing was sent, so nothing else happens. A new campaign or group takes all
 * that is new below it along, since that could not stand alone. What is on its way stays. It is kept for a while, so that it
 * can be put back as it was.
 * @param stamp the version of the account that the person saw: what others changed since is not taken out
 */
export async function removeFromBasket(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  { keys: asked }: z.output<typeof basketRemoveSchema>,
  stamp: number | null = null,
): Promise<Outcome<{ removed: number; undo: string | null }>> {
  const keys =
    typeof asked === "string" || Array.isArray(asked)
      ? asked
      : (await listedChanges(db, info, asked.all)).filter(matchesFilter(asked)).map(({ key }) => key);
  const undo = randomUUID();
  const done = await commit<{ removed: number; undo: string | null }>(db, who, stamp, async (at) => {
    const open = new Map<string, BasketRow>();
    for (const row of at.rows) {
      if (row.part <= at.sealedPart) continue;
      // Of a dispatch that was called off a record has one change, and what was decided since is another on top.
      const below = open.get(row.key);
      open.set(row.key, below ? { ...row, before: below.before } : row);
    }
    const wanted = keys === "all" ? open.keys() : withDependents(keys, Object.values(at.held.added));
    const out = [...wanted].filter((key) => open.has(key));
    if (out.length === 0) return ok({ told: null, value: { removed: 0, undo: null } });
    const words = `${plural(out.length, "change")} taken out of the basket`;
    const plans = out.length === open.size ? await waitingPlans(db, at.sealedPart) : {};
    const rows = packRows(out.map((key) => open.get(key)!));
    return ok({
      out,
      told: { what: words, place: "dispatch" },
      also: async (tx) => {
        await tx.execute({
          sql: "INSERT INTO basket_undo (id, at, size, words, rows, plans) VALUES (?, ?, ?, ?, ?, ?)",
          args: [undo, Date.now(), out.length, words, rows, JSON.stringify(plans)],
        });
      },
      value: { removed: out.length, undo },
    });
  });
  if (done.ok && done.value.undo !== null) await forgetOld(db);
  return done;
}

function packRows(rows: BasketRow[]): Buffer {
  const kept = rows.map(({ key, before, after, cause, who }): KeptRow => [key, before, after, cause.no, who]);
  return gzipSync(JSON.stringify(kept), { level: 1 });
}

/** Plans that lie in the part of the basket that is not on its way, as they are stored. */
async function waitingPlans(db: Database, sealedPart: number): Promise<Record<string, string>> {
  const rows = await db
    .select({ key: planograms.key, plan: planograms.waitingPlan })
    .from(planograms)
    .where(and(gt(planograms.waitingPart, sealedPart), isNotNull(planograms.waitingPlan)));
  return Object.fromEntries(rows.map(({ key, plan }) => [key, plan!.toString("base64")]));
}

async function forgetOld(db: Database): Promise<void> {
  const [oldest] = await db
    .select({ at: basketUndo.at })
    .from(basketUndo)
    .orderBy(desc(basketUndo.at))
    .limit(1)
    .offset(KEPT - 1);
  if (oldest) await db.delete(basketUndo).where(lt(basketUndo.at, oldest.at));
}

/**
 * Puts back what was taken out of the basket, each change with its cause and who decided it. Refused where one of its records
 * was changed since.
 */
export async function putBack(db: Database, who: string, id: string): Promise<Outcome<{ changes: number }>> {
  const [kept] = await db.select().from(basketUndo).where(eq(basketUndo.id, id));
  if (!kept) return fail("undo-unknown", "That is too long ago to be put back.");
  if (kept.undoneAt !== null) return fail("edit-undone", "That was put back already.");
  const rows = JSON.parse(gunzipSync(kept.rows).toString()) as KeptRow[];
  const from = new Map(rows.map(([key, , , cause, by]) => [key, { cause, who: by }]));
  return commit(db, who, null, (at) => {
    const diff = diffOf(rows.map(([key, before, after]) => [key, before, after] as const));
    const draft = redraft(at.planned, diff, "Nothing was put back.");
    if (!draft.ok) return draft;
    return ok({
      into: { draft: draft.value, cause: { kind: "undo", id: "" }, reason: "Put back into the basket", from },
      told: { what: `${plural(rows.length, "change")} put back into the basket`, place: "dispatch" },
      also: async (tx) => {
        for (const [key, plan] of Object.entries(kept.plans)) {
          await tx.execute({
            sql: "UPDATE planograms SET waiting_plan = ?, waiting_part = ? WHERE key = ? AND waiting_plan IS NULL",
            args: [Buffer.from(plan, "base64"), at.part, key],
          });
        }
        await tx.execute({ sql: "UPDATE basket_undo SET undone_at = ? WHERE id = ?", args: [Date.now(), id] });
      },
      value: { changes: rows.length },
    });
  });
}
