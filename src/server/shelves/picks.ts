import { and, eq, inArray } from "drizzle-orm";
import { z } from "zod";
import { cellText } from "@/core/kit/columns";
import { daySchema } from "@/core/kit/day-schema";
import { formatDay, parseDay } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { listEffect, listOfIds, type ListEntry } from "@/core/shelves/lists";
import type { ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { shelfPicks } from "@/db/schema";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { noteChange } from "../workspaces";
import { findShelfSet } from "./sets";
import { today } from "./today";

/** IDs a list can hold. */
const MOST_PICKS = 500_000;

export const pickListSchema = z.object({
  /** Pasted text in any form; or the IDs themselves. */
  text: z.string().max(20_000_000).optional(),
  ids: z.array(z.string().max(500)).max(MOST_PICKS).optional(),
  mode: z.enum(["replace", "add", "remove"]).default("add"),
  /** Days for those that bring none of their own. */
  from: z.string().nullable().default(null),
  until: z.string().nullable().default(null),
  /** Only say what it would do. */
  preview: z.boolean().default(false),
});

/** What a list does, or would do, to a hand-picked shelf. */
export interface PickEffect {
  added: PickedItem[];
  removed: PickedItem[];
  kept: number;
  /** IDs that no reading has; they are kept for when they come. */
  unknown: string[];
  counts: { added: number; removed: number; kept: number; unknown: number };
}

export interface PickedItem {
  id: string;
  title: string | null;
  from: string | null;
  until: string | null;
}

/** Items told one by one; of more, their number says enough on a screen. */
const MOST_TOLD = 500;

/** From an ID in any case to the ID as the feed has it. */
async function idIndex(db: Database): Promise<ReadonlyMap<string, { id: string; row: number }>> {
  const { columns, revision, length } = await loadCatalogue(db, ["id"]);
  return remember(db, "items by ID in any case", [revision], () => {
    const index = new Map<string, { id: string; row: number }>();
    const ids = columns["id"];
    const all = Array.from({ length: ids ? length : 0 }, (_, row) => ({ id: cellText(ids!, row), row }));
    for (const one of all) index.set(one.id.toLowerCase(), one);
    // Last, so that where two IDs differ in their case alone each is still found by itself.
    for (const one of all) index.set(one.id, one);
    return index;
  });
}

/** What is found by an ID in any case. */
function finderIn(index: Awaited<ReturnType<typeof idIndex>>) {
  return (id: string) => index.get(id) ?? index.get(id.toLowerCase());
}

/** A list as the catalogue understands it: by the feed's own ID, or by the one given where no reading has it. */
export async function readList(
  db: Database,
  { text, ids, mode, from, until }: z.output<typeof pickListSchema>,
): Promise<Outcome<{ entries: Map<string, ListEntry>; known: ReturnType<typeof finderIn> }>> {
  const known = finderIn(await idIndex(db));
  const listed = listOfIds(text ?? "", (id) => known(id) !== undefined);
  const given = [...listed, ...(ids ?? []).map((id) => ({ id: id.trim(), from: null, until: null }))].filter(
    ({ id }) => id !== "",
  );
  if (given.length === 0 && mode !== "replace")
    return fail("picks-none", "The list names no items.", "Paste item IDs, one a line or parted by commas.");
  if (given.length > MOST_PICKS)
    return fail("picks-too-many", `A list holds at most ${MOST_PICKS} IDs; this one has ${given.length}.`);
  const entries = new Map<string, ListEntry>();
  const seen = new Set<string>();
  for (const { id: typed, ...days } of given) {
    const id = known(typed)?.id ?? typed;
    // The same ID in another case is the same, unless the feed tells the two apart; the first stands.
    const plain = known(typed) ? id : id.toLowerCase();
    if (seen.has(plain)) continue;
    seen.add(plain);
    entries.set(id, { id, from: days.from ?? from, until: days.until ?? until });
  }
  for (const { id, from: start, until: end } of entries.values()) {
    for (const day of [start, end])
      if (day !== null && !daySchema.safeParse(day).success)
        return fail("day-unreadable", `"${day}" beside ${id} is no day.`, "Write days as 2026-11-27.");
    if (start !== null && end !== null && start > end)
      return fail("days-turned", `${id} would leave on ${end} before it comes on ${start}.`);
  }
  return ok({ entries, known });
}

/** Puts a list on a hand-picked shelf, or says what that would do. */
export async function putPicks(
  db: Database,
  setKey: string,
  shelfKey: string,
  asked: z.output<typeof pickListSchema>,
): Promise<Outcome<PickEffect>> {
  const { mode, preview } = asked;
  const set = await findShelfSet(db, setKey);
  const shelf = set?.definition.shelves.find(({ key }) => key === shelfKey);
  if (!set || !shelf) return fail("shelf-unknown", `There is no shelf "${shelfKey}" in a set "${setKey}".`);
  if (shelf.kind !== "pick") {
    return fail("shelf-not-picked", `"${shelf.name}" is not picked by hand.`, "Lists go onto hand-picked shelves.");
  }
  const read = await readList(db, asked);
  if (!read.ok) return read;
  const { entries, known } = read.value;
  const stored = await db
    .select()
    .from(shelfPicks)
    .where(and(eq(shelfPicks.setKey, setKey), eq(shelfPicks.shelf, shelfKey)));
  const effect = listEffect(
    stored.map(({ item }) => item),
    [...entries.keys()],
    mode,
    (id) => known(id)?.id ?? id.toLowerCase(),
  );
  if (!preview) {
    await store(db, setKey, shelfKey, effect.removed, mode === "remove" ? [] : [...entries.values()]);
    const words = [
      effect.added.length && `${effect.added.length} added`,
      effect.removed.length && `${effect.removed.length} taken off`,
    ];
    await noteChange(db, `Shelf "${shelf.name}": ${words.filter(Boolean).join(", ") || "list kept"}`, "", "shelves");
  }
  const { columns } = await loadCatalogue(db, ["title"]);
  const told = (id: string): PickedItem => {
    const found = known(id);
    const entry = entries.get(id);
    return {
      id,
      title: found && columns["title"] ? cellText(columns["title"], found.row) : null,
      from: entry?.from ?? null,
      until: entry?.until ?? null,
    };
  };
  const unknown = [...entries.keys()].filter((id) => known(id) === undefined);
  return ok({
    added: effect.added.slice(0, MOST_TOLD).map(told),
    removed: effect.removed.slice(0, MOST_TOLD).map(told),
    kept: effect.kept.length,
    unknown: unknown.slice(0, MOST_TOLD),
    counts: {
      added: effect.added.length,
      removed: effect.removed.length,
      kept: effect.kept.length,
      unknown: unknown.length,
    },
  });
}

/** Rows written by one statement. */
const AT_ONCE = 10_000;

async function store(
  db: Database,
  setKey: string,
  shelf: string,
  removed: string[],
  put: { id: string; from: string | null; until: string | null }[],
) {
  const tx = await db.$client.transaction("write");
  try {
    for (let at = 0; at < removed.length; at += AT_ONCE) {
      await tx.execute({
        sql: "DELETE FROM shelf_picks WHERE set_key = ? AND shelf = ? AND item IN (SELECT value FROM json_each(?))",
        args: [setKey, shelf, JSON.stringify(removed.slice(at, at + AT_ONCE))],
      });
    }
    const rows = put.map(({ id, from, until }) => [
      id,
      from === null ? null : parseDay(from),
      until === null ? null : parseDay(until),
    ]);
    for (let at = 0; at < rows.length; at += AT_ONCE) {
      await tx.execute({
        sql: `INSERT INTO shelf_picks (set_key, shelf, item, from_day, until_day, at)
          SELECT ?, ?, json_extract(value, '$[0]'), json_extract(value, '$[1]'), json_extract(value, '$[2]'), ? FROM json_each(?) WHERE true
          ON CONFLICT (set_key, shelf, item) DO UPDATE SET from_day = excluded.from_day, until_day = excluded.until_day, at = excluded.at`,
        args: [setKey, shelf, Date.now(), JSON.stringify(rows.slice(at, at + AT_ONCE))],
      });
    }
    await tx.commit();
  } finally {
    tx.close();
  }
}

/** The items on a hand-picked shelf, with those that no reading has. */
export async function listPicks(db: Database, setKey: string, shelf: string): Promise<PickedItem[]> {
  const known = finderIn(await idIndex(db));
  const { columns } = await loadCatalogue(db, ["title"]);
  const rows = await db
    .select()
    .from(shelfPicks)
    .where(and(eq(shelfPicks.setKey, setKey), eq(shelfPicks.shelf, shelf)));
  return rows.map(({ item, fromDay, untilDay }) => {
    const found = known(item);
    return {
      id: found?.id ?? item,
      title: found && columns["title"] ? cellText(columns["title"], found.row) : null,
      from: fromDay === null ? null : formatDay(fromDay),
      until: untilDay === null ? null : formatDay(untilDay),
    };
  });
}

/** When a set's lists changed last, and on which day they are looked at: what membership of picked shelves hangs on. */
export async function picksVersion(db: Database, setKey: string): Promise<string> {
  const { rows } = await db.$client.execute({
    sql: "SELECT count(*), coalesce(max(at), 0), max(coalesce(from_day, 0)), max(coalesce(until_day, 0)) FROM shelf_picks WHERE set_key = ?",
    args: [setKey],
  });
  const [count, at, from, until] = [0, 1, 2, 3].map((place) => Number(rows[0]![place]));
  return count === 0 ? "" : `${count}.${at}${from || until ? `.${await today(db)}` : ""}`;
}

/** Rows of the hand-picked shelves of a set on a day (left out: today), by shelf key, as ones. */
export async function pickedRows(db: Database, set: ShelfSet, day: number | null): Promise<Map<string, Uint8Array>> {
  const shelves = set.shelves.filter((shelf) => shelf.kind === "pick");
  const found = new Map<string, Uint8Array>();
  if (shelves.length === 0) return found;
  const known = finderIn(await idIndex(db));
  const { columns, length } = await loadCatalogue(db, ["family"]);
  const family = columns["family"]?.kind === "text" ? columns["family"] : null;
  const now = Math.max(day ?? 0, await today(db));
  const keys = shelves.map(({ key }) => key);
  const rows = await db
    .select()
    .from(shelfPicks)
    .where(and(eq(shelfPicks.setKey, set.key), inArray(shelfPicks.shelf, keys)));
  for (const shelf of shelves) {
    const mask = new Uint8Array(length);
    const families = new Set<number>();
    for (const { shelf: of, item, fromDay, untilDay } of rows) {
      if (of !== shelf.key || (fromDay !== null && now < fromDay) || (untilDay !== null && now > untilDay)) continue;
      const row = known(item)?.row;
      if (row === undefined) continue;
      mask[row] = 1;
      if (family && family.codes[row] !== 0) families.add(family.codes[row]!);
    }
    if (shelf.kind === "pick" && shelf.families && family) {
      for (let row = 0; row < length; row++) if (families.has(family.codes[row]!)) mask[row] = 1;
    }
    found.set(shelf.key, mask);
  }
  return found;
}
