import { z } from "zod";
import { columnLabel } from "@/core/catalogue/catalogue-columns";
import {
  columnsReadBy,
  derivedFieldSchema,
  isDerivedColumn,
  type DerivedField,
} from "@/core/catalogue/derive/derived-field";
import { evaluateField, indexLists, NO_RULE } from "@/core/catalogue/derive/evaluate";
import { orderFields } from "@/core/catalogue/derive/order";
import { previewField, type DerivedPreview } from "@/core/catalogue/derive/preview";
import { finishColumns, isMoneyColumn } from "@/core/catalogue/finish";
import { cellText, numberColumn, textColumn, type Columns } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { loadFinishSettings } from "./finish";
import { loadCatalogue, loadFeedColumns } from "./load";
import { derivedNames, fieldFault, listDerived } from "./derived";
import { listLookups } from "./lookups";

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
      rule: ruleOf[0] === NO_RULE ? null : ruleOf[0]!,
    });
  }
  return trail;
}

function singleRow(table: Columns, row: number): Columns {
  const columns = Object.fromEntries(
    Object.entries(table.columns).map(([name, column]) => [
      name,
      column.kind === "text" ? textColumn([cellText(column, row)]) : numberColumn([column.values[row]!]),
    ]),
  );
  return { length: 1, columns };
}
