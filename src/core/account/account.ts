import { touchedBy, type Diff } from "../kit/diff";
import { kindOf, type AccountRecord, type RecordOf, type RecordType } from "./records";
import type { ProductGroup } from "./records/product-group";

/** Records by key, as a planogram makes them and files hold them. */
export type Structure = Record<string, AccountRecord>;

const NO_GROUPS: readonly ProductGroup[] = [];

/**
 * An account: its records by key, with look-ups by type and by ad group that are made once. Never changes; {@link with}
 * gives another account that holds its differences beside the same records, so a small change to an account of 100,000
 * groups costs next to nothing and what did not change stays the same object.
 */
export class Account {
  private static made = 0;
  /** Tells accounts of one process apart, for what is worked out from them and kept. */
  readonly id = ++Account.made;
  private readonly byType = new Map<RecordType, readonly AccountRecord[]>();
  private readonly groups = new Map<string, readonly ProductGroup[]>();
  private touchedAdGroups: Set<string> | null = null;
  private grouped = false;
  private readonly after = new WeakMap<Diff<AccountRecord>, Account>();

  private constructor(
    private readonly base: Account | null,
    /** All records, or what differs from the base: null for a record that is gone. */
    private readonly own: ReadonlyMap<string, AccountRecord | null>,
    readonly size: number,
  ) {}

  static of(records: Iterable<AccountRecord>): Account {
    const own = new Map<string, AccountRecord>();
    for (const record of records) own.set(record.key, record);
    return new Account(null, own, own.size);
  }

  static fromStructure(structure: Structure): Account {
    return Account.of(Object.values(structure));
  }

  static readonly EMPTY = Account.of([]);

  get(key: string): AccountRecord | undefined {
    const own = this.own.get(key);
    if (own !== undefined) return own ?? undefined;
    return this.base?.get(key);
  }

  has(key: string): boolean {
    return this.get(key) !== undefined;
  }

  /** The record when it is of this type. */
  find<T extends RecordType>(type: T, key: string | null): RecordOf<T> | undefined {
    const record = key === null ? undefined : this.get(key);
    return record?.type === type ? (record as RecordOf<T>) : undefined;
  }

  /** All records, in the order they were made. */
  *records(): Iterable<AccountRecord> {
    if (this.base === null) {
      for (const record of this.own.values()) if (record) yield record;
      return;
    }
    for (const record of this.base.records()) {
      const own = this.own.get(record.key);
      if (own === undefined) yield record;
      else if (own) yield own;
    }
    for (const [key, record] of this.own) if (record && !this.base.has(key)) yield record;
  }

  /** The records of one type, in the order they were made. The same array as before where none of them changed. */
  all<T extends RecordType>(type: T): readonly RecordOf<T>[] {
    let found = this.byType.get(type);
    if (!found) {
      if (this.base === null) this.sortByType();
      else this.byType.set(type, this.ownOf(this.base, type));
      found = this.byType.get(type) ?? [];
      this.byType.set(type, found);
    }
    return found as readonly RecordOf<T>[];
  }

  private sortByType(): void {
    const lists = new Map<RecordType, AccountRecord[]>();
    for (const record of this.own.values()) {
      if (!record) continue;
      const list = lists.get(record.type);
      if (list) list.push(record);
      else lists.set(record.type, [record]);
    }
    for (const [type, list] of lists) this.byType.set(type, list);
  }

  private ownOf(base: Account, type: RecordType): readonly AccountRecord[] {
    const before = base.all(type);
    const changed = [...this.own].some(([key, record]) => record?.type === type || base.get(key)?.type === type);
    if (!changed) return before;
    const list: AccountRecord[] = [];
    for (const record of before) {
      const own = this.own.get(record.key);
      if (own === undefined) list.push(record);
      else if (own?.type === type) list.push(own);
    }
    for (const [key, record] of this.own) if (record?.type === type && base.get(key)?.type !== type) list.push(record);
    return list;
  }

