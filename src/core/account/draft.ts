import { emptyDiff, sameValue, type Diff } from "../kit/diff";
import type { Account } from "./account";
import type { AccountRecord, RecordOf, RecordType } from "./records";

/** Changes being made to an account, beside it: nothing is copied, and the difference is known at any time. */
export class Draft {
  private readonly own = new Map<string, AccountRecord | null>();
  /** Why a record changes, where it is not what the whole change is about. */
  readonly reasons = new Map<string, string>();

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

  put(record: AccountRecord, reason?: string): void {
    this.own.set(record.key, record);
    if (reason !== undefined) this.reasons.set(record.key, reason);
  }

  remove(key: string): void {
    this.own.set(key, null);
  }

  /** The account as it would be. */
  after(): Account {
    return this.account.withRecords(this.own);
  }

  /** What differs from the account; what was put and is the same again does not. */
  diff(): Diff<AccountRecord> {
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
