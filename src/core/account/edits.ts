import { z } from "zod";
import { formatMoney } from "../kit/money";
import { fail, ok, type Outcome } from "../kit/outcome";
import type { Account } from "./account";
import { CHANNEL_LIMITS } from "./channel-limits";
import { Draft } from "./draft";
import { liftItem } from "./lift-item";
import { kindOf, type AccountRecord } from "./records";
import { renameValue } from "./rename-value";
import { amountSchema, exclusionReasonSchema, reviewOnSchema } from "./records/basics";
import { exclusionKey } from "./records/exclusion";

const keys = z
  .array(z.string())
  .min(1, "Nothing is chosen.")
  .max(10_000, "At most 10,000 can be changed at once this way; more go as a job: account/edits/many.");

/** What can be done to items, however many. */
const itemBid = z.object({ action: z.literal("item-bid"), bid: amountSchema });
const itemBidChange = z.object({ action: z.literal("item-bid-change"), percent: z.number().min(-90).max(400) });
const exclude = z.object({
  action: z.literal("exclude"),
  reason: exclusionReasonSchema,
  reviewOn: reviewOnSchema.default(null),
});
const include = z.object({ action: z.literal("include") });

/** An edit of items without the items. */
export const itemIntentSchema = z.discriminatedUnion("action", [itemBid, itemBidChange, exclude, include]);

/** What a person wants changed in an account. Money in mills. */
export const intentSchema = z.discriminatedUnion("action", [
  z.object({ action: z.literal("budget"), keys, dailyBudget: amountSchema }),
  z.object({ action: z.literal("bid"), keys, bid: amountSchema }),
  z.object({ action: z.literal("status"), keys, status: z.enum(["on", "paused", "closed"]) }),
  z.object({ action: z.literal("serve-order"), keys, serveOrder: z.int().min(1).max(9) }),
  itemBid.extend({ items: keys }),
  itemBidChange.extend({ items: keys }),
  exclude.extend({ items: keys }),
  include.extend({ items: keys }),
  z.object({
    action: z.literal("rename-value"),
    /** The field that groups are split by, and the value before and now. */
    by: z.string().min(1).max(200),
    from: z.string().min(1).max(500),
    to: z.string().min(1).max(500),
  }),
]);

export type Intent = z.infer<typeof intentSchema>;

/** The group that serves an item first, and what it bids; null for an item without a home. */
export type HomeOf = (item: string) => { group: string; bid: number } | null;

/** Makes what a person wants into changes of records. The account stays as it is; the draft knows the difference. */
export function edit(account: Account, intent: Intent, homeOf: HomeOf): Outcome<Draft> {
  const draft = new Draft(account);
  switch (intent.action) {
    case "budget":
      return each(draft, intent.keys, (record) =>
        "dailyBudget" in record ? { ...record, dailyBudget: intent.dailyBudget } : null,
      );
    case "bid":
      return each(draft, intent.keys, (record) =>
        "bid" in record && !(kindOf(record.type).isScaffold?.(record) && "by" in record && record.by !== null)
          ? { ...record, bid: intent.bid }
          : null,
      );
    case "status":
      return each(draft, intent.keys, (record) => withStatus(record, intent.status));
    case "serve-order":
      return each(draft, intent.keys, (record) =>
        "serveOrder" in record ? { ...record, serveOrder: intent.serveOrder } : null,
      );
    case "exclude":
      for (const item of intent.items) {
        const key = exclusionKey(item, null);
        const { reason, reviewOn } = intent;
        draft.put({ type: "exclusion", key, campaign: null, item, reason, reviewOn });
      }
      return ok(draft);
    case "include":
      for (const item of intent.items) draft.remove(exclusionKey(item, null));
      return ok(draft);
    case "rename-value":
      return renameValue(draft, intent.by, intent.from, intent.to);
    case "item-bid":
      return bidItems(draft, intent.items, homeOf, () => intent.bid);
    case "item-bid-change":
      return bidItems(draft, intent.items, homeOf, (bid) =>
        Math.max(CHANNEL_LIMITS.lowestBid, Math.round(bid * (1 + intent.percent / 100))),
      );
  }
}

/** An intent in words, as it is told in the basket. */
export function intentInWords(intent: Intent, currency: string): string {
  switch (intent.action) {
    case "budget":
      return `Daily budget set to ${formatMoney(intent.dailyBudget, currency)}`;
    case "bid":
    case "item-bid":
      return `Bid set to ${formatMoney(intent.bid, currency)}`;
    case "item-bid-change":
      return `Bid changed by ${intent.percent > 0 ? "+" : ""}${intent.percent} %`;
    case "status":
      return intent.status === "on" ? "Switched on" : intent.status === "paused" ? "Paused" : "Closed";
    case "serve-order":
      return `Serve order set to ${intent.serveOrder}`;
    case "exclude":
      return `Excluded: ${intent.reason}`;
    case "include":
      return "No longer excluded";
    case "rename-value":
      return `“${intent.from}” is now called “${intent.to}”`;
  }
}

function each(draft: Draft, keys: string[], change: (record: AccountRecord) => AccountRecord | null): Outcome<Draft> {
  for (const key of keys) {
    const record = draft.get(key);
    if (!record) return fail("record-gone", "What you changed is no longer in the account.", "Reload and try again.");
    const changed = change(record);
    if (!changed) return fail("edit-unfit", `That can't be set on a ${kindOf(record.type).label[0]}.`);
    draft.put(changed);
  }
  return ok(draft);
}

/** Campaigns, ad groups and targets are paused; product groups are closed. */
function withStatus(record: AccountRecord, status: "on" | "paused" | "closed"): AccountRecord | null {
  if (!("status" in record)) return null;
  if ("role" in record) return { ...record, status: status === "on" ? "on" : "closed" };
  return { ...record, status: status === "on" ? "on" : "paused" };
}

/** Gives each item a bid of its own in the home that serves it first. */
function bidItems(draft: Draft, items: string[], homeOf: HomeOf, bidOf: (current: number) => number): Outcome<Draft> {
  let done = 0;
  for (const item of items) {
    const home = homeOf(item);
    if (!home) continue;
    const lifted = liftItem(draft, home.group, item, bidOf(home.bid));
    if (!lifted.ok) return lifted;
    done++;
  }
  if (done > 0) return ok(draft);
  return fail(
    "item-homeless",
    "None of these items is served by any group, so there is no bid to set.",
    "Plan them first.",
  );
}
