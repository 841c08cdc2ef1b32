import { sameValue } from "../kit/diff";
import type { Account } from "../account/account";
import { Draft } from "../account/draft";
import { fieldsByHand, TARGET_TYPES, type AccountRecord } from "../account/records";
import { planLabels } from "../account/records/labels";
import type { PlannedRecords } from "./planned-records";
import type { ProductGroup } from "../account/records/product-group";

/** A field that a person set by hand and that a new plan would have set otherwise. */
export interface HandSet {
  key: string;
  field: string;
}

export interface Replan {
  /** The account with what changes. */
  draft: Draft;
  /** What stays as a person set it, although the plan says otherwise. */
  kept: HandSet[];
  /** The records as this plan wants them, with those it paused: the last plan of the next time. */
  plan: PlannedRecords;
}

/** Plans of a planogram before this one, as they wanted the records: the last that was sent, and the one that waits in the basket. */
export interface PlansBefore {
  sent: PlannedRecords | null;
  waiting: PlannedRecords | null;
}

/** Where a planogram was never planned before, or that is not known any more. */
export const NO_PLANS_BEFORE: PlansBefore = { sent: null, waiting: null };

/** The record as each plan before wanted it, the one that waits first. */
function wantedBefore({ sent, waiting }: PlansBefore, key: string): AccountRecord[] {
  return [waiting?.get(key), sent?.get(key)].filter((record) => record !== undefined);
}

const wasPlanned = ({ sent, waiting }: PlansBefore, key: string) =>
  (waiting?.has(key) ?? false) || (sent?.has(key) ?? false);

/**
 * What applying a planogram changes in an account, merged three ways: a field that still is as a plan before had it, be it
 * sent or waiting, follows the new plan, a field that a person has set since stays. Campaigns and ad groups no longer planned are paused, not
 * removed, so that their history keeps a name; product groups no longer planned go.
 * @param live the account, with what waits in the basket
 * @param planned the records from `plannedRecords`
 * @param before the plans before this one; where none is known of a record, the fields that people set by hand stay
 * @param replaces keys of campaigns to pause
 */
export function replan(
  live: Account,
  planned: PlannedRecords,
  before: PlansBefore,
  origin: string,
  replaces: string[],
): Replan {
  const draft = new Draft(live);
  const kept: HandSet[] = [];
  const plan: PlannedRecords = new Map(planned);
  const settle = (wanted: AccountRecord): AccountRecord => {
    const existing = live.get(wanted.key);
    if (existing?.type !== wanted.type) return wanted;
    if (sameValue(existing, wanted)) return existing;
    const { record, fields } = mergeRecord(existing, wantedBefore(before, wanted.key), wanted);
    for (const field of fields) kept.push({ key: wanted.key, field });
    return record;
  };
  const mine = new Set(live.all("campaign").flatMap((c) => (c.origin === origin ? [c.key] : [])));
  const myAdGroups = new Set(live.all("adGroup").flatMap((g) => (mine.has(g.campaign) ? [g.key] : [])));
  for (const key of [...mine, ...myAdGroups, ...replaces]) {
    const record = live.get(key);
    if (planned.has(key) || !record || !("status" in record) || "role" in record) continue;
    const [was] = wantedBefore(before, key);
    const wanted = { ...(was ?? record), status: "paused" } as AccountRecord;
    plan.set(key, wanted);
    draft.put(was ? settle(wanted) : wanted);
  }
  // Its own labels go with its filter.
  const plannedSets = new Set([planLabels(origin)]);
  for (const record of planned.values()) if (record.type === "labels") plannedSets.add(record.shelfSet);
  for (const { shelfSet, key } of live.all("labels"))
    if (plannedSets.has(shelfSet) && !planned.has(key)) draft.remove(key);
  const nameOf = freeNames(live, planned);
  for (const wanted of planned.values()) {
    // What a plan before made and that is gone was taken away by a person.
    if (isTakenOne(wanted) && wasPlanned(before, wanted.key) && !live.has(wanted.key)) continue;
    const named = wanted.type === "campaign" ? { ...wanted, name: nameOf(wanted.name) } : wanted;
    if (named !== wanted) plan.set(wanted.key, named);
    const settled = settle(named);
    if (settled !== live.get(named.key)) draft.put(settled);
  }
  for (const adGroup of myAdGroups) removeUnplanned(draft, live.productGroups(adGroup), planned, before);
  // What its ad groups needed as another kind of campaign goes with that kind.
  for (const record of [...live.all("assets"), ...live.all("ad"), ...TARGET_TYPES.flatMap((type) => live.all(type))]) {
    if (wasPlanned(before, record.key) && !planned.has(record.key) && myAdGroups.has(record.adGroup))
      draft.remove(record.key);
  }
  for (const { key, scope } of live.all("negative")) {
    if (scope !== null && wasPlanned(before, key) && !planned.has(key) && myAdGroups.has(scope)) draft.remove(key);
  }
  return { draft, kept, plan };
}

