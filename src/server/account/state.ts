import { Account } from "@/core/account/account";
import type { Cause } from "@/core/account/cause";
import type { AccountRecord } from "@/core/account/records";
import { composeDiffs, diffOf, diffSize, type Diff } from "@/core/kit/diff";
import type { Database } from "@/db/client";
import type { basket } from "@/db/schema";
import { remember } from "../read/memo";

/** Where an account stands; see the table. */
export interface AccountVersions {
  version: number;
  recordsVersion: number;
  part: number;
  /** Parts of the basket up to this one are on their way; −1 when nothing is. */
  sealedPart: number;
}

type Executor = Pick<Database["$client"], "execute">;

/** Rows of the state and of the job that seals the basket: a seal counts as long as its job has not ended. */
const STATE = `SELECT s.version, s.records_version, s.part, CASE WHEN j.state IN ('waiting', 'running') THEN s.sealed_part ELSE -1 END
  FROM account_state s LEFT JOIN jobs j ON j.id = s.sealed_by WHERE s.id = 1`;

export async function readVersions(on: Executor): Promise<AccountVersions> {
  const { rows } = await on.execute(STATE);
  const [version, recordsVersion, part, sealedPart] = Array.from(rows[0]!, Number) as [number, number, number, number];
  return { version, recordsVersion, part, sealedPart };
}

/** The account as the channel has it. */
export async function liveAccount(db: Database): Promise<Account> {
  return steadily(db, (versions) => liveAt(db, versions));
}

/** Somebody wrote while the account was being read, so what was read may be of two versions. */
class Moved extends Error {}

function liveAt(db: Database, { recordsVersion }: AccountVersions): Promise<Account> {
  return remember(db, "account as sent", [recordsVersion], async () => {
    const live = await readRecords(db);
    if ((await readVersions(db.$client)).recordsVersion !== recordsVersion) throw new Moved();
    return live;
  });
}

/** Reads until nobody wrote meanwhile. */
async function steadily<T>(db: Database, read: (versions: AccountVersions) => Promise<T>): Promise<T> {
  for (;;) {
    try {
      return await read(await readVersions(db.$client));
    } catch (error) {
      if (!(error instanceof Moved)) throw error;
    }
  }
}

async function readRecords(db: Database): Promise<Account> {
  const all: AccountRecord[] = [];
  for await (const bodies of recordPages(db)) for (const record of bodies) all.push(record);
  return Account.of(all);
}

/** Rows a statement when reading JSON bodies: some 20 ms of work, so that other requests get their turn. */
const PAGE = 5000;

/** All records, a page a time, in the order they were stored. JSON of many at once is read far faster than row objects. */
async function* recordPages(db: Database): AsyncIterable<AccountRecord[]> {
  for (let after = 0; ;) {
    const { rows } = await db.$client.execute({
      sql: `SELECT max(id), count(*), '[' || group_concat(body, ',') || ']' FROM
            (SELECT rowid AS id, body FROM records WHERE rowid > ? ORDER BY rowid LIMIT ${PAGE})`,
      args: [after],
    });
    const count = Number(rows[0]![1]);
    if (count === 0) return;
    yield JSON.parse(String(rows[0]![2])) as AccountRecord[];
    if (count < PAGE) return;
    after = Number(rows[0]![0]);
    await new Promise((resolve) => setImmediate(resolve));
  }
}

/** A row of the basket with where it comes from. */
export interface BasketRow extends Omit<typeof basket.$inferSelect, "cause"> {
  cause: CauseOf;
}

/** Where a change comes from, and why; the number is what stands for both in the database. */
export interface CauseOf extends Cause {
  no: number;
  reason: string;
}

/** Where nobody noted it. */
const UNKNOWN_CAUSE: CauseOf = { no: 0, kind: "act", id: "", reason: "" };

/** Looks causes up by their numbers. */
export async function causesOf(on: Executor, numbers: Iterable<number>): Promise<(no: number) => CauseOf> {
  const { rows } = await on.execute({
    sql: "SELECT id, kind, of, reason FROM causes WHERE id IN (SELECT value FROM json_each(?))",
    args: [JSON.stringify([...new Set(numbers)])],
  });
  const known = new Map(
    rows.map((row): [number, CauseOf] => [
      Number(row[0]),
      { no: Number(row[0]), kind: String(row[1]) as CauseOf["kind"], id: String(row[2]), reason: String(row[3]) },
    ]),
  );
  return (no) => known.get(no) ?? UNKNOWN_CAUSE;
}

