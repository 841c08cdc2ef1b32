import { eq } from "drizzle-orm";
import { sameValue } from "@/core/kit/diff";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { assignShelves, blankMemory, NEVER_SEEN, shelfDegrees, WHY } from "@/core/shelves/assign";
import { byCode, encodeMoves, movesBetween } from "@/core/shelves/moves";
import { inOrder } from "@/core/shelves/references";
import { mainMetric, shelvesOf, type ShelfSet } from "@/core/shelves/shelf-set";
import { storedSet } from "@/core/shelves/stored-set";
import type { Database } from "@/db/client";
import { shelfMoves, shelfSets } from "@/db/schema";
import { remember } from "../read/memo";
import { resultDays } from "../results/load";
import { loadShelfInputs, stampOf, windowOf, type LoadedInputs } from "./inputs";
import { lastMoveDay } from "./history";
import { decodeMembers, encodeMembers, memoryOf } from "./members";
import { findShelfSet, listShelfSets, unknownSet } from "./sets";
import { dayOf, today } from "./today";

/** What a recompute goes by, and must find again when it is kept. */
const READ = { definition: shelfSets.definition, stamp: shelfSets.stamp, computedAt: shelfSets.computedAt };

/** Where each row of the catalogue would stand without memory. */
export async function freshMembership(db: Database, set: ShelfSet, inputs: LoadedInputs): Promise<Uint8Array> {
  return remember(
    db,
    "fresh membership",
    stampOf(set, inputs),
    () => assignShelves(shelfDegrees(set, inputs), blankMemory(inputs.numbers.length), { patience: 1 }).shelf,
    8,
  );
}

export interface Recomputed {
  items: number;
  /** Items that changed shelf, came or left. */
  moved: number;
  /** Whether the moves wait for a person, since more of the items would move than the set allows. */
  held: boolean;
}

/**
 * Recomputes a set's membership with its memory, and keeps it with its moves. The same data again changes nothing; only a day
 * of results that it has not seen counts as a round of patience, or where it goes by no results, another day.
 * @param options.day the last day of the window; left out: of the results
 * @param options.accept lets moves pass that the set's limit would hold back
 */
export async function recomputeShelfSet(
  db: Database,
  key: string,
  options: { day?: number; accept?: boolean } = {},
): Promise<Outcome<Recomputed>> {
  const kept = await findShelfSet(db, key);
  if (!kept) return unknownSet(key);
  const { definition: set, codes } = kept;
  const window = await windowOf(db, set, options.day);
  const inputs = await loadShelfInputs(db, set, window);
  const { numbers, stamp } = inputs;
  if (numbers.length === 0)
    return fail("shelves-no-catalogue", "There is no catalogue to put on shelves yet.", "Upload a feed first.");
  const isEdited = kept.stamp === null && kept.members !== null;
  if (kept.stamp === stamp && !options.accept) return ok({ items: numbers.length, moved: 0, held: kept.held !== null });
  const memory = isEdited ? blankMemory(numbers.length) : memoryOf(kept, numbers);
  const degrees = shelfDegrees(set, inputs);
  // Patience is days: what else changes on a day, a report of another kind or a reading, adds no round.
  const isNewData = window
    ? window.to > (kept.computedTo ?? -Infinity)
    : kept.computedAt === null || (await dayOf(db, kept.computedAt)) < (await today(db));
  const assigned = assignShelves(degrees, memory, { patience: set.patience, isNewData });
  const codeOfPlace = shelvesOf(set).map((shelf) => codes[shelf.key]!);
  const after = { item: numbers, shelf: byCode(assigned, codeOfPlace), why: assigned.why };
  const before = decodeMembers(kept.members);
  const main = mainMetric(set);
  const column = main === null ? undefined : inputs.column(main);
  const moves = movesBetween(
    before,
    after,
    column?.kind === "number" ? column.values : null,
    isEdited ? WHY.edited : null,
  );
  const moved = moves.item.length;
  const changed = moves.from.reduce(
    (sum, from, at) => sum + (from !== NEVER_SEEN && moves.to[at] !== NEVER_SEEN ? 1 : 0),
    0,
  );
  // Days never go back, or an earlier day could not be told from the moves since: results may be taken away, or come late.
  const day = Math.max(window?.to ?? (await today(db)), (await lastMoveDay(db, key)) ?? 0);
  const isTooMany =
    set.askAbove !== null && kept.members !== null && !isEdited && changed > set.askAbove * numbers.length;
  if (isTooMany && !options.accept) {
    await db
      .update(shelfSets)
      .set({ held: { day, moved: changed, items: numbers.length } })
      .where(eq(shelfSets.key, key));
    return ok({ items: numbers.length, moved: 0, held: true });
  }
  const coded = {
    ...{ shelf: after.shelf, heading: byCode({ shelf: assigned.heading }, codeOfPlace), rounds: assigned.rounds },
  };
  const isKept = await db.transaction(async (tx) => {
    const [now] = await tx.select(READ).from(shelfSets).where(eq(shelfSets.key, key));
    if (
      !now ||
      !sameValue(storedSet(now.definition), set) ||
      now.stamp !== kept.stamp ||
      now.computedAt !== kept.computedAt
    ) {
      return false;
    }
    await tx
      .update(shelfSets)
      .set({
        members: encodeMembers(coded, numbers),
        computedAt: Date.now(),
        computedTo: window?.to ?? null,
        stamp,
        codes,
        held: null,
      })
      .where(eq(shelfSets.key, key));
    if (moved > 0) {
      await tx
        .insert(shelfMoves)
        .values({ setKey: key, at: Date.now(), day, count: moved, moves: Buffer.from(encodeMoves(moves)) });
    }
    return true;
  });
  // Somebody changed or recomputed it meanwhile: what was worked out here is of a set that is no more.
  if (!isKept) return recomputeShelfSet(db, key, options);
  return ok({ items: numbers.length, moved: kept.members === null ? 0 : changed, held: false });
}

/** Earlier days that a set without memory, or one left behind, is computed for, so that patience and history are by day. */
const MOST_DAYS = 31;

/**
 * Recomputes every set for each day of results that it has not seen, and once more for what else changed; sets that others
 * ask about come first.
 * @param onSet told before each set, for progress
 */
export async function recomputeAll(
  db: Database,
  onSet: (done: number, total: number) => Promise<void> = async () => {},
): Promise<{ sets: number; moved: number; held: string[] }> {
  const { order } = inOrder((await listShelfSets(db)).map(({ definition }) => definition));
  const span = await resultDays(db);
  let moved = 0;
  const held: string[] = [];
  for (const [at, { key, name }] of order.entries()) {
    await onSet(at, order.length);
    const from = span ? await firstDayFor(db, key, span.from, span.to) : null;
    const days = from === null || !span ? [undefined] : Array.from({ length: span.to - from + 1 }, (_, i) => from + i);
    for (const day of days) {
      const done = await recomputeShelfSet(db, key, day === undefined ? {} : { day });
      if (!done.ok) break;
      moved += done.value.moved;
      if (done.value.held) {
        held.push(name);
        break;
      }
    }
  }
  return { sets: order.length, moved, held };
}

/** The first day that a set has yet to be computed for. */
async function firstDayFor(db: Database, key: string, first: number, last: number): Promise<number> {
  const kept = await findShelfSet(db, key);
  const known = kept?.computedTo ?? null;
  // A set that was made or changed by hand is computed for today only; days before were not its own.
  if (kept?.members && known === null) return last;
  const next = known === null ? first : Math.min(known + 1, last);
  return Math.max(next, last - MOST_DAYS + 1, first);
}