/** Whether a person takes a record of its kind away one by one, as targets, ads and negatives are. */
function isTakenOne({ type }: AccountRecord): boolean {
  return type === "ad" || type === "negative" || (TARGET_TYPES as readonly string[]).includes(type);
}

/** Field by field: what a person set stays, all else follows the new plan. */
function mergeRecord(live: AccountRecord, before: AccountRecord[], wanted: AccountRecord) {
  const record: Record<string, unknown> = { ...wanted };
  const fields: string[] = [];
  const isSetByHand = handSetIn(live, before, wanted);
  for (const field of new Set([...Object.keys(live), ...Object.keys(wanted)])) {
    if (field === "type" || field === "key" || field === "origin") continue;
    const mine = live[field as keyof AccountRecord] as unknown;
    if (sameValue(mine, record[field]) || !isSetByHand(field)) continue;
    if (mine === undefined) delete record[field];
    else record[field] = mine;
    fields.push(field);
  }
  return { record: record as unknown as AccountRecord, fields };
}

function handSetIn(live: AccountRecord, before: AccountRecord[], wanted: AccountRecord) {
  if (before.length > 0) {
    const at = (record: AccountRecord, field: string) => record[field as keyof AccountRecord];
    return (field: string) => before.every((plan) => !sameValue(at(live, field), at(plan, field)));
  }
  const byHand = new Set(fieldsByHand(live.type));
  // Divided by hand, so that single items can bid on their own.
  if ("role" in live && "role" in wanted && live.role === "split" && live.by === "id" && wanted.role === "unit") {
    byHand.add("role").add("by");
  }
  return (field: string) => byHand.has(field);
}

/**
 * Takes out the groups of an ad group that the plan no longer has. What people added below a group that stays, such as
 * items with a bid of their own, stays with it.
 */
function removeUnplanned(
  draft: Draft,
  groups: readonly ProductGroup[],
  planned: PlannedRecords,
  before: PlansBefore,
): void {
  const byKey = new Map(groups.map((group) => [group.key, group]));
  const stays = new Map<string, boolean>();
  const isStaying = (group: ProductGroup): boolean => {
    const known = stays.get(group.key);
    if (known !== undefined) return known;
    let staying = planned.has(group.key);
    if (!staying && group.parent !== null && !wasPlanned(before, group.key)) {
      const parent = byKey.get(group.parent);
      // Made by hand: below an item split that the plan did not make.
      staying = parent?.by === "id" && !isPlannedSplit(planned.get(parent.key)) && isStaying(parent);
    }
    stays.set(group.key, staying);
    return staying;
  };
  for (const group of groups) if (!isStaying(group)) draft.remove(group.key);
}

function isPlannedSplit(record: AccountRecord | undefined): boolean {
  return record !== undefined && "role" in record && record.role === "split";
}

/** Gives campaigns of a plan names that no other campaign of the account has; a number behind it tells them apart. */
function freeNames(live: Account, planned: PlannedRecords): (name: string) => string {
  const taken = new Set<string>();
  for (const { key, name } of live.all("campaign")) if (!planned.has(key)) taken.add(name);
  return (name) => {
    let free = name;
    for (let n = 2; taken.has(free); n++) free = `${name} (${n})`;
    taken.add(free);
    return free;
  };
}
