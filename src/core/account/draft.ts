import { emptyDiff, sameValue, touchedBy, type Diff } from "../kit/diff";
import type { Account } from "./account";
import type { AccountRecord, RecordOf, RecordType } from "./records";

/** Changes being made to an account, beside it: nothing is copied, and the difference is known at any time. */
export class Draft {
  private readonly own = new Map<string, AccountRecord | null>();
  /** Why a record changes, where it is not what the whole change is about. */
  readonly reasons = new Map<string, string>();
  /** IDs or keys that were asked for and that nothing could be done with, though the rest was made. */
  readonly leftOut = new Set<string>();
  private why: string | undefined;
  private made: Diff<AccountRecord> | null = null;

  constructor(readonly account: Account) {}

  get(key: string): AccountRecord | undefined {
    const own = this.own.get(key);
    return own === undefined ? this.account.get(key) : (own ?? undefined);
  }

  /** The record when it is of this type. */
  find<T extends RecordType>(type: T, key: string | null): RecordOf<T> | undefined {
    const record = key === null ? undefined : this.get(key);
    return record?.type === type ? (record as RecordOf<T>) : undefined;
  }

  /** The records of one type as they are on the draft. */
  all<T extends RecordType>(type: T): RecordOf<T>[] {
    const list = this.account.all(type).flatMap((record) => this.find(type, record.key) ?? []);
    for (const [key, record] of this.own) {
      if (record?.type === type && this.account.get(key)?.type !== type) list.push(record as RecordOf<T>);
    }
    return list;
  }

  put(record: AccountRecord, reason = this.why): void {
    this.made = null;
    this.own.set(record.key, record);
    if (reason !== undefined) this.reasons.set(record.key, reason);
  }

  remove(key: string): void {
    this.made = null;
    this.own.set(key, null);
    if (this.why !== undefined) this.reasons.set(key, this.why);
  }

  /** Makes something for a reason of its own: records that change in it and have no other reason get this one. */
  because<T>(reason: string | undefined, make: () => T): T {
    const before = this.why;
    this.why = reason ?? before;
    try {
      return make();
    } finally {
      this.why = before;
    }
  }

  /**
   * Makes a change that was decided before on the records as they are now.
   * @returns the key of the first record that is no longer as the change found it, or null where all was made; then nothing
   *   of the change is on the draft
   */
  redo(diff: Diff<AccountRecord>): string | null {
    const { added, changed, removed } = touchedBy(diff);
    const isAs = (key: string, before: AccountRecord | null) => sameValue(this.get(key) ?? null, before);
    for (const { key } of added) if (!isAs(key, null)) return key;
    for (const [from] of changed) if (!isAs(from.key, from)) return from.key;
    for (const record of removed) if (!isAs(record.key, record)) return record.key;
    for (const record of added) this.put(record);
    for (const [, to] of changed) this.put(to);
    for (const { key } of removed) this.remove(key);
    return null;
  }

  /** The account as it would be. */
  after(): Account {
    return this.account.withRecords(this.own);
  }

  /** What differs from the account; what was put and is the same again does not. The same diff until more is made. */
  diff(): Diff<AccountRecord> {
    return (this.made ??= this.difference());
  }

  private difference(): Diff<AccountRecord> {
    const diff = emptyDiff<AccountRecord>();
    for (const [key, to] of this.own) {
      const from = this.account.get(key);
      if (from && to) {
        if (!sameValue(from, to)) diff.changed[key] = [from, to];
      } else if (to) diff.added[key] = to;
      else if (from) diff.removed[key] = from;
    }
    return diff;
  }
}
