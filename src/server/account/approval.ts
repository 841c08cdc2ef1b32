import { count, gt } from "drizzle-orm";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { basket, workspace } from "@/db/schema";
import { readAccount } from "./state";
import { identityOf, partsOf } from "@/core/kit/who";
import { noteChange } from "../workspaces";

/** Whether the basket may be sent as it is, where somebody has to approve it first. */
export interface Approval {
  /** House rule of the workspace. */
  isNeeded: boolean;
  /** Who approved the basket as it is now, and when; null where nobody did, or it was changed since. */
  by: string | null;
  at: number | null;
  /** The account's version that was looked at, which is what is approved. */
  version: number;
}

/** Whether the basket is approved. Any change of it voids what was approved before. */
export async function approvalOf(db: Database): Promise<Approval> {
  const { version } = await readAccount(db);
  const [row] = await db.select().from(workspace);
  const isGiven = row?.approvedVersion === version;
  return {
    isNeeded: row?.approval ?? false,
    by: isGiven ? row.approvedBy : null,
    at: isGiven ? row.approvedAt : null,
    version,
  };
}

/**
 * Approves the basket as it was looked at. Where people sign in, nobody approves what they decided themselves.
 * @param version the account's version that the person saw
 * @param isSignedIn whether it is known who people are
 */
export async function approveBasket(
  db: Database,
  who: string,
  version: number,
  isSignedIn: boolean,
): Promise<Outcome<Approval>> {
  const at = await readAccount(db);
  if (at.version !== version) {
    return fail(
      "basket-moved",
      "The basket was changed since you looked at it. Nothing was approved.",
      "Look at it again, then approve.",
    );
  }
  const mine = identityOf(who);
  const decided = await db
    .select({ who: basket.who, changes: count() })
    .from(basket)
    .where(gt(basket.part, at.sealedPart))
    .groupBy(basket.who);
  // A script is its maker's hand. What was decided before addresses stood there has the name alone.
  const isMine = ({ who: by }: { who: string }) => isSignedIn && (identityOf(by) === mine || by === partsOf(who).name);
  const own = decided.filter(isMine).reduce((all, { changes }) => all + changes, 0);
  if (own > 0) {
    return fail(
      "approval-own",
      `${plural(own, "change")} of this basket ${own === 1 ? "is" : "are"} your own.`,
      "Somebody else who may send approves it.",
    );
  }
  await db.update(workspace).set({ approvedVersion: version, approvedBy: who, approvedAt: Date.now() });
  await noteChange(db, `Basket approved: ${plural(at.rows.length, "change")}`, "", "dispatch");
  return ok(await approvalOf(db));
}
