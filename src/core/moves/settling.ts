import type { AccountRecord } from "../account/records";
import { SLOT_KEYS } from "../kit/slots";
import { sameValue } from "../kit/diff";

/** What a change of a record moved, as moves name what they touch. */
export function movedBy(before: AccountRecord | null, after: AccountRecord | null): string[] {
  const record = after ?? before;
  if (!record) return [];
  if (record.type === "negative") return [`place/${record.value}`];
  if (record.type !== "campaign") return [record.key];
  if (before?.type !== "campaign" || after?.type !== "campaign") return [];
  const { key } = record;
  const moved = SLOT_KEYS.filter((slot) => (before.slots?.[slot] ?? 1) !== (after.slots?.[slot] ?? 1));
  return [
    ...moved.map((slot) => `${key}/slot/${slot}`),
    ...(sameValue(before.hours ?? null, after.hours ?? null) ? [] : [`${key}/hours`]),
    ...(before.status === after.status ? [] : [key]),
  ];
}
