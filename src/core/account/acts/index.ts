import { z } from "zod";
import { plural } from "../../kit/format";
import { ok, type Outcome } from "../../kit/outcome";
import type { Account } from "../account";
import type { Act, ActLevel, FactsOf } from "../act";
import { Draft } from "../draft";
import { adLines } from "./ad-lines";
import { amounts } from "./amounts";
import { assets } from "./assets";
import { bid } from "./bid";
import { budget } from "./budget";
import { exclude } from "./exclude";
import { flex } from "./flex";
import { folder } from "./folder";
import { hourFactor } from "./hour-factor";
import { include } from "./include";
import { itemBid } from "./item-bid";
import { keepOut } from "./keep-out";
import { keptOut } from "./kept-out";
import { moveGroups } from "./move-groups";
import { moveTarget } from "./move-target";
import { namePlace } from "./name-place";
import { pool } from "./pool";
import { rename } from "./rename";
import { renameValue } from "./rename-value";
import { serveOrder } from "./serve-order";
import { settings } from "./settings";
import { slotFactor } from "./slot-factor";
import { solo } from "./solo";
import { status } from "./status";
import { worthBid } from "./worth-bid";

/** Every act by the name under which forms, scripts and moves ask for it, in the order in which buttons show them. */
export const ACTS = {
  status,
  budget,
  bid,
  pool,
  "serve-order": serveOrder,
  flex,
  "slot-factor": slotFactor,
  "hour-factor": hourFactor,
  settings,
  folder,
  rename,
  "move-groups": moveGroups,
  "move-target": moveTarget,
  "item-bid": itemBid,
  "worth-bid": worthBid,
  exclude,
  include,
  solo,
  "kept-out": keptOut,
  "keep-out": keepOut,
  "name-place": namePlace,
  assets,
  "ad-lines": adLines,
  amounts,
  "rename-value": renameValue,
} as const;

export type ActName = keyof typeof ACTS;

/** An edit of items without the items, which a filter may name. */
export const itemActSchema = z.discriminatedUnion("action", [
  itemBid.schema.omit({ items: true }),
  worthBid.schema.omit({ items: true }),
  exclude.schema.omit({ items: true }),
  include.schema.omit({ items: true }),
  solo.schema.omit({ items: true }),
]);

const oneSchema = z.discriminatedUnion("action", [
  status.schema,
  budget.schema,
  bid.schema,
  pool.schema,
  serveOrder.schema,
  flex.schema,
  slotFactor.schema,
  hourFactor.schema,
  settings.schema,
  folder.schema,
  rename.schema,
  moveGroups.schema,
  moveTarget.schema,
  itemBid.schema,
  worthBid.schema,
  exclude.schema,
  include.schema,
  solo.schema,
  keptOut.schema,
  keepOut.schema,
  namePlace.schema,
  assets.schema,
  adLines.schema,
  amounts.schema,
  renameValue.schema,
]);
type One = z.output<typeof oneSchema>;

/** Acts in one edit at most. */
const MOST_ACTS = 10_000;

/** Different acts as one edit, made one after the other: all of them or none. */
const severalSchema = z.object({
  action: z.literal("several"),
  acts: z
    .array(
      z.object({
        act: oneSchema,
        /** Why; left out, what the act does is said. */
        reason: z.string().trim().min(1).max(300).optional(),
      }),
    )
    .min(1, "No act is given.")
    .max(MOST_ACTS),
});

/** What a person, a script or a move wants changed in an account. Money in mills. */
export const editSchema = z.discriminatedUnion("action", [...oneSchema.options, severalSchema]);
export type Edit = z.output<typeof editSchema>;

/** Each act only ever sees what its own schema let through. */
function actOf({ action }: One): Act {
  return ACTS[action] as unknown as Act;
}

function partsOf(edit: Edit): { act: One; reason?: string | undefined }[] {
  return edit.action === "several" ? edit.acts : [{ act: edit }];
}

/** Names of acts that fit a level, in the order of their buttons. */
export function actsFor(level: ActLevel): ActName[] {
  return (Object.keys(ACTS) as ActName[]).filter((name) => ACTS[name].fits.includes(level));
}

/** Whether an edit can change who serves an item first, or what may be spent a day. */
export function canAffect(edit: Pick<Edit, "action">, what: Act["affects"][number]): boolean {
  return edit.action === "several" || ACTS[edit.action].affects.includes(what);
}

/** Whether an edit asks what clicks on items are worth, which takes evidence. */
export function asksWorth(edit: Edit): boolean {
  return partsOf(edit).some(({ act }) => actOf(act).asks?.includes("worth"));
}

/** An edit in words, as it is told in the basket. */
export function editInWords(edit: Edit, currency: string): string {
  if (edit.action === "several") return `${plural(edit.acts.length, "change")} made together`;
  return actOf(edit).words(edit, currency);
}

/**
 * The account once what an edit pauses is paused: who serves an item is asked of it, so that a bid made together with a pause
 * goes where the item is served then.
 */
export function afterPauses(account: Account, edit: Edit): Account {
  const pauses = partsOf(edit).flatMap(({ act }) => (act.action === "status" && act.status !== "on" ? [act] : []));
  if (edit.action !== "several" || pauses.length === 0) return account;
  const draft = new Draft(account);
  // One that can't be made is told when the edit is made.
  for (const act of pauses) status.apply(draft, act, () => null);
  return draft.after();
}

/**
 * Makes what is wanted into changes of records. The account stays as it is; the draft knows the difference, and why each
 * record changes where an act of several has a reason of its own.
 */
export function makeEdit(account: Account, edit: Edit, factsOf: FactsOf, currency: string): Outcome<Draft> {
  const draft = new Draft(account);
  const checked = new Map<NonNullable<Act["holds"]>, Set<string>>();
  for (const { act: asked, reason } of partsOf(edit)) {
    const act = actOf(asked);
    const why = edit.action === "several" ? (reason ?? act.words(asked, currency)) : undefined;
    const made = draft.because(why, () => act.apply(draft, asked, factsOf));
    if (!made.ok) return made;
    if (!act.holds || !("keys" in asked)) continue;
    const keys = checked.get(act.holds) ?? new Set<string>();
    checked.set(act.holds, keys);
    for (const key of asked.keys) keys.add(key);
  }
  for (const [holds, keys] of checked) {
    const held = holds(draft, keys);
    if (!held.ok) return held;
  }
  return ok(draft);
}
