import { z } from "zod";
import { conditionsIn, isGroup, whereSchema, type Condition, type Where } from "@/core/catalogue/where";
import { SEARCHED_FIELDS } from "@/core/catalogue/find-rows";
import { shelfColumn, shelfSetOf } from "@/core/account/records/labels";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { blankSet } from "@/core/shelves/ready-made";
import { MOST_SHELVES, shelfSetSchema, shelvesOf, type ShelfRule, type ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import type { WorkspaceInfo } from "../workspaces";
import { recomputeShelfSet } from "./compute";
import { pickListSchema, putPicks, readList, type PickEffect } from "./picks";
import { findShelfSet, listShelfSets, saveShelfSet, unknownSet } from "./sets";
import { viewShelfSet } from "./view";

/** What is kept as a shelf from anywhere: a filter with what was searched, or items one by one. */
export const keepShelfSchema = z.object({
  /** The set it goes into, or the name of a new one. */
  set: z.string().max(40).optional(),
  newSet: z.string().trim().min(1).max(60).optional(),
  name: z.string().trim().min(1, "A shelf needs a name.").max(40),
  note: z.string().max(500).default(""),
  where: whereSchema.optional(),
  q: z.string().max(500).default(""),
  /** `set/shelf` that the list was narrowed to. */
  shelf: z.string().max(100).default(""),
  ids: z.array(z.string().max(500)).max(500_000).optional(),
  text: z.string().max(20_000_000).optional(),
});

export interface KeptShelf {
  set: string;
  shelf: string;
  items: number;
  picks: PickEffect | null;
}

/** A key that no other has, made of a name. */
export function freeKey(name: string, taken: string[]): string {
  const plain =
    name
      .toLowerCase()
      .normalize("NFKD")
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-+|-+$/g, "")
      .slice(0, 34) || "shelf";
  let key = plain;
  for (let no = 2; taken.includes(key); no++) key = `${plain}-${no}`;
  return key;
}

/** Puts a filter, a pick or a pasted list onto a shelf of its own, first in its set, and computes the set. */
export async function keepShelf(
  db: Database,
  info: WorkspaceInfo,
  asked: z.output<typeof keepShelfSchema>,
): Promise<Outcome<KeptShelf>> {
  const { name, note, ids, text } = asked;
  const sets = (await listShelfSets(db)).map(({ definition }) => definition);
  const known = asked.set === undefined ? null : await findShelfSet(db, asked.set);
  if (asked.set !== undefined && !known) return unknownSet(asked.set);
  if (!known && !asked.newSet)
    return fail("shelf-set-missing", "Say which set the shelf goes into.", "Choose one, or name a new one.");
  const set: ShelfSet =
    known?.definition ??
    blankSet(
      freeKey(
        asked.newSet!,
        sets.map(({ key }) => key),
      ),
      asked.newSet!,
      info.goal,
    );
  if (set.shelves.length >= MOST_SHELVES)
    return fail("shelf-set-full", `"${set.name}" has ${MOST_SHELVES} shelves already.`, "Choose another set.");
  const twin = shelvesOf(set).find((shelf) => shelf.name.toLowerCase() === name.toLowerCase());
  const isPick = ids !== undefined || text !== undefined;
  // Before anything is made, so that a list that can't be taken leaves no empty shelf behind.
  const list = isPick ? pickListSchema.parse({ ids, text, mode: "add" }) : null;
  const unread = list && (await readList(db, list));
  if (unread && !unread.ok) return unread;
  if (twin) {
    const there = set.shelves.find(({ key }) => key === twin.key);
    if (!isPick || there?.kind !== "pick")
      return fail(
        "shelf-name-taken",
        `"${set.name}" has a shelf "${twin.name}" already.`,
        "Give this one another name.",
      );
    // The same name again adds to a hand-picked shelf.
    return addPicks(db, set.key, twin.key, ids, text);
  }
  const base = {
    key: freeKey(name, Object.keys(known?.codes ?? {}).concat(shelvesOf(set).map(({ key }) => key))),
    name,
    heat: null,
    goal: null,
    note,
    lookAgain: null,
  };
  let shelf: ShelfRule;
  if (isPick) shelf = { ...base, kind: "pick", families: false };
  else {
    const where = await asRule(db, sets, asked);
    if (!where.ok) return where;
    shelf = { ...base, kind: "rule", where: where.value };
  }
  const parsed = shelfSetSchema.safeParse({ ...set, shelves: [shelf, ...set.shelves] });
  if (!parsed.success) return fail("shelf-unfit", parsed.error.issues[0]?.message ?? "This can't be kept as a shelf.");
  const saved = await saveShelfSet(db, parsed.data);
  if (!saved.ok) return saved;
  if (isPick) return addPicks(db, set.key, shelf.key, ids, text);
  return counted(db, set.key, shelf.key, null);
}

