import { z } from "zod";
import { parseMoney } from "../kit/money";
import { FIELD_KEYS, FIELDS, foldHeading, readAvailability, type FieldDefinition, type FieldKey } from "./fields";

/** Which column of the feed fills which field: the heading of the column, or null for none. */
export const mappingSchema = z.object({
  columns: z.partialRecord(z.enum(FIELD_KEYS), z.string().nullable()),
});

export type Mapping = z.infer<typeof mappingSchema>;

export interface MappingProposal {
  field: FieldKey;
  column: string | null;
  /** 0 to 1: how sure the proposal is, from the heading and the values. */
  score: number;
}

/** Share of the filled values that fit what the field holds; null when nothing is filled. */
function valueFit(field: FieldDefinition, values: string[]): number | null {
  const filled = values.filter((value) => value !== "");
  if (filled.length === 0) return null;
  const share = (fits: (value: string) => boolean) => filled.filter(fits).length / filled.length;
  switch (field.key) {
    case "price":
    case "salePrice":
    case "cost":
      return share((value) => parseMoney(value).ok);
    case "availability":
      return share((value) => readAvailability(value) !== null);
    case "stock":
      return share((value) => /^\d+$/.test(value));
    case "link":
      return share((value) => /^https?:\/\//i.test(value));
    case "image":
      return share((value) => /^(https?:\/\/|\/)\S+$/i.test(value));
    case "id":
      return new Set(filled).size / filled.length;
    case "title":
      return share((value) => /\p{L}{2}/u.test(value) && value.length >= 3 && !/^https?:/i.test(value));
    default:
      return share((value) => !/^https?:\/\//i.test(value));
  }
}

function headingFit(field: FieldDefinition, heading: string): number {
  const folded = foldHeading(heading.includes(".") ? heading.slice(heading.lastIndexOf(".") + 1) : heading);
  const at = field.headings.indexOf(folded);
  if (at >= 0) return 1 - at * 0.04;
  return field.headings.some((known) => known.length > 3 && folded.includes(known)) ? 0.35 : 0;
}

/**
 * Proposes a column for every field from headings and sample values. Each column is used once; the best pairs are
 * given first, so `sale_price` goes to the sale price and `price` to the price whatever their order.
 * @param samples rows of cells in the order of `headings`
 */
export function proposeMapping(headings: string[], samples: string[][]): MappingProposal[] {
  const pairs: { field: FieldDefinition; column: string; score: number }[] = [];
  headings.forEach((column, at) => {
    const values = samples.map((row) => (row[at] ?? "").trim());
    for (const field of FIELDS) {
      const name = headingFit(field, column);
      const fit = valueFit(field, values);
      // A heading alone is weak when the values deny it; values alone never decide.
      const score = name === 0 ? 0 : name * (fit === null ? 0.6 : 0.3 + 0.7 * fit);
      if (score >= 0.3) pairs.push({ field, column, score });
    }
  });
  pairs.sort((a, b) => b.score - a.score);
  const byField = new Map<FieldKey, { column: string; score: number }>();
  const used = new Set<string>();
  for (const { field, column, score } of pairs) {
    if (byField.has(field.key) || used.has(column)) continue;
    byField.set(field.key, { column, score });
    used.add(column);
  }
  return FIELDS.map(({ key }) => ({
    field: key,
    column: byField.get(key)?.column ?? null,
    score: byField.get(key)?.score ?? 0,
  }));
}

/** A mapping from its proposals. */
export function mappingFrom(proposals: MappingProposal[]): Mapping {
  return { columns: Object.fromEntries(proposals.map(({ field, column }) => [field, column])) };
}

/** What keeps a mapping from being used on a feed with these headings: required fields without a column, columns gone. */
export function mappingGaps(mapping: Mapping, headings: string[]): { missing: FieldDefinition[]; gone: string[] } {
  const known = new Set(headings);
  const gone = Object.values(mapping.columns).filter((column): column is string => !!column && !known.has(column));
  const missing = FIELDS.filter((field) => {
    const column = mapping.columns[field.key];
    return field.required && (!column || !known.has(column));
  });
  return { missing, gone };
}

/** Headings made usable: trimmed, unnamed ones numbered, repeated ones told apart. */
export function cleanHeadings(raw: string[]): { headings: string[]; repeated: string[] } {
  const seen = new Map<string, number>();
  const repeated: string[] = [];
  const headings = raw.map((cell, at) => {
    const name = cell.replace(/^\uFEFF/, "").trim() || `column ${at + 1}`;
    const count = (seen.get(name) ?? 0) + 1;
    seen.set(name, count);
    if (count === 1) return name;
    repeated.push(name);
    return `${name} (${count})`;
  });
  return { headings, repeated };
}
