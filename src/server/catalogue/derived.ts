import { asc, eq } from "drizzle-orm";
import { z } from "zod";
import { columnLabel, EXTRA_PREFIX } from "@/core/catalogue/catalogue-columns";
import {
  columnsReadBy,
  derivedColumn,
  derivedFieldSchema,
  formsOf,
  isDerivedColumn,
  lookupListSchema,
  type DerivedField,
  type LookupList,
} from "@/core/catalogue/derive/derived-field";
import { evaluateField, indexLists, NO_RULE } from "@/core/catalogue/derive/evaluate";
import { orderFields } from "@/core/catalogue/derive/order";
import { previewField, type DerivedPreview } from "@/core/catalogue/derive/preview";
import { patternFault } from "@/core/catalogue/derive/steps";
import { FIELD, FIELD_KEYS, type FieldKey } from "@/core/catalogue/fields";
import { finishColumns, isMoneyColumn } from "@/core/catalogue/finish";
import { cellText, coverage, numberColumn, textColumn, type Columns } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { derivedFields, lookupLists } from "@/db/schema";
import { remember } from "../read/memo";
import { noteChange } from "../workspaces";
import { loadFinishSettings, startFinish } from "./finish";
import { loadCatalogue, loadFeedColumns } from "./load";

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
function fieldFault(field: DerivedField, lists: { key: string }[]): string | null {
  for (const [no, { then }] of field.rules.entries()) {
    if (then.length !== formsOf(field)) return `Rule ${no + 1} needs a value for each form of the field.`;
    for (const { steps } of then) {
      for (const step of steps) {
        const fault = step.do === "take-pattern" ? patternFault(step.pattern) : null;
        if (fault) return `Rule ${no + 1}: ${fault}`;
        if (step.do === "look-up" && !lists.some(({ key }) => key === step.list)) {
          return `Rule ${no + 1} looks up in a list that is not there.`;
        }
      }
    }
  }
  return null;
}

/**
 * Keeps a derived field, new or changed, and has the catalogue made anew.
 * @returns a failure when a rule can't be used, when fields build on each other in a circle, or when another field
 *   stands in for the same field of the feed already
 */
export async function saveDerived(db: Database, field: DerivedField): Promise<Outcome<{ job: string | null }>> {
  const fault = fieldFault(field, await db.select({ key: lookupLists.key }).from(lookupLists));
  if (fault) return fail("derived-invalid", fault, "Nothing was saved.");
  const fields = await listDerived(db);
  const at = fields.findIndex(({ key }) => key === field.key);
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
  await noteChange(db, `Derived field "${field.name}" saved`, "", "catalogue");
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
  await noteChange(db, `Derived field "${field.name}" removed`, "", "catalogue");
  return ok({ job: await startFinish(db) });
}

/** All look-up lists. */
export async function listLookups(db: Database): Promise<LookupList[]> {
  return db.select().from(lookupLists).orderBy(asc(lookupLists.name));
}

