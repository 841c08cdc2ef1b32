import type { AccountRecord } from "@/core/account/records";
import { answerAll } from "@/core/dispatch/answering";
import { notCarried } from "@/core/dispatch/carries";
import {
  CONTRACT,
  type Answer,
  type Carries,
  type Change,
  type Channel,
  type ChannelAbout,
  type PlacePage,
  type RecordPage,
  type ReportKind,
} from "@/core/dispatch/contract";
import { Account } from "@/core/account/account";
import { diffOf } from "@/core/kit/diff";
import { giveUp } from "@/core/kit/outcome";
import type { Place } from "@/core/channel/place";

const PAGE = 1000;

/**
 * A channel whose books lie in memory: the stand-in for a platform of somebody else's, and the shortest whole example of one.
 * It refuses what its own table says it can't carry.
 */
export class MemoryChannel implements Channel {
  private readonly books = new Map<string, AccountRecord>();
  private readonly given = new Map<string, Answer[]>();

  constructor(
    private readonly carries: Carries = {},
    private readonly told: Place[] = [],
    private readonly name = "Stand-in platform",
    /** Its reports by kind: CSV of some days. */
    private readonly written: Partial<Record<ReportKind, (from: string, to: string) => string>> = {},
  ) {}

  async about(): Promise<ChannelAbout> {
    const { name, carries } = this;
    const reports = Object.keys(this.written) as ReportKind[];
    return { contract: CONTRACT, name, tellsPlaces: this.told.length > 0, reports, carries };
  }

  async take(key: string, changes: Change[]): Promise<Answer[]> {
    const known = this.given.get(key);
    if (known) return known;
    const account = Account.of(this.books.values());
    const diff = diffOf(changes.map(({ key: record, after }) => [record, account.get(record) ?? null, after]));
    const bad = new Map(
      notCarried(account, diff, this.carries, "EUR").flatMap(({ key: record, why, isWhole }) =>
        isWhole ? [[record, why] as const] : [],
      ),
    );
    const refusing = (record: AccountRecord) => bad.get(record.key) ?? null;
    const { answers, moved } = answerAll((record) => this.books.get(record), changes, refusing);
    for (const [record, after] of moved) {
      if (after) this.books.set(record, after);
      else this.books.delete(record);
    }
    this.given.set(key, answers);
    return answers;
  }

  async answersTo(key: string): Promise<Answer[] | undefined> {
    return this.given.get(key);
  }

  async look(keys: string[]): Promise<Map<string, AccountRecord | null>> {
    return new Map(keys.map((key) => [key, this.books.get(key) ?? null]));
  }

  async records(after: string | null): Promise<RecordPage> {
    const from = Number(after ?? 0);
    const records = [...this.books.values()].slice(from, from + PAGE);
    return { records, next: from + PAGE < this.books.size ? String(from + PAGE) : null };
  }

  async places(after: string | null): Promise<PlacePage> {
    const from = Number(after ?? 0);
    return {
      places: this.told.slice(from, from + PAGE),
      next: from + PAGE < this.told.length ? String(from + PAGE) : null,
    };
  }

  async *report(kind: ReportKind, from: string, to: string): AsyncIterable<Uint8Array> {
    const write = this.written[kind] ?? giveUp("channel-no-report", "This stand-in gives no such report.");
    yield new TextEncoder().encode(write(from, to));
  }
}