async function addPicks(
  db: Database,
  set: string,
  shelf: string,
  ids: string[] | undefined,
  text: string | undefined,
): Promise<Outcome<KeptShelf>> {
  const put = await putPicks(db, set, shelf, pickListSchema.parse({ ids, text, mode: "add" }));
  return put.ok ? counted(db, set, shelf, put.value) : put;
}

async function counted(
  db: Database,
  set: string,
  shelf: string,
  picks: PickEffect | null,
): Promise<Outcome<KeptShelf>> {
  const done = await recomputeShelfSet(db, set);
  if (!done.ok) return done;
  const view = await viewShelfSet(db, set);
  return ok({
    set,
    shelf,
    picks,
    items: view.ok ? (view.value.shelves.find(({ key }) => key === shelf)?.items ?? 0) : 0,
  });
}

/** A filter of the item table as conditions of a shelf. */
async function asRule(
  db: Database,
  sets: ShelfSet[],
  { where, q, shelf }: z.output<typeof keepShelfSchema>,
): Promise<Outcome<Where>> {
  const of: Where["of"] = where ? [...where.of] : [];
  const match = where?.match ?? "all";
  const given: Where = { match, of };
  if (conditionsIn(given).some(({ field }) => field === "home")) {
    return fail(
      "shelf-asks-home",
      "A shelf can't ask whether an item has a home: campaigns are made of shelves.",
      "Take that condition out of the filter.",
    );
  }
  const translated = inValues(given, sets);
  const more: Where["of"] = [];
  const searched = q.trim();
  if (searched !== "")
    more.push({
      match: "any",
      of: SEARCHED_FIELDS.map((field): Condition => ({ field, op: "contains", value: searched })),
    });
  const [setKey = "", shelfKey = ""] = shelf.split("/");
  if (shelf !== "") {
    const set = sets.find(({ key }) => key === setKey);
    const found = set && shelvesOf(set).find(({ key }) => key === shelfKey);
    if (!found) return fail("shelf-unknown", `There is no shelf "${shelf}" any more.`);
    more.push({ field: shelfColumn(setKey), op: "is", value: found.value });
  }
  if (translated.of.length === 0 && more.length === 0) {
    return fail(
      "shelf-asks-nothing",
      "Without a filter the shelf would take the whole catalogue.",
      "Filter or search first, or select items.",
    );
  }
  if (more.length === 0) return ok(translated);
  return ok({
    match: "all",
    of: [...(translated.of.length === 0 ? [] : translated.match === "all" ? translated.of : [translated]), ...more],
  });
}

/** Conditions on other sets' shelves by what stays when those are renamed. */
function inValues(where: Where, sets: ShelfSet[]): Where {
  return {
    match: where.match,
    of: where.of.map((part) => {
      if (isGroup(part)) return inValues(part, sets);
      const set = sets.find(({ key }) => key === shelfSetOf(part.field));
      const shelf = set && shelvesOf(set).find(({ name }) => name.toLowerCase() === part.value.trim().toLowerCase());
      return shelf ? { ...part, value: shelf.value } : part;
    }),
  };
}
