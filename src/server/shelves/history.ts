import { and, asc, desc, eq, gt, gte, lte, max } from "drizzle-orm";
import { z } from "zod";
import { rowIndex } from "@/core/results/window-sums";
import { cellText } from "@/core/kit/columns";
import { daySchema } from "@/core/kit/day-schema";
import { formatDay, parseDay } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { NEVER_SEEN } from "@/core/shelves/assign";
import { decodeMoves, joinMoves, whyWords, type Moves } from "@/core/shelves/moves";
import { metricLabel } from "@/core/shelves/shelf-metrics";
import { mainMetric, shelvesOf } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { shelfMoves } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { findShelfSet, listShelfSets, unknownSet, type KeptSet } from "./sets";
import { today } from "./today";

/** The recomputes of a set after a day, latest first: taken back in that order they lead to how it stood then. */
export async function movesAfter(db: Database, key: string, day: number): Promise<{ day: number; moves: Moves }[]> {
  const rows = await db
    .select()
    .from(shelfMoves)
    .where(and(eq(shelfMoves.setKey, key), gt(shelfMoves.day, day)))
    .orderBy(desc(shelfMoves.id));
  return rows.map((row) => ({ day: row.day, moves: decodeMoves(row.moves) }));
}

/** The latest day that a set's moves are of; null before the first. */
export async function lastMoveDay(db: Database, key: string): Promise<number | null> {
  const [row] = await db
    .select({ day: max(shelfMoves.day) })
    .from(shelfMoves)
    .where(eq(shelfMoves.setKey, key));
  return row?.day ?? null;
}

export const movementsSchema = z.object({
  /** The day it is compared with: how it stood at its end. Left out: seven days before the last. */
  from: daySchema.optional(),
  to: daySchema.optional(),
  /** Only what came to or left this shelf, by key. */
  shelf: z.string().max(40).optional(),
  limit: z.coerce.number().int().min(1).max(500_000).default(1000),
});

export interface Movement {
  id: string;
  /** Null for an item that left the catalogue. */
  title: string | null;
  /** Names of shelves; null for not in the catalogue. */
  from: string | null;
  to: string | null;
  why: string;
  /** The set's main metric then; null where it had none. */
  value: number | null;
}

export interface Movements {
  from: string;
  to: string;
  /** The earliest day that can be compared with. */
  first: string | null;
  metric: { name: string; label: string } | null;
  total: number;
  /** Came and left by shelf, in the set's order. */
  byShelf: { key: string; name: string; came: number; left: number }[];
  moves: Movement[];
}

/** Why an item moved: between a set's last shelf and one that asks for evidence it is the least clicks and orders that it went past. */
function whyOf({ definition, codes }: KeptSet, { from, to, why }: Moves, at: number): string {
  const asksEvidence = definition.shelves.some((shelf) => shelf.kind === "band" && shelf.evidence);
  const rest = codes[definition.rest.key];
  const isRead = asksEvidence && (from[at] === rest || to[at] === rest);
  return whyWords(why[at]!, definition.patience, isRead ? "the least clicks and orders" : undefined);
}

/** Names of shelves by code; those that are gone from the set are told by their keys. */
function namesByCode({ codes, definition }: KeptSet): Map<number, { key: string; name: string }> {
  const names = new Map(shelvesOf(definition).map(({ key, name }) => [key, name]));
  return new Map(
    Object.entries(codes).map(([key, code]) => [code, { key, name: names.get(key) ?? `${key} (no longer there)` }]),
  );
}

