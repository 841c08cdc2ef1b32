import { eq, inArray } from "drizzle-orm";
import { windowBefore, type Window } from "@/core/kit/days";
import { recordOf, type Followed, type MovesRecord, type Span } from "@/core/moves/follow-up";
import { PROPOSER_KEYS, PROPOSERS, type ProposerKey } from "@/core/proposers/proposers";
import type { Database } from "@/db/client";
import { basket, causes, dispatchChanges, dispatches, movesAccepted } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { loadCube } from "../results/cubes";
import { resultDays, resultsVersion } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";

/** Days that a move is followed for, and that it takes before anything is said of it. */
const FOLLOWED_DAYS = 28;
const LEAST_DAYS = 7;

/** The record of one proposer. Money in mills. */
export interface ProposerRecord extends MovesRecord {
  key: ProposerKey;
  name: string;
  /** Accepted in all, sent, and sent too lately to say anything or about no items that could tell. */
  accepted: number;
  sent: number;
}

/** What accepted moves brought after they were sent, against what was expected of them, by proposer. */
export async function recordOfMoves(db: Database, _info: WorkspaceInfo): Promise<ProposerRecord[]> {
  const fromDays = await sentDays(db);
  const waiting = await waitingBatches(db);
  // What was taken back before it was sent, or whose dispatch was taken back, is as if it had not been accepted.
  const all = await db.select().from(movesAccepted);
  const accepted = all.filter(({ batch }) => fromDays.has(batch) || waiting.has(batch));
  const stamp = [await resultsVersion(db), accepted.length, JSON.stringify([...fromDays])];
  return remember(db, "record of moves", stamp, async () => {
    const span = await resultDays(db);
    const spans = new Spans(db);
    const followed = new Map<string, Followed[]>();
    for (const { batch, proposer, items, expected } of accepted) {
      const from = fromDays.get(batch);
      if (from === undefined || !span || items.length === 0) continue;
      const days = Math.min(FOLLOWED_DAYS, span.to - from + 1, from - span.from);
      if (days < LEAST_DAYS) continue;
      const after = { from, to: from + days - 1 };
      const one = {
        ...{ expected: expected.contribution, days },
        before: counting(await spans.of(windowBefore(after), items), expected.counted),
        after: counting(await spans.of(after, items), expected.counted),
      };
      followed.set(proposer, [...(followed.get(proposer) ?? []), one]);
    }
    return PROPOSER_KEYS.flatMap((key): ProposerRecord[] => {
      const own = accepted.filter(({ proposer }) => proposer === key);
      if (own.length === 0) return [];
      const sent = own.filter(({ batch }) => fromDays.has(batch)).length;
      return [{ key, name: PROPOSERS[key].name, accepted: own.length, sent, ...recordOf(followed.get(key) ?? []) }];
    });
  });
}

/** Batches of moves of which something waits in the basket, or is on its way. */
async function waitingBatches(db: Database): Promise<Set<number>> {
  const rows = await db
    .selectDistinct({ batch: causes.of })
    .from(basket)
    .innerJoin(causes, eq(causes.id, basket.cause))
    .where(eq(causes.kind, "move"));
  return new Set(rows.map(({ batch }) => Number(batch)));
}

/** The first day on which each batch of moves was in force at the channel, by its number; taken back ones are left out. */
async function sentDays(db: Database): Promise<Map<number, number>> {
  const numbers = await db.select({ no: causes.id, batch: causes.of }).from(causes).where(eq(causes.kind, "move"));
  const batchOf = new Map(numbers.map(({ no, batch }) => [no, Number(batch)]));
  const days = new Map<number, number>();
  if (batchOf.size === 0) return days;
  const rows = await db
    .selectDistinct({ cause: dispatchChanges.cause, fromDay: dispatches.fromDay, takenBackBy: dispatches.takenBackBy })
    .from(dispatchChanges)
    .innerJoin(dispatches, eq(dispatches.id, dispatchChanges.dispatch))
    .where(inArray(dispatchChanges.cause, [...batchOf.keys()]));
  for (const { cause, fromDay, takenBackBy } of rows) {
    if (fromDay === null || takenBackBy !== null) continue;
    const batch = batchOf.get(cause)!;
    days.set(batch, Math.min(days.get(batch) ?? Infinity, fromDay));
  }
  return days;
}

/** A span with only the share of what was sold that counted when the move was accepted, so that both speak of the same. */
const counting = ({ cost, left, luck }: Span, counted: number): Span => ({
  ...{ cost, left: left * counted, luck: luck * counted ** 2 },
});

/** Spans of days by item, read once each. */
class Spans {
  private readonly read = new Map<string, Promise<Map<number, Span>>>();

  constructor(private readonly db: Database) {}

  async of(window: Window, items: readonly number[]): Promise<Span> {
    const name = `${window.from}/${window.to}`;
    const found = this.read.get(name) ?? this.load(window);
    this.read.set(name, found);
    const byItem = await found;
    const sum: Span = { cost: 0, left: 0, luck: 0 };
    for (const item of items) {
      const one = byItem.get(item);
      if (!one) continue;
      sum.cost += one.cost;
      sum.left += one.left;
      sum.luck += one.luck;
    }
    return sum;
  }

  private async load(window: Window): Promise<Map<number, Span>> {
    const { ads } = await loadCube(this.db, "item", window, false);
    const { columns } = await loadCatalogue(this.db, ["margin"]);
    const [numbers, margins] = [columns["itemNo"], columns["margin"]];
    const marginOf = new Map<number, number>();
    if (numbers?.kind === "number" && margins?.kind === "number") {
      numbers.values.forEach((no, row) => marginOf.set(no, margins.values[row]!));
    }
    const found = new Map<number, Span>();
    for (let i = 0; i < ads.length; i++) {
      const item = ads.dimensions.item![i]!;
      const margin = marginOf.get(item) ?? NaN;
      if (!Number.isFinite(margin)) continue;
      const sum = found.get(item) ?? { cost: 0, left: 0, luck: 0 };
      found.set(item, sum);
      sum.cost += ads.sums.cost[i]!;
      sum.left += ads.expected.revenue[i]! * margin;
      sum.luck += ads.squares[i]! * margin ** 2;
    }
    return found;
  }
}