  /** The product groups of an ad group. The same array as before where none of them changed. */
  productGroups(adGroup: string): readonly ProductGroup[] {
    if (this.base === null) {
      if (!this.grouped) {
        const lists = new Map<string, ProductGroup[]>();
        for (const group of this.all("productGroup")) {
          const list = lists.get(group.adGroup);
          if (list) list.push(group);
          else lists.set(group.adGroup, [group]);
        }
        for (const [key, list] of lists) this.groups.set(key, list);
        this.grouped = true;
      }
      return this.groups.get(adGroup) ?? NO_GROUPS;
    }
    const { base } = this;
    this.touchedAdGroups ??= this.findTouched(base);
    if (!this.touchedAdGroups.has(adGroup)) return base.productGroups(adGroup);
    let found = this.groups.get(adGroup);
    if (!found) {
      const list: ProductGroup[] = [];
      for (const group of base.productGroups(adGroup)) {
        const own = this.own.get(group.key);
        if (own === undefined) list.push(group);
        else if (own?.type === "productGroup" && own.adGroup === adGroup) list.push(own);
      }
      const had = new Set(base.productGroups(adGroup).map(({ key }) => key));
      for (const record of this.own.values()) {
        if (record?.type === "productGroup" && record.adGroup === adGroup && !had.has(record.key)) list.push(record);
      }
      this.groups.set(adGroup, (found = list));
    }
    return found;
  }

  private findTouched(base: Account): Set<string> {
    const touched = new Set<string>();
    for (const [key, record] of this.own) {
      const before = base.find("productGroup", key);
      if (before) touched.add(before.adGroup);
      if (record?.type === "productGroup") touched.add(record.adGroup);
    }
    return touched;
  }

  /** This account after a change. Asked again for the same diff, it gives the same account, since neither ever changes. */
  with(diff: Diff<AccountRecord>): Account {
    let after = this.after.get(diff);
    if (!after) this.after.set(diff, (after = this.changedBy(diff)));
    return after;
  }

  private changedBy(diff: Diff<AccountRecord>): Account {
    const { added, changed, removed } = touchedBy(diff);
    const own = new Map<string, AccountRecord | null>();
    for (const { key } of removed) own.set(key, null);
    for (const [, to] of changed) own.set(to.key, to);
    for (const record of added) own.set(record.key, record);
    return this.withRecords(own);
  }

  /** This account with other records by key; null takes one away. */
  withRecords(change: ReadonlyMap<string, AccountRecord | null>): Account {
    const root = this.base ?? this;
    let own = change;
    if (this.base !== null) {
      const merged = new Map(this.own);
      for (const [key, record] of change) merged.set(key, record);
      own = merged;
    }
    // Much that differs is as costly to look through as the whole; then the whole is made anew.
    if (own.size * 4 > root.size) return root.rewritten(own);
    let size = this.size;
    for (const [key, record] of change) {
      const had = this.has(key);
      if (had && record === null) size--;
      if (!had && record !== null) size++;
    }
    return new Account(root, own === change ? new Map(change) : own, size);
  }

  /** The same account with all that differs written into it; what is new stands last. */
  private rewritten(own: ReadonlyMap<string, AccountRecord | null>): Account {
    const all = new Map<string, AccountRecord>();
    for (const [key, before] of this.own) {
      const after = own.get(key);
      const record = after === undefined ? before : after;
      if (record) all.set(key, record);
    }
    for (const [key, record] of own) if (record) all.set(key, record);
    return new Account(null, all, all.size);
  }

  /** The records by key. */
  toStructure(): Structure {
    const structure: Structure = {};
    for (const record of this.records()) structure[record.key] = record;
    return structure;
  }
}

const splits = new WeakMap<readonly ProductGroup[], readonly string[]>();

/** The columns that an account's product groups are divided by; looked up again only where a group changed. */
export function splitColumns(account: Account): readonly string[] {
  const groups = account.all("productGroup");
  let found = splits.get(groups);
  if (!found) {
    const names = new Set<string>();
    for (const { by } of groups) if (by !== null) names.add(by);
    splits.set(groups, (found = [...names]));
  }
  return found;
}

/** The keys, with those of all given records that hang below them. */
export function withDependents(keys: Iterable<string>, records: Iterable<AccountRecord>): Set<string> {
  const below = new Map<string, string[]>();
  for (const record of records) {
    for (const parent of kindOf(record.type).parents(record)) {
      if (parent.bond !== "hangs below") continue;
      const list = below.get(parent.key);
      if (list) list.push(record.key);
      else below.set(parent.key, [record.key]);
    }
  }
  const found = new Set<string>();
  const queue = [...keys];
  for (let key = queue.pop(); key !== undefined; key = queue.pop()) {
    if (found.has(key)) continue;
    found.add(key);
    queue.push(...(below.get(key) ?? []));
  }
  return found;
}