/** Keeps a look-up list, new or changed. */
export async function saveLookup(db: Database, list: LookupList): Promise<Outcome<{ job: string | null }>> {
  const { key, ...rest } = lookupListSchema.parse(list);
  await db
    .insert(lookupLists)
    .values({ key, ...rest })
    .onConflictDoUpdate({ target: lookupLists.key, set: rest });
  await noteChange(db, `Look-up list "${rest.name}" saved with ${rest.rows.length} entries`, "", "catalogue");
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

export const derivedPreviewSchema = z.object({
  field: derivedFieldSchema,
  /** IDs of items to show whatever the rules say of them. */
  items: z.array(z.string().max(500)).max(50).default([]),
});

/** A preview with what a person needs to know the items by. */
export interface DerivedPreviewView extends DerivedPreview {
  items: Record<number, { id: string; title: string; image: string }>;
  unknownItems: string[];
  labels: Record<string, string>;
}

/**
 * The columns a field reads, as it will read them: a field that stands in for a feed's field reads the feed's own value,
 * fields it builds on are worked out as they are saved.
 */
async function tableFor(db: Database, field: DerivedField): Promise<Columns> {
  const reads = columnsReadBy(field);
  const settings = await loadFinishSettings(db);
  const fresh = reads.filter(isDerivedColumn);
  const catalogue = await loadCatalogue(db, ["id", "title", "image", ...reads]);
  const missing = fresh.filter((name) => !(name in catalogue.columns));
  if (missing.length > 0) {
    // Saved a moment ago and not made yet: worked out here, so that the preview does not lag behind.
    const made = finishColumns(await loadFeedColumns(db, "all"), settings);
    for (const name of missing) if (made.columns[name]) catalogue.columns[name] = made.columns[name];
  }
  if (field.replaces && reads.includes(field.replaces)) {
    const own = await loadFeedColumns(db, [field.replaces]);
    if (own.columns[field.replaces]) catalogue.columns[field.replaces] = own.columns[field.replaces]!;
  }
  return catalogue;
}

/** What a derived field would do, on the whole catalogue, without keeping anything. */
export async function previewDerived(
  db: Database,
  { field, items }: z.infer<typeof derivedPreviewSchema>,
): Promise<Outcome<DerivedPreviewView>> {
  const fields = await listDerived(db);
  const next = [...fields.filter(({ key }) => key !== field.key), field];
  const fault = fieldFault(field, await listLookups(db));
  if (fault) return fail("derived-invalid", fault, "Correct it to see a preview.");
  const ordered = orderFields(next);
  if (!ordered.ok) return ordered;
  const table = await tableFor(db, field);
  const rowOf = new Map<string, number>();
  const ids = table.columns["id"];
  if (items.length > 0 && ids) {
    const wanted = new Set(items.map((id) => id.trim()));
    for (let row = 0; row < table.length; row++) {
      const id = cellText(ids, row);
      if (wanted.has(id)) rowOf.set(id, row);
    }
  }
  const reads = columnsReadBy(field);
  const settings = { lists: indexLists(await listLookups(db)), isMoney: (name: string) => isMoneyColumn(name, next) };
  const preview = previewField(table, field, reads, settings, [...rowOf.values()]);
  const shown = new Set<number>();
  for (const example of [...preview.noneExamples, ...preview.twiceExamples, ...preview.lookedUp])
    shown.add(example.row);
  for (const rule of preview.rules) {
    for (const { row } of [...rule.examples, ...rule.nearMisses]) shown.add(row);
  }
  const cell = (name: string, row: number) => (table.columns[name] ? cellText(table.columns[name], row) : "");
  const names = await derivedNames(db);
  return ok({
    ...preview,
    items: Object.fromEntries(
      [...shown].map((row) => [row, { id: cell("id", row), title: cell("title", row), image: cell("image", row) }]),
    ),
    unknownItems: items.filter((id) => !rowOf.has(id.trim())),
    labels: Object.fromEntries(reads.map((name) => [name, columnLabel(name, names)])),
  });
}

/** Which rule of each derived field gave an item its value, for the item's trail. */
export async function derivedTrail(
  db: Database,
  row: number,
): Promise<{ key: string; name: string; values: string[]; rule: number | null }[]> {
  const fields = await listDerived(db);
  const settings = {
    lists: indexLists(await listLookups(db)),
    isMoney: (name: string) => isMoneyColumn(name, fields),
  };
  const trail = [];
  for (const field of fields) {
    const table = await tableFor(db, field);
    const one = singleRow(table, row);
    const { columns, ruleOf } = evaluateField(one, field, settings);
    const values = columns.map((column) => {
      const text = cellText(column, 0);
      return field.kind === "money" && text !== "" ? (Number(text) / 1000).toFixed(2) : text;
    });
    trail.push({
      key: field.key,
      name: field.name,
      values,
      rule: ruleOf[0] === NO_RULE ? null : (ruleOf[0] as number),
    });
  }
  return trail;
}

function singleRow(table: Columns, row: number): Columns {
  const columns = Object.fromEntries(
    Object.entries(table.columns).map(([name, column]) => [
      name,
      column.kind === "text" ? textColumn([cellText(column, row)]) : numberColumn([column.values[row] as number]),
    ]),
  );
  return { length: 1, columns };
}

export interface FieldInfo {
  name: string;
  label: string;
  /** What its values are. */
  kind: "text" | "number" | "money" | "share";
  group: "feed" | "extra" | "derived" | "made";
  filled: number;
  distinct: number;
  items: number;
}

/** Columns that are for the machine, not for people. */
const HIDDEN = new Set(["itemNo", "rowHash", "warnings", "findings", "cost", "fee"]);

/** Every column that rules, filters and splits can use, with its coverage and number of values. */
export async function listFields(db: Database): Promise<FieldInfo[]> {
  const { names, revision } = await loadCatalogue(db, []);
  return remember(db, "fields", [revision], () => makeFields(db, names));
}

async function makeFields(db: Database, names: string[]): Promise<FieldInfo[]> {
  const derived = await listDerived(db);
  const labels = await derivedNames(db);
  const fields: FieldInfo[] = [];
  for (const name of names.filter((one) => !HIDDEN.has(one))) {
    // One at a time, so that the columns of a large catalogue are not all read at once while others wait.
    const { columns, length } = await loadCatalogue(db, [name]);
    const column = columns[name];
    if (!column) continue;
    const kind =
      name === "margin"
        ? "share"
        : isMoneyColumn(name, derived)
          ? "money"
          : column.kind === "number"
            ? "number"
            : "text";
    const group = isDerivedColumn(name)
      ? "derived"
      : name.startsWith(EXTRA_PREFIX)
        ? "extra"
        : name === "margin" || name === "breakEven" || name.startsWith("own:")
          ? "made"
          : "feed";
    const label = name === "id" ? FIELD.id.label : columnLabel(name, labels);
    fields.push({ name, label, kind, group, ...coverage(column), items: length });
    await new Promise((resolve) => setImmediate(resolve));
  }
  // In the order in which fields are mapped; what this feed never fills comes last.
  const place = ({ name, filled, group }: FieldInfo) => {
    const at = FIELD_KEYS.indexOf(name.replace(/\d$/, "") as FieldKey);
    const order = at >= 0 ? at : { feed: 50, derived: 30, made: 40, extra: 60 }[group];
    return filled === 0 ? 100 + order : order;
  };
  return fields.sort((a, b) => place(a) - place(b));
}
