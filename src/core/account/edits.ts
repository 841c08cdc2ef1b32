import { fail, ok, type Outcome } from "../kit/outcome";
import type { Account } from "./account";
import { setCampaigns } from "./campaign-settings";
import { operate } from "./amount-op";
import { CHANNEL_LIMITS } from "./channel-limits";
import { Draft } from "./draft";
import { highestBids, mostOfBid } from "./effective-bid";
import type { Intent } from "./intents";
import { liftItem } from "./lift-item";
import { moveGroups } from "./move-groups";
import { moveTarget } from "./move-target";
import { kindOf, type AccountRecord } from "./records";
import { assetsKey } from "./records/assets";
import type { Campaign } from "./records/campaign";
import { exclusionKey } from "./records/exclusion";
import { renameValue } from "./rename-value";
import { makeSolo, makeSolos } from "./solo";

/** What an edit may ask about an item. */
export interface ItemFacts {
  /** The group that serves it first, and what that bids; null for an item without a home. */
  home: { group: string; bid: number } | null;
  /** The family it belongs to, or "". */
  family: string;
  title: string;
}

/** Tells about an item by its ID; null for one that is not in the catalogue. */
export type FactsOf = (item: string) => ItemFacts | null;

/** Makes what a person wants into changes of records. The account stays as it is; the draft knows the difference. */
export function edit(account: Account, intent: Intent, factsOf: FactsOf): Outcome<Draft> {
  const draft = new Draft(account);
  switch (intent.action) {
    case "budget":
      return each(draft, intent.keys, (record) =>
        "dailyBudget" in record ? { ...record, dailyBudget: intent.dailyBudget } : null,
      );
    case "bid":
      return each(draft, intent.keys, (record) => withBid(record, () => intent.bid));
    case "amount":
      return each(draft, intent.keys, (record) => {
        if (intent.field === "bid") {
          return withBid(record, (bid) =>
            operate(intent.op, bid ?? groupBid(draft, record) ?? 0, CHANNEL_LIMITS.lowestBid),
          );
        }
        if (!("dailyBudget" in record)) return null;
        const least = CHANNEL_LIMITS.lowestDailyBudget;
        return { ...record, dailyBudget: operate(intent.op, record.dailyBudget, least) };
      });
    case "status":
      return each(draft, intent.keys, (record) => withStatus(record, intent));
    case "rename":
      return each(draft, intent.keys, (record) =>
        record.type === "campaign" || record.type === "adGroup" ? { ...record, name: intent.name } : null,
      );
    case "folder":
      return eachCampaign(draft, intent.keys, ({ folder: _, ...campaign }) =>
        intent.folder === null ? campaign : { ...campaign, folder: intent.folder },
      );
    case "serve-order":
      return each(draft, intent.keys, (record) =>
        "serveOrder" in record ? { ...record, serveOrder: intent.serveOrder } : null,
      );
    case "slot-factor":
      return withinLimit(
        eachCampaign(draft, intent.keys, (campaign) => withSlot(campaign, intent.slot, intent.factor)),
        intent.keys,
      );
    case "hour-factor":
      return withinLimit(
        eachCampaign(draft, intent.keys, (campaign) => withHours(campaign, intent.hours, intent.factor)),
        intent.keys,
      );
    case "pool":
      if (intent.pool !== null && !draft.find("pool", intent.pool)) {
        return fail("pool-gone", "That budget pool is not there any more.", "Choose another one.");
      }
      return eachCampaign(draft, intent.keys, (campaign) => ({ ...campaign, pool: intent.pool }));
    case "flex":
      return eachCampaign(draft, intent.keys, (campaign) => ({ ...campaign, flex: intent.flex }));
    case "settings":
      return setCampaigns(draft, intent.keys, intent.settings, intent.namesFollow);
    case "move-groups":
      return moveGroups(draft, intent);
    case "move-target":
      return moveTarget(draft, intent);
    case "assets":
      return setAssets(draft, intent);
    case "kept-out":
      return each(draft, intent.keys, (record) => {
        const { reason, reviewOn } = intent;
        return record.type === "exclusion" || record.type === "negative" ? { ...record, reason, reviewOn } : null;
      });
    case "exclude":
      if (intent.campaign !== null && !draft.find("campaign", intent.campaign)) {
        return fail("exclusion-scope-gone", "The campaign they should be kept out of is not there any more.");
      }
      for (const item of intent.items) {
        const { campaign, reason, reviewOn } = intent;
        draft.put({ type: "exclusion", key: exclusionKey(item, campaign), campaign, item, reason, reviewOn });
      }
      return ok(draft);
    case "include":
      for (const item of intent.items) draft.remove(exclusionKey(item, null));
      return ok(draft);
    case "solo":
      return intent.each
        ? makeSolos(draft, intent, factsOf)
        : makeSolo(draft, intent, (item) => factsOf(item)?.family ?? "");
    case "rename-value":
      return renameValue(draft, intent.by, intent.from, intent.to);
    case "item-bid":
      return bidItems(draft, intent.items, factsOf, () => intent.bid);
    case "item-bid-change":
      return bidItems(draft, intent.items, factsOf, (bid) =>
        operate({ how: "percent", percent: intent.percent }, bid, CHANNEL_LIMITS.lowestBid),
      );
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

function eachCampaign(draft: Draft, keys: string[], change: (campaign: Campaign) => Campaign): Outcome<Draft> {
  return each(draft, keys, (record) => (record.type === "campaign" ? change(record) : null));
}

/** Refuses factors under which a bid would be more than the channel takes. */
function withinLimit(edited: Outcome<Draft>, keys: string[]): Outcome<Draft> {
  if (!edited.ok) return edited;
  const draft = edited.value;
  const bids = highestBids(draft.account, new Set(keys));
  for (const key of keys) {
    const campaign = draft.find("campaign", key);
    if (campaign && mostOfBid(bids.get(key) ?? 0, campaign) > CHANNEL_LIMITS.highestBid) {
      return fail(
        "factor-high",
        `With its other factors this takes a bid of “${campaign.name}” above what the channel takes a click.`,
        "Take a smaller factor, or lower that bid first.",
      );
    }
  }
  return edited;
}

/** A record with another bid; null where it has none of its own. */
function withBid(record: AccountRecord, bidOf: (bid: number | null) => number): AccountRecord | null {
  if (!("bid" in record)) return null;
  // A split bids nothing; what it divides does.
  if (kindOf(record.type).isScaffold?.(record) && "by" in record && record.by !== null) return null;
  return { ...record, bid: bidOf(record.bid) };
}

/** The bid of the ad group that a record hangs in, which holds where it has none. */
function groupBid(draft: Draft, record: AccountRecord): number | null {
  return "adGroup" in record ? (draft.find("adGroup", record.adGroup)?.bid ?? null) : null;
}

/** Campaigns, ad groups and targets are paused; product groups are closed. */
function withStatus(
  record: AccountRecord,
  { status, pausedFor, reviewOn }: Extract<Intent, { action: "status" }>,
): AccountRecord | null {
  if (!("status" in record)) return null;
  if ("role" in record) return { ...record, status: status === "on" ? "on" : "closed" };
  if (record.type !== "campaign" && record.type !== "adGroup") {
    return { ...record, status: status === "on" ? "on" : "paused" };
  }
  // What runs again is paused for no reason any more.
  const { pausedFor: _, reviewOn: __, ...plain } = record;
  if (status === "on") return { ...plain, status: "on" };
  return { ...plain, status: "paused", ...(pausedFor && { pausedFor }), ...(reviewOn && { reviewOn }) };
}

/** A factor of 1 is none. */
function withSlot(campaign: Campaign, slot: keyof NonNullable<Campaign["slots"]>, factor: number): Campaign {
  const { slots = {}, ...plain } = campaign;
  const { [slot]: _, ...others } = slots;
  const next = factor === 1 ? others : { ...others, [slot]: factor };
  return Object.keys(next).length > 0 ? { ...plain, slots: next } : plain;
}

function withHours(campaign: Campaign, hours: number[], factor: number): Campaign {
  const { hours: before, ...plain } = campaign;
  const next = (before ?? Array.from({ length: 24 }, () => 1)).map((old, hour) =>
    hours.includes(hour) ? factor : old,
  );
  return next.every((one) => one === 1) ? plain : { ...plain, hours: next };
}

/** Gives asset groups their assets, all the same. */
function setAssets(draft: Draft, { keys, assets }: Extract<Intent, { action: "assets" }>): Outcome<Draft> {
  for (const adGroup of keys) {
    const campaign = draft.find("campaign", draft.find("adGroup", adGroup)?.campaign ?? null);
    if (campaign?.kind !== "asset") {
      return fail("edit-unfit", "Only groups of asset campaigns have assets.", "Plan an asset campaign first.");
    }
    draft.put({ ...assets, type: "assets", key: assetsKey(adGroup), adGroup });
  }
  return ok(draft);
}

/** Gives each item a bid of its own in the home that serves it first. */
function bidItems(draft: Draft, items: string[], factsOf: FactsOf, bidOf: (current: number) => number): Outcome<Draft> {
  let done = 0;
  for (const item of items) {
    const home = factsOf(item)?.home;
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
