import { asc, eq } from "drizzle-orm";
import {
  allSteps,
  columnsReadBy,
  derivedColumn,
  derivedFieldSchema,
  formsOf,
  type DerivedField,
} from "@/core/catalogue/derive/derived-field";
import { orderFields } from "@/core/catalogue/derive/order";
import { stepFault } from "@/core/parts/steps";
import { FIELD, type FieldKey } from "@/core/catalogue/fields";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { derivedFields, lookupLists } from "@/db/schema";
import { changedMeanwhile } from "../meanwhile";
import { noteChange } from "../workspaces";
import { startFinish } from "./finish";

/** All derived fields in their order. */
export async function listDerived(db: Database): Promise<DerivedField[]> {
  const rows = await db.select().from(derivedFields).orderBy(asc(derivedFields.position), asc(derivedFields.key));
  return rows.map(({ definition }) => derivedFieldSchema.parse(definition));
}

/** The names that people gave to derived columns. */
export async function derivedNames(db: Database): Promise<Map<string, string>> {
  const names = new Map<string, string>();
  for (const field of await listDerived(db)) {
    names.set(derivedColumn(field.key), field.name);
    if (formsOf(field) === 2) names.set(derivedColumn(field.key, 1), field.secondName);
  }
  return names;
}

/** What is wrong with a field by itself, in a sentence, or null. */
export function fieldFault(field: DerivedField, lists: { key: string }[]): string | null {
  for (const [no, { then }] of field.rules.entries()) {
    if (then.length !== formsOf(field)) return `Rule ${no + 1} needs a value for each form of the field.`;
    for (const step of then.flatMap(allSteps)) {
      const fault = stepFault(step, lists);
      if (fault) return `Rule ${no + 1}: ${fault}`;
    }
  }
  return null;
}

/**
 * Keeps a derived field, new or changed, and has the catalogue made anew.
 * @returns a failure when a rule can't be used, when fields build on each other in a circle, or when another field
 *   stands in for the same field of the feed already
 */
export async function saveDerived(
  db: Database,
  field: DerivedField,
  since?: string,
): Promise<Outcome<{ job: string | null }>> {
  const fault = fieldFault(field, await db.select({ key: lookupLists.key }).from(lookupLists));
  if (fault) return fail("derived-invalid", fault, "Nothing was saved.");
  const fields = await listDerived(db);
  const at = fields.findIndex(({ key }) => key === field.key);
  const seen = await changedMeanwhile(db, since, {
    what: `The derived field "${(fields[at] ?? field).name}"`,
    about: `derived/${field.key}`,
    ...{ stored: fields[at] ?? null, given: field },
  });
  if (!seen.ok) return seen;
  const next = at < 0 ? [...fields, field] : fields.map((known, i) => (i === at ? field : known));
  const rival = next.find(({ key, replaces }) => key !== field.key && replaces !== null && replaces === field.replaces);
  if (rival) {
    return fail(
      "derived-rival",
      `"${rival.name}" stands in for ${FIELD[field.replaces as FieldKey].label} already.`,
      "One field can have one stand-in. Nothing was saved.",
    );
  }
  const twin = next.find(({ key, name }) => key !== field.key && name.toLowerCase() === field.name.toLowerCase());
  if (twin) return fail("derived-name", `There is a derived field "${twin.name}" already.`, "Give it another name.");
  const ordered = orderFields(next);
  if (!ordered.ok) return ordered;
  const row = { position: at < 0 ? fields.length : at, definition: field };
  await db
    .insert(derivedFields)
    .values({ key: field.key, ...row })
    .onConflictDoUpdate({ target: derivedFields.key, set: row });
  await noteChange(db, `Derived field "${field.name}" saved`, "", "catalogue", `derived/${field.key}`);
  return ok({ job: await startFinish(db) });
}

/** Removes a derived field. Fields that build on it keep it from going. */
export async function removeDerived(db: Database, key: string): Promise<Outcome<{ job: string | null }>> {
  const fields = await listDerived(db);
  const field = fields.find((known) => known.key === key);
  if (!field) return fail("derived-unknown", `There is no derived field "${key}".`);
  const own = [derivedColumn(key, 0), derivedColumn(key, 1)];
  const users = fields.filter((other) => other.key !== key && columnsReadBy(other).some((name) => own.includes(name)));
  if (users.length > 0) {
    return fail(
      "derived-used",
      `${users.map(({ name }) => name).join(", ")} builds on it.`,
      "Change that field first.",
    );
  }
  await db.delete(derivedFields).where(eq(derivedFields.key, key));
  await noteChange(db, `Derived field "${field.name}" removed`, "", "catalogue", `derived/${field.key}`);
  return ok({ job: await startFinish(db) });
}
