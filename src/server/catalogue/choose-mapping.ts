import {
  columnsOfSource,
  followRenames,
  mappingFrom,
  mappingGaps,
  mappingSchema,
  proposeMapping,
  unsureNeeded,
  type Mapping,
  type MappingProposal,
} from "@/core/catalogue/mapping";
import type { FieldKey } from "@/core/catalogue/fields";
import { coverage } from "@/core/kit/columns";
import { giveUp } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { loadFeedColumns } from "./load";
import { BrokenRow, type FeedRows } from "./reading/feed-rows";
import { inForce } from "./revisions";

const SAMPLE_ROWS = 200;

/** The first rows of a feed, as cells. */
export async function sampleRows(rows: FeedRows): Promise<string[][]> {
  const samples: string[][] = [];
  for await (const batch of rows.batches()) {
    for (const row of batch.rows) if (!(row instanceof BrokenRow) && samples.length < SAMPLE_ROWS) samples.push(row);
    if (samples.length >= SAMPLE_ROWS) break;
  }
  return samples;
}

/** The mapping that the feed was last read with, or null. */
export async function savedMapping(db: Database): Promise<Mapping | null> {
  const now = await inForce(db);
  return now ? mappingSchema.parse(now.feed.mapping) : null;
}

/** Whether a field had a value in the catalogue in force, for finding a renamed column by its values. */
export async function valuesBefore(db: Database, fields: FieldKey[]): Promise<(f: FieldKey, v: string) => boolean> {
  const { columns } = await loadFeedColumns(db, fields);
  const sets = new Map<FieldKey, Set<string>>();
  for (const key of fields) {
    const column = columns[key];
    if (column?.kind === "text") sets.set(key, new Set(column.values.slice(1)));
    // Numbers are too alike to tell columns apart by.
  }
  return (field, value) => sets.get(field)?.has(value) ?? false;
}

/**
 * The mapping to read a feed with: the given one, the saved one carried over to renamed columns, or the proposed one.
 * @throws FailureError when a needed field has no column
 */
export async function chooseMapping(
  db: Database,
  rows: FeedRows,
  given: Mapping | null,
): Promise<{ mapping: Mapping; notices: string[] }> {
  const saved = given ? null : await savedMapping(db);
  let mapping = given ?? saved;
  const notices: string[] = [];
  if (!mapping) {
    const samples = await sampleRows(rows);
    const proposals = proposeMapping(rows.headings, samples);
    refuseUnsure(proposals);
    mapping = mappingFrom(proposals, rows.headings, samples);
  } else if (saved) {
    const lost = mappingGaps(saved, rows.headings).lost.map(({ field }) => field.key);
    if (lost.length > 0) {
      const followed = followRenames(saved, rows.headings, await sampleRows(rows), await valuesBefore(db, lost));
      mapping = followed.mapping;
      for (const { field, from, to, how } of followed.renamed) {
        const why = how === "name" ? "" : ", which holds the same values,";
        notices.push(`${field.label}: the column "${from}" is gone; "${to}"${why} was read instead.`);
      }
    }
  }
  const { missing, lost } = mappingGaps(mapping, rows.headings);
  if (missing.length > 0) {
    const fields = missing.map((field) => field.label).join(", ");
    const names = [...new Set(lost.map(({ column }) => column))].join(", ");
    giveUp(
      "mapping-incomplete",
      `No column is mapped to: ${fields}.${names ? ` The mapping names ${names}, which the feed no longer has.` : ""} The catalogue is as it was.`,
      "Upload the feed in the Catalogue and choose the columns.",
    );
  }
  return { mapping, notices };
}

/** Refuses to follow a guess about a field that every item needs: nobody has looked at it. */
function refuseUnsure(proposals: MappingProposal[]): void {
  const unsure = unsureNeeded(proposals);
  if (unsure.length === 0) return;
  const guesses = unsure.map(({ field, column }) => `${field.label} may be "${column}"`).join(", ");
  giveUp(
    "mapping-unsure",
    `Which columns to read is not sure: ${guesses}. Nothing was taken in.`,
    "Say which column each field is read from, in the Catalogue or with the mapping that comes with the feed.",
  );
}

/**
 * Checks that no field that had values loses its column. Fields that were empty anyway may lose it.
 * @param acceptLoss go on all the same; the field is taken out of the mapping, so that it is not missed again
 * @throws FailureError when a field would fall empty and that was not allowed
 */
export async function checkShape(
  db: Database,
  mapping: Mapping,
  headings: string[],
  acceptLoss: boolean,
): Promise<{ mapping: Mapping; notices: string[] }> {
  const lost = mappingGaps(mapping, headings).lost;
  if (lost.length === 0) return { mapping, notices: [] };
  const before = await loadFeedColumns(
    db,
    lost.map(({ field }) => field.key),
  );
  const missed = lost.filter(({ field }) => {
    const column = before.columns[field.key];
    return column !== undefined && coverage(column).filled > 0;
  });
  if (missed.length === 0) return { mapping, notices: [] };
  const fields = [...new Set(missed.map(({ field }) => field.label))].join(", ");
  if (!acceptLoss) {
    const names = [...new Set(missed.map(({ column }) => column))].join(", ");
    giveUp(
      "feed-shape-changed",
      `The feed no longer has the column ${names}, so every item would lose its ${fields}. The catalogue is as it was.`,
      "Upload the feed and choose another column, or allow the loss if it is right.",
    );
  }
  const columns = { ...mapping.columns };
  for (const { field } of missed) {
    columns[field.key] = columnsOfSource(columns[field.key]).find((column) => headings.includes(column)) ?? null;
  }
  return { mapping: { ...mapping, columns }, notices: [`Left empty, since their columns are gone: ${fields}.`] };
}