/** What came to and left the shelves of a set between two days, with why. Items that went and came back are left out. */
export async function movements(
  db: Database,
  key: string,
  { from, to, shelf, limit }: z.output<typeof movementsSchema>,
): Promise<Outcome<Movements>> {
  const kept = await findShelfSet(db, key);
  if (!kept) return unknownSet(key);
  const newest = Math.max(kept.computedTo ?? 0, (await lastMoveDay(db, key)) ?? 0) || (await today(db));
  const last = to === undefined ? newest : parseDay(to);
  const start = from === undefined ? last - 7 : parseDay(from);
  if (start > last) return fail("days-turned", "The first day lies after the second.", "Turn them round.");
  const [oldest] = await db
    .select({ day: shelfMoves.day })
    .from(shelfMoves)
    .where(eq(shelfMoves.setKey, key))
    .orderBy(asc(shelfMoves.id))
    .limit(1);
  const rows = await db
    .select({ moves: shelfMoves.moves })
    .from(shelfMoves)
    .where(and(eq(shelfMoves.setKey, key), gt(shelfMoves.day, start), lte(shelfMoves.day, last)))
    .orderBy(asc(shelfMoves.id));
  const joined = joinMoves(rows.map((row) => decodeMoves(row.moves)));
  const names = namesByCode(kept);
  const wanted = shelf === undefined ? null : (kept.codes[shelf] ?? -1);
  const told: number[] = [];
  const counts = new Map<number, { came: number; left: number }>();
  const count = (code: number, what: "came" | "left") => {
    if (code === NEVER_SEEN) return;
    const found = counts.get(code) ?? { came: 0, left: 0 };
    found[what]++;
    counts.set(code, found);
  };
  for (let at = 0; at < joined.item.length; at++) {
    count(joined.to[at]!, "came");
    count(joined.from[at]!, "left");
    if (wanted === null || joined.to[at] === wanted || joined.from[at] === wanted) told.push(at);
  }
  const describe = await itemsByNo(
    db,
    told.slice(0, limit).map((at) => joined.item[at]!),
  );
  const metric = mainMetric(kept.definition);
  return ok({
    ...{ from: formatDay(start), to: formatDay(last), first: oldest ? formatDay(oldest.day) : null },
    metric: metric === null ? null : { name: metric, label: metricLabel(metric) },
    total: told.length,
    byShelf: shelvesOf(kept.definition).map((one) => ({
      ...{ key: one.key, name: one.name },
      ...(counts.get(kept.codes[one.key]!) ?? { came: 0, left: 0 }),
    })),
    moves: told.slice(0, limit).map((at) => ({
      ...describe(joined.item[at]!),
      from: joined.from[at] === NEVER_SEEN ? null : (names.get(joined.from[at]!)?.name ?? null),
      to: joined.to[at] === NEVER_SEEN ? null : (names.get(joined.to[at]!)?.name ?? null),
      why: whyOf(kept, joined, at),
      value: Number.isFinite(joined.value[at]) ? joined.value[at]! : null,
    })),
  });
}

/** IDs and titles of items by number, also of those that left the catalogue. */
async function itemsByNo(
  db: Database,
  numbers: number[],
): Promise<(no: number) => { id: string; title: string | null }> {
  const { columns } = await loadCatalogue(db, ["id", "title"]);
  const itemNo = columns["itemNo"];
  const index = rowIndex(itemNo?.kind === "number" ? itemNo.values : []);
  const rowOf = (no: number) => (no < index.length ? index[no]! : -1);
  const gone = numbers.filter((no) => rowOf(no) < 0);
  const { rows } = await db.$client.execute({
    sql: "SELECT item_no, max(item_id) FROM items WHERE item_no IN (SELECT value FROM json_each(?)) GROUP BY item_no",
    args: [JSON.stringify(gone)],
  });
  const ids = new Map(rows.map((row) => [Number(row[0]), String(row[1])]));
  return (no) => {
    const row = rowOf(no);
    if (row < 0) return { id: ids.get(no) ?? `item ${no}`, title: null };
    return {
      id: columns["id"] ? cellText(columns["id"], row) : "",
      title: columns["title"] ? cellText(columns["title"], row) : "",
    };
  };
}

/** One stay of an item on a shelf. */
export interface ShelfStay {
  set: string;
  setName: string;
  shelf: string;
  /** The day it came, and how: the set's main metric then. */
  since: string;
  metric: string | null;
  value: number | null;
  why: string;
}

/** Where an item stood in every set, latest first. */
export async function itemStays(db: Database, itemNo: number): Promise<ShelfStay[]> {
  const stays: ShelfStay[] = [];
  for (const { definition } of await listShelfSets(db)) {
    const kept = await findShelfSet(db, definition.key);
    if (!kept) continue;
    const names = namesByCode(kept);
    const rows = await db
      .select({ day: shelfMoves.day, moves: shelfMoves.moves })
      .from(shelfMoves)
      .where(and(eq(shelfMoves.setKey, definition.key), gte(shelfMoves.count, 1)))
      .orderBy(desc(shelfMoves.id));
    const main = mainMetric(definition);
    for (const row of rows) {
      const moves = decodeMoves(row.moves);
      const at = moves.item.indexOf(itemNo);
      if (at < 0 || moves.to[at] === NEVER_SEEN) continue;
      stays.push({
        ...{ set: definition.key, setName: definition.name, since: formatDay(row.day), metric: main },
        shelf: names.get(moves.to[at]!)?.name ?? "",
        value: Number.isFinite(moves.value[at]) ? moves.value[at]! : null,
        why: whyOf(kept, moves, at),
      });
    }
  }
  return stays;
}
