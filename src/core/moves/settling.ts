import type { AccountRecord } from "../account/records";
import { SLOT_KEYS } from "../kit/slots";
import { sameValue } from "../kit/diff";

/** What a change of a record moved, as moves name what they touch. */
export function movedBy(before: AccountRecord | null, after: AccountRecord | null): string[] {
  const record = after ?? before;
  if (!record) return [];
  if (record.type === "negative") return [`place/${record.value}`];
  if (record.type === "productGroup") return isBidMoved(before, after) ? [record.key] : [];
  if (record.type !== "campaign") return [record.key];
  if (before?.type !== "campaign" || after?.type !== "campaign") return [];
  const { key } = record;
  const moved = SLOT_KEYS.filter((slot) => (before.slots?.[slot] ?? 1) !== (after.slots?.[slot] ?? 1));
  return [
    ...moved.map((slot) => `${key}/slot/${slot}`),
    ...(sameValue(before.hours ?? null, after.hours ?? null) ? [] : [`${key}/hours`]),
    ...(before.dailyBudget === after.dailyBudget ? [] : [`${key}/budget`]),
    ...(before.status === after.status ? [] : [key]),
  ];
}

/** Where single items are lifted out of a group, it is divided and what stays behind keeps its bid: that moved nothing. */
function isBidMoved(before: AccountRecord | null, after: AccountRecord | null): boolean {
  const group = after ?? before;
  if (group?.type !== "productGroup" || group.role === "split") return false;
  if (before?.type !== "productGroup") return group.role === "unit";
  return after?.type !== "productGroup" || before.bid !== after.bid || before.status !== after.status;
}
