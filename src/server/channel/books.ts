import { kindOf, type AccountRecord } from "@/core/account/records";
import { Account } from "@/core/account/account";
import { answerAll } from "@/core/dispatch/answering";
import type {
  Answer,
  Change,
  Channel,
  ChannelAbout,
  PlacePage,
  RecordPage,
  ReportKind,
} from "@/core/dispatch/contract";
import type { Database } from "@/db/client";
import { channelBooks } from "@/db/schema";
import { bulkInsert } from "../bulk";

const PAGE = 5000;

type Executor = Pick<Database["$client"], "execute">;

async function bodiesOf(on: Executor, keys: string[]): Promise<Map<string, AccountRecord>> {
  const { rows } = await on.execute({
    sql: "SELECT '[' || group_concat(body, ',') || ']' FROM channel_books WHERE key IN (SELECT value FROM json_each(?))",
    args: [JSON.stringify(keys)],
  });
  const bodies = JSON.parse(String(rows[0]?.[0] ?? "[]")) as AccountRecord[];
  return new Map(bodies.map((record) => [record.key, record]));
}

function parentsOf(record: AccountRecord): string[] {
  return kindOf(record.type)
    .parents(record)
    .map(({ key }) => key);
}

/** Writes what stands under some keys into the books; null takes a record out of them. */
export async function writeBooks(on: Executor, moved: ReadonlyMap<string, AccountRecord | null>): Promise<void> {
  await on.execute({
    sql: "DELETE FROM channel_books WHERE key IN (SELECT value FROM json_each(?))",
    args: [JSON.stringify([...moved.keys()])],
  });
  const rows = [...moved].flatMap(([key, record]) => (record ? [[key, JSON.stringify(record)]] : []));
  await bulkInsert(on, channelBooks, ["key", "body"], rows);
}

/** A channel whose books lie in the workspace's own database, apart from what Hot Shelf thinks it has. */
export abstract class BooksChannel implements Channel {
  constructor(protected readonly db: Database) {}

  abstract about(): Promise<ChannelAbout>;
  abstract places(after: string | null): Promise<PlacePage>;
  abstract report(kind: ReportKind, from: string, to: string): AsyncIterable<Uint8Array>;

  async take(_key: string, changes: Change[]): Promise<Answer[]> {
    const tx = await this.db.$client.transaction("write");
    try {
      const needed = changes.flatMap(({ key, after }) => [key, ...(after ? parentsOf(after) : [])]);
      const stand = await bodiesOf(tx, [...new Set(needed)]);
      const { answers, moved } = answerAll((key) => stand.get(key), changes);
      await writeBooks(tx, moved);
      await tx.commit();
      return answers;
    } finally {
      tx.close();
    }
  }

  /** It answers at once, so there is nothing to ask for later; sent again, a message does nothing twice. */
  async answersTo(): Promise<undefined> {
    return undefined;
  }

  async look(keys: string[]): Promise<Map<string, AccountRecord | null>> {
    const found = await bodiesOf(this.db.$client, keys);
    return new Map(keys.map((key) => [key, found.get(key) ?? null]));
  }

  async records(after: string | null): Promise<RecordPage> {
    const { rows } = await this.db.$client.execute({
      sql: `SELECT max(id), count(*), '[' || group_concat(body, ',') || ']' FROM
            (SELECT rowid AS id, body FROM channel_books WHERE rowid > ? ORDER BY rowid LIMIT ${PAGE})`,
      args: [after === null ? 0 : Number(after)],
    });
    const count = Number(rows[0]![1]);
    if (count === 0) return { records: [], next: null };
    const records = JSON.parse(String(rows[0]![2])) as AccountRecord[];
    return { records, next: count < PAGE ? null : String(rows[0]![0]) };
  }
}

/** All that stands at a channel. */
export async function standingAt(channel: Channel, step?: (done: number) => Promise<void>): Promise<Account> {
  const all: AccountRecord[] = [];
  for (let after: string | null = null; ;) {
    const { records, next } = await channel.records(after);
    for (const record of records) all.push(record);
    await step?.(all.length);
    if (next === null) return Account.of(all);
    after = next;
  }
}