/** The basket, oldest part first, read as JSON a page at a time like the records. */
async function readBasket(db: Database): Promise<BasketRow[]> {
  const all: (Omit<BasketRow, "cause"> & { cause: number })[] = [];
  // Part by part: the index leads to a place within one part, but not to a place in the order of parts and rows.
  for (let [part, id] = [-1, 0]; ;) {
    const { rows } = await db.$client.execute({
      sql: `SELECT '[' || group_concat(body, ',') || ']', '[' || group_concat(about, ',') || ']', count(*) FROM (
              SELECT coalesce(before, 'null') || ',' || coalesce(after, 'null') AS body,
                json_array(id, key, part, cause, who, at, version, refused) AS about
              FROM basket WHERE part = ? AND id > ? ORDER BY id LIMIT ${PAGE})`,
      args: [part, id],
    });
    const count = Number(rows[0]![2]);
    if (count > 0) {
      const bodies = JSON.parse(String(rows[0]![0])) as (AccountRecord | null)[];
      const told = JSON.parse(String(rows[0]![1])) as BasketTold[];
      told.forEach(([id, key, part, cause, who, at, version, refused], i) => {
        const [before, after] = [bodies[2 * i]!, bodies[2 * i + 1]!];
        all.push({ id, key, part, cause, who, at, version, refused, before, after });
      });
      id = told.at(-1)![0];
    }
    if (count < PAGE) {
      const next = await db.$client.execute({ sql: "SELECT min(part) FROM basket WHERE part > ?", args: [part] });
      if (next.rows[0]![0] === null) {
        const causeOf = await causesOf(db.$client, new Set(all.map(({ cause }) => cause)));
        return all.map((row) => ({ ...row, cause: causeOf(row.cause) }));
      }
      [part, id] = [Number(next.rows[0]![0]), 0];
    }
    await new Promise((resolve) => setImmediate(resolve));
  }
}

/** What a row of the basket tells besides its bodies. */
type BasketTold = [number, string, number, number, string, number, number, string];

type DiffRow = [key: string, before: AccountRecord | null, after: AccountRecord | null];

/** Rows with a before and an after as a diff; of several parts of one record the later ones go on from the earlier. */
export function asDiff(
  rows: { key: string; before: AccountRecord | null; after: AccountRecord | null }[],
): Diff<AccountRecord> {
  const parts: DiffRow[][] = [];
  let seen = new Set<string>();
  let part: DiffRow[] = [];
  for (const { key, before, after } of rows) {
    if (seen.has(key)) {
      parts.push(part);
      part = [];
      seen = new Set();
    }
    seen.add(key);
    part.push([key, before, after]);
  }
  return [...parts, part].map(diffOf).reduce(composeDiffs);
}

/** A diff as rows. */
export function diffRows(diff: Diff<AccountRecord>): DiffRow[] {
  return [
    ...Object.entries(diff.added).map(([key, after]): DiffRow => [key, null, after]),
    ...Object.entries(diff.changed).map(([key, [before, after]]): DiffRow => [key, before, after]),
    ...Object.entries(diff.removed).map(([key, before]): DiffRow => [key, before, null]),
  ];
}

function keysIn(...diffs: Diff<AccountRecord>[]): Set<string> {
  return new Set(diffs.flatMap((diff) => diffRows(diff).map(([key]) => key)));
}

/** The account at one version: as sent, with what is on its way, and with the whole basket. */
export interface AccountAt extends AccountVersions {
  live: Account;
  /** Rows of the basket, oldest part first. */
  rows: BasketRow[];
  /** The basket as one diff, what of it is on its way, and what is not. */
  basket: Diff<AccountRecord>;
  sealed: Diff<AccountRecord>;
  held: Diff<AccountRecord>;
  /** How many records have a change waiting, on its way or not. */
  waiting: number;
  /** The account as it will be once the basket is sent: what decisions are made on. */
  planned: Account;
}

/** The account with its basket, at the version it has now. */
export async function readAccount(db: Database): Promise<AccountAt> {
  return steadily(db, (versions) => accountAt(db, versions));
}

async function accountAt(db: Database, versions: AccountVersions): Promise<AccountAt> {
  const { version, sealedPart } = versions;
  return remember(db, "account with basket", [version, sealedPart], async () => {
    const live = await liveAt(db, versions);
    const rows = await readBasket(db);
    const now = await readVersions(db.$client);
    if (now.version !== version || now.sealedPart !== sealedPart) throw new Moved();
    const sealed = asDiff(rows.filter(({ part }) => part <= sealedPart));
    const held = asDiff(rows.filter(({ part }) => part > sealedPart));
    const [isSending, isHolding] = [diffSize(sealed) > 0, diffSize(held) > 0];
    const basket = isSending && isHolding ? composeDiffs(sealed, held) : isSending ? sealed : held;
    const waiting = isSending && isHolding ? keysIn(sealed, held).size : diffSize(basket);
    const sending = isSending ? live.with(sealed) : live;
    const planned = isHolding ? sending.with(held) : sending;
    return { ...versions, live, rows, basket, sealed, held, waiting, planned };
  });
}

/** The account as it will be once the basket is sent: what decisions are made on. */
export async function plannedAccount(db: Database): Promise<Account> {
  return (await readAccount(db)).planned;
}

/** Records that changed after a version, by key, with who changed them where that is known. */
export async function changedSince(
  on: Executor,
  keys: string[],
  version: number,
): Promise<{ key: string; who: string }[]> {
  const { rows } = await on.execute({
    sql: `SELECT key, who FROM basket WHERE version > ?1 AND key IN (SELECT value FROM json_each(?2))
          UNION ALL SELECT key, who FROM taken_out WHERE version > ?1 AND key IN (SELECT value FROM json_each(?2))
          UNION ALL SELECT key, '' FROM records WHERE version > ?1 AND key IN (SELECT value FROM json_each(?2))`,
    args: [version, JSON.stringify(keys)],
  });
  return rows.map((row) => ({ key: String(row[0]), who: String(row[1]) }));
}
