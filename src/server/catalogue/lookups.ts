import { asc, eq } from "drizzle-orm";
import { lookupListSchema, type DerivedField, type LookupList } from "@/core/catalogue/derive/derived-field";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { versionOf } from "@/core/kit/version-of";
import { lookupLists } from "@/db/schema";
import { changedMeanwhile } from "../meanwhile";
import { noteChange } from "../workspaces";
import { startFinish } from "./finish";
import { listDerived } from "./derived";

/** All look-up lists. */
export async function listLookups(db: Database): Promise<LookupList[]> {
  return db.select().from(lookupLists).orderBy(asc(lookupLists.name));
}

/**
 * Keeps a look-up list, new or changed.
 *
 * @param since the version that was seen (of `null` for a new list); left out, what is there is written over
 */
export async function saveLookup(
  db: Database,
  list: LookupList,
  since?: string,
): Promise<Outcome<{ job: string | null }>> {
  const given = lookupListSchema.parse(list);
  const { key, ...rest } = given;
  const [stored = null] = await db.select().from(lookupLists).where(eq(lookupLists.key, key));
  if (stored && since === versionOf(null)) {
    return fail("lookup-named", `There is a look-up list "${stored.name}" already.`, "Give this one another name.");
  }
  const seen = await changedMeanwhile(db, since, {
    what: `The look-up list "${(stored ?? given).name}"`,
    about: `list/${(stored ?? given).key}`,
    ...{ stored, given },
  });
  if (!seen.ok) return seen;
  await db
    .insert(lookupLists)
    .values({ key, ...rest })
    .onConflictDoUpdate({ target: lookupLists.key, set: rest });
  await noteChange(
    db,
    `Look-up list "${rest.name}" saved with ${rest.rows.length} entries`,
    "",
    "catalogue",
    `list/${key}`,
  );
  const isUsed = (await listDerived(db)).some((field) => usesList(field, key));
  return ok({ job: isUsed ? await startFinish(db) : null });
}

function usesList(field: DerivedField, key: string): boolean {
  return field.rules.some(({ then }) =>
    then.some(({ steps }) => steps.some((step) => step.do === "look-up" && step.list === key)),
  );
}

/** Removes a look-up list that no derived field uses. */
export async function removeLookup(db: Database, key: string): Promise<Outcome<object>> {
  const user = (await listDerived(db)).find((field) => usesList(field, key));
  if (user) return fail("lookup-used", `"${user.name}" looks up in it.`, "Change that field first.");
  await db.delete(lookupLists).where(eq(lookupLists.key, key));
  return ok({});
}
