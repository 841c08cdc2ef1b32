import { and, asc, eq, isNotNull, isNull } from "drizzle-orm";
import { z } from "zod";
import { sameValue } from "@/core/kit/diff";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { codesFor } from "@/core/shelves/moves";
import { STARTING_SET } from "@/core/shelves/ready-made";
import { inOrder, setsNamedIn } from "@/core/shelves/references";
import { shelvesOf, type ShelfSet } from "@/core/shelves/shelf-set";
import { storedSet } from "@/core/shelves/stored-set";
import type { Database } from "@/db/client";
import { labelColumns, shelfMoves, shelfPicks, shelfSets, type HeldMoves } from "@/db/schema";
import { changedMeanwhile } from "../meanwhile";
import { noteChange } from "../workspaces";

export interface ShelfSetInfo {
  definition: ShelfSet;
  computedAt: number | null;
  computedTo: number | null;
  held: HeldMoves | null;
}

/** A set with what it keeps between recomputes. */
export interface KeptSet extends ShelfSetInfo {
  members: Buffer | null;
  codes: Record<string, number>;
  stamp: string | null;
}

function kept(row: typeof shelfSets.$inferSelect): KeptSet {
  const { computedAt, computedTo, held, members, stamp } = row;
  const definition = storedSet(row.definition);
  const keys = shelvesOf(definition).map(({ key }) => key);
  // Sets of earlier releases kept shelves by their places.
  const codes = codesFor(keys, row.codes ?? {});
  return { definition, computedAt, computedTo, held: held ?? null, members, codes, stamp };
}

/** All shelf sets, in the order people gave them. */
export async function listShelfSets(db: Database): Promise<ShelfSetInfo[]> {
  const { key, definition, computedAt, computedTo, held } = shelfSets;
  const rows = await db
    .select({ key, definition, computedAt, computedTo, held })
    .from(shelfSets)
    .where(isNull(shelfSets.removedAt))
    .orderBy(asc(shelfSets.place), asc(key));
  return rows.map((row) => ({ ...row, definition: storedSet(row.definition), held: row.held ?? null }));
}

/** A set with its membership, or null. */
export async function findShelfSet(db: Database, key: string): Promise<KeptSet | null> {
  const [row] = await db
    .select()
    .from(shelfSets)
    .where(and(eq(shelfSets.key, key), isNull(shelfSets.removedAt)));
  return row ? kept(row) : null;
}

export function unknownSet(key: string) {
  return fail("shelf-set-unknown", `There is no shelf set "${key}".`);
}

/** Keeps a set under its key, new or changed. Shelves go on under the values they had; who stands where is settled by the next recompute. */
export async function saveShelfSet(db: Database, given: ShelfSet, since?: string): Promise<Outcome<null>> {
  const known = await findShelfSet(db, given.key);
  const name = (known?.definition ?? given).name;
  const seen = await changedMeanwhile(db, since, {
    ...{ what: `The shelf set "${name}"`, about: `shelf-set/${given.key}` },
    ...{ stored: known?.definition ?? null, given },
  });
  if (!seen.ok) return seen;
  const sets = await definitions(db);
  const fault = unfit(given, sets);
  if (fault) return fault;
  const values = new Map(
    known ? [...known.definition.shelves, known.definition.rest].map(({ key, value }) => [key, value]) : [],
  );
  const withValue = <S extends { key: string; value?: string | undefined }>(shelf: S): S => {
    const value = shelf.value ?? values.get(shelf.key);
    return value === undefined ? shelf : { ...shelf, value };
  };
  const definition: ShelfSet = { ...given, shelves: given.shelves.map(withValue), rest: withValue(given.rest) };
  const codes = codesFor(
    shelvesOf(definition).map(({ key }) => key),
    known?.codes ?? {},
  );
  // What stands on shelves stays until the recompute that follows; that it sees a changed set is told by the empty stamp.
  const isSame = known !== null && sameValue(membershipPart(known.definition), membershipPart(definition));
  const change = { definition, codes, ...(isSame ? {} : { stamp: null, held: null }) };
  await db.transaction(async (tx) => {
    // One that was taken away under this key made room for another: nothing of it goes on in this one.
    if (!known) await forget(tx, definition.key);
    await tx
      .insert(shelfSets)
      .values({ key: definition.key, place: sets.length, ...change })
      .onConflictDoUpdate({ target: shelfSets.key, set: change });
  });
  await noteChange(db, `Shelf set "${definition.name}" saved`, "", "shelves", `shelf-set/${definition.key}`);
  return seen;
}

