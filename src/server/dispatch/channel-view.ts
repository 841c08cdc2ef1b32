import { profileLoses, type ExportProfile } from "@/core/dispatch/export-profile";
import { notCarried, type NotCarried } from "@/core/dispatch/carries";
import type { Carries } from "@/core/dispatch/contract";
import { STRUCTURE_HEADINGS, structureRows } from "@/core/dispatch/export";
import { fail, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { dispatchChanges } from "@/db/schema";
import { eq } from "drizzle-orm";
import { Account } from "@/core/account/account";
import { invertDiff } from "@/core/kit/diff";
import { asDiff, liveAccount, readAccount } from "../account/state";
import { carriedBy } from "../channel/carried";
import { channelChoice, type ChannelChoice } from "../channel/choice";
import { csv, type FileAnswer } from "../files/answers";
import { remember } from "../read/memo";
import type { WorkspaceInfo } from "../workspaces";

/** The channel that a workspace sends to, and what it can carry. */
export interface ChannelView extends ChannelChoice {
  name: string;
  carries: Carries;
}

export async function viewChannel(db: Database): Promise<ChannelView> {
  return { ...(await channelChoice(db)), ...(await carriedBy(db)) };
}

/** What of the basket the channel can't carry, record by record. */
export async function basketNotCarried(db: Database, info: WorkspaceInfo): Promise<NotCarried[]> {
  const at = await readAccount(db);
  const { carries } = await carriedBy(db);
  const stamp = [at.version, at.sealedPart, info.currency, JSON.stringify(carries)];
  return remember(db, "not carried", stamp, () => notCarried(at.live, at.basket, carries, info.currency));
}

/** What of the account with the basket on it an export profile has no column for, record by record. */
export async function profileLeavesOut(db: Database, profile: ExportProfile): Promise<NotCarried[]> {
  const { live, planned } = await readAccount(db);
  return profileLoses(planned, live, profile);
}

/**
 * The changes of a dispatch as a file that a person carries to the channel: what is new and what changed with its values after
 * it, and what goes with those before it.
 */
export async function dispatchFile(db: Database, dispatch: number): Promise<Outcome<never> | FileAnswer> {
  const rows = await db.select().from(dispatchChanges).where(eq(dispatchChanges.dispatch, dispatch));
  if (rows.length === 0) return fail("dispatch-unknown", `There is no dispatch ${dispatch} with changes.`);
  const diff = asDiff(rows);
  const live = await liveAccount(db);
  // As it was with that dispatch, whatever came after it.
  const after = Account.of([...live.records(), ...rows.flatMap((row) => row.after ?? [])]);
  const before = after.with(invertDiff(diff));
  const lines = (account: Account, keys: ReadonlySet<string>) =>
    structureRows(account).filter((row) => keys.has(String(row.at(-1))));
  const keysOf = (records: object) => new Set(Object.keys(records));
  return csv(
    `dispatch-${dispatch}.csv`,
    ["change", ...STRUCTURE_HEADINGS],
    [
      ...lines(after, keysOf(diff.added)).map((row) => ["new", ...row]),
      ...lines(after, keysOf(diff.changed)).map((row) => ["changed", ...row]),
      ...lines(before, keysOf(diff.removed)).map((row) => ["removed", ...row]),
    ],
    { delimiter: ",", decimal: "." },
  );
}
