import { Account, type Structure } from "./account";
import { Draft } from "./draft";
import { liftItem } from "./lift-item";
import type { RecordOf, RecordType } from "./records";
import { exclusionKey } from "./records/exclusion";

/** For tests: the records of one type. */
export function recordsOf<T extends RecordType>(structure: Structure, type: T): RecordOf<T>[] {
  return Object.values(structure).filter((record): record is RecordOf<T> => record.type === type);
}

/** For tests: an account with one item kept out everywhere. */
export function without(structure: Structure, item: string, reason: "wasteful" | "unsafe" = "wasteful"): Structure {
  const key = exclusionKey(item, null);
  return { ...structure, [key]: { type: "exclusion", key, campaign: null, item, reason, reviewOn: null } };
}

/** For tests: an account in which one item has a bid of its own, or null where the group does not serve it. */
export function lifted(structure: Structure, group: string, item: string, bid: number): Structure | null {
  const draft = new Draft(Account.fromStructure(structure));
  const done = liftItem(draft, group, item, bid);
  return done.ok ? Account.fromStructure(structure).with(draft.diff()).toStructure() : null;
}