/** What membership hangs on: a set with other names, notes and limits puts every item where it was. */
function membershipPart({ name: _, about: __, askAbove: ___, rest, ...set }: ShelfSet): object {
  const shelves = set.shelves.map(
    ({ name: _, note: __, goal: ___, lookAgain: ____, heat: _____, value: ______, ...shelf }) => shelf,
  );
  return { ...set, shelves, rest: rest.key };
}

async function definitions(db: Database): Promise<ShelfSet[]> {
  return (await listShelfSets(db)).map(({ definition }) => definition);
}

/** Why a set can't stand beside the others; null when it can. */
function unfit(given: ShelfSet, sets: ShelfSet[]) {
  const twin = sets.find((set) => set.key !== given.key && set.name.toLowerCase() === given.name.toLowerCase());
  if (twin)
    return fail("shelf-set-name-taken", `There is a set called "${twin.name}" already.`, "Give this one another name.");
  return referenceFault(given, sets);
}

/** Why a set can't ask about the sets it asks about; null when it can. */
function referenceFault(given: ShelfSet, sets: ShelfSet[]) {
  const unknown = setsNamedIn(given).find((key) => !sets.some((set) => set.key === key) && key !== given.key);
  if (unknown)
    return fail(
      "shelf-set-asked-gone",
      `A rule asks for a shelf of "${unknown}", and there is no such set.`,
      "Choose another set in that rule.",
    );
  const { circle } = inOrder([...sets.filter(({ key }) => key !== given.key), given]);
  if (!circle.some(({ key }) => key === given.key)) return null;
  const names = circle.map(({ name }) => `"${name}"`).join(", ");
  return fail(
    "shelf-sets-in-a-circle",
    `These sets ask about each other in a circle: ${names}.`,
    "Take one of those rules out.",
  );
}

/** Takes a set away. Refused for the one that other screens look at, and while another set asks about it. */
export async function removeShelfSet(db: Database, key: string): Promise<Outcome<null>> {
  const known = await findShelfSet(db, key);
  if (!known) return unknownSet(key);
  const { name } = known.definition;
  if (key === STARTING_SET) {
    return fail(
      "shelf-set-needed",
      `Today and the results look at "${name}", so it stays.`,
      "Change its shelves, or make another set beside it.",
    );
  }
  const sets = await listShelfSets(db);
  const user = sets.find(({ definition }) => definition.key !== key && setsNamedIn(definition).includes(key));
  if (user) {
    return fail(
      "shelf-set-in-use",
      `"${user.definition.name}" asks for shelves of this set.`,
      "Change that rule first.",
    );
  }
  await db.update(shelfSets).set({ removedAt: Date.now() }).where(eq(shelfSets.key, key));
  await noteChange(db, `Shelf set "${name}" removed`, "", "shelves", `shelf-set/${key}`);
  return ok(null);
}

/** Brings a set back that was taken away, with its lists, its history and its label columns. */
export async function restoreShelfSet(db: Database, key: string): Promise<Outcome<null>> {
  const [row] = await db
    .select()
    .from(shelfSets)
    .where(and(eq(shelfSets.key, key), isNotNull(shelfSets.removedAt)));
  if (!row) return unknownSet(key);
  const given = storedSet(row.definition);
  const fault = unfit(given, await definitions(db));
  if (fault) return fault;
  await db.update(shelfSets).set({ removedAt: null }).where(eq(shelfSets.key, key));
  await noteChange(db, `Shelf set "${given.name}" brought back`, "", "shelves", `shelf-set/${given.key}`);
  return ok(null);
}

/** Forgets a set with all that hangs on it. */
async function forget(tx: Pick<Database, "delete">, key: string): Promise<void> {
  await tx.delete(shelfSets).where(eq(shelfSets.key, key));
  await tx.delete(shelfPicks).where(eq(shelfPicks.setKey, key));
  await tx.delete(shelfMoves).where(eq(shelfMoves.setKey, key));
  await tx.delete(labelColumns).where(eq(labelColumns.setKey, key));
}

export const setOrderSchema = z.object({ keys: z.array(z.string().max(40)).max(500) });

/** Puts sets into an order: that of lists, and of who goes first where two claim an item. Those not named keep theirs, after. */
export async function orderShelfSets(db: Database, { keys }: z.infer<typeof setOrderSchema>): Promise<Outcome<null>> {
  const sets = (await listShelfSets(db)).map(({ definition: { key } }) => key);
  const unknown = keys.find((key) => !sets.includes(key));
  if (unknown !== undefined) return unknownSet(unknown);
  const order = [...new Set([...keys, ...sets])];
  await db.transaction(async (tx) => {
    for (const [place, key] of order.entries()) await tx.update(shelfSets).set({ place }).where(eq(shelfSets.key, key));
  });
  return ok(null);
}
