import { z } from "zod";
import { parseMoney } from "../kit/money";
import { isCurrency } from "../kit/money-words";
import { CATEGORY_SEPARATORS, detectSeparator } from "../kit/categories";
import { AVAILABILITIES, readAvailability } from "./availability";
import { HEADINGS } from "./field-headings";
import { FIELD_KEYS, FIELDS, foldHeading, type FieldDefinition, type FieldKey } from "./fields";
import { detectDecimal } from "./price-judge";
import { readCount } from "./read-count";
import { readTax } from "./read-tax";

/** Where a field's text comes from: a column of the feed, a constant for every item, or several columns joined. */
export const fieldSourceSchema = z.union([
  z.string(),
  z.null(),
  z.object({ constant: z.string().trim().min(1).max(500) }),
  z.object({ join: z.array(z.string()).min(2).max(6), by: z.string().max(20).default(" ") }),
]);

export type FieldSource = z.infer<typeof fieldSourceSchema>;

/** How the fields are read from a feed. A field without an entry, or with null, stays empty. */
export const mappingSchema = z.object({
  columns: z.partialRecord(z.enum(FIELD_KEYS), fieldSourceSchema),
  /** The decimal mark of amounts; "auto" tells it value by value. */
  decimal: z.enum(["auto", ".", ","]).default("auto"),
  /** Words beside amounts that say nothing in this feed, in lower case. */
  moneyWords: z.array(z.string().trim().toLowerCase().min(1).max(60)).max(50).default([]),
  /** What parts the levels of a category path; null looks for the usual signs. */
  categorySeparator: z.enum(CATEGORY_SEPARATORS).nullable().default(null),
  /** What availability words of this shop mean, folded. */
  availability: z.record(z.string(), z.enum(AVAILABILITIES)).default({}),
});

export type Mapping = z.infer<typeof mappingSchema>;

/** The columns that a source reads. */
export function columnsOfSource(source: FieldSource | undefined): string[] {
  if (!source) return [];
  if (typeof source === "string") return [source];
  return "join" in source ? source.join : [];
}

/** All columns that a mapping reads. */
export function mappedColumns(mapping: Mapping): string[] {
  return Object.values(mapping.columns).flatMap(columnsOfSource);
}

/** Whether a heading says that its amounts are hundredths of the currency: `price_cents`, `price.amountMinor`, `preis_in_cent`. */
export function isInCents(heading: string): boolean {
  return /(?:^|[^\p{L}])(?:cents?|centimes|centimos|céntimos|pence|minor|minorunits?|hundredths|grosze|halere|haléře|ører?)(?:$|[^\p{L}])/iu.test(
    heading.replace(/([\p{Ll}])(\p{Lu})/gu, "$1_$2"),
  );
}

export interface MappingProposal {
  field: FieldKey;
  source: FieldSource;
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
    case "fee":
      return share((value) => parseMoney(value).ok);
    case "availability":
      return share((value) => readAvailability(value) !== null);
    case "tax":
      return share((value) => readTax(value) !== null);
    case "stock":
      return share((value) => readCount(value) !== null);
    case "gtin":
      return share((value) => /^\d{8,14}$/.test(value));
    case "link":
      return share((value) => /^https?:\/\//i.test(value));
    case "image":
      return share((value) => /^(https?:\/\/|\/)\S+|^\S+\.(jpe?g|png|webp|gif|avif)\b/i.test(value));
    case "id":
      return new Set(filled).size / filled.length;
    case "title":
      return share((value) => /\p{L}{2}/u.test(value) && value.length >= 3 && !/^https?:/i.test(value));
    default:
      return share((value) => !/^https?:\/\//i.test(value));
  }
}

/** How well a heading names a field; null where its words say that it is something else. */
function headingFit(field: FieldDefinition, heading: string): number | null {
  if (field.never?.test(foldHeading(heading))) return null;
  return Math.max(...namesIn(heading).map((name) => nameFit(field, name)));
}

/** The names a heading can have: all of it, and of a nested one its last part that says more than that here is the value. */
function namesIn(heading: string): string[] {
  const parts = heading.split(".");
  // Points also end abbreviations: "Art.-Nr." is one name.
  if (!parts.every((part) => /^[\p{L}\p{N}_:@#-]+$/u.test(part.trim()))) return [heading];
  while (parts.length > 1 && /^(value|amount|text|content|href|_)$/i.test(parts.at(-1) as string)) parts.pop();
  return parts.length > 1 ? [parts.at(-1)!, heading] : [parts[0]!];
}

function nameFit(field: FieldDefinition, name: string): number {
  const folded = foldHeading(name);
  const at = HEADINGS[field.key].indexOf(folded);
  if (at >= 0) return Math.max(0.6, 1 - at * 0.04);
  return HEADINGS[field.key].some((known) => known.length > 3 && folded.includes(known)) ? PARTLY_NAMED : 0;
}

/** What values alone say about a column whose heading says nothing: only shapes that hardly anything else has. */
function shapeFit(field: FieldDefinition, values: string[]): number {
  const filled = values.filter((value) => value !== "");
  if (filled.length < 3) return 0;
  const all = (fits: (value: string) => boolean) => filled.every(fits);
  switch (field.key) {
    case "price":
      return all((value) => {
        const amount = parseMoney(value);
        return amount.ok && amount.currency !== null;
      })
        ? 0.5
        : 0;
    case "availability":
      return all((value) => /\p{L}{4}/u.test(value) && readAvailability(value) !== null) ? 0.5 : 0;
    case "image":
      return all((value) => /^https?:\/\/\S+\.(jpe?g|png|webp|gif|avif)(\?\S*)?$/i.test(value)) ? 0.5 : 0;
    case "link":
      return all((value) => /^https?:\/\/[^/\s]+\/\S+$/i.test(value) && !/\.(jpe?g|png|webp|gif|avif)/i.test(value))
        ? 0.45
        : 0;
    case "category":
      // Markup has such signs too, but next to their opposites.
      return all((value) => /^[^<>›»]+(?:\s*[>›»]\s*[^<>›»]+)+$/.test(value)) ? 0.5 : 0;
    case "gtin":
      return all((value) => /^\d{12,14}$/.test(value) && hasCheckDigit(value)) ? 0.5 : 0;
    default:
      return 0;
  }
}

/** Whether the last digit of a trade number is its check digit (GS1: weights 3 and 1 from the right). */
export function hasCheckDigit(gtin: string): boolean {
  let sum = 0;
  for (let i = 2; i <= gtin.length; i++) sum += Number(gtin[gtin.length - i]) * (i % 2 === 0 ? 3 : 1);
  return (10 - (sum % 10)) % 10 === Number(gtin.at(-1));
}

/**
 * Proposes a column for every field from headings and sample values. Each column is used once; the best pairs are
 * given first, so `sale_price` goes to the sale price and `price` to the price whatever their order. A price whose
 * currency stands in a column of its own is proposed as the two joined.
 * @param samples rows of cells in the order of `headings`
 */
export function proposeMapping(headings: string[], samples: string[][]): MappingProposal[] {
  const pairs: { field: FieldDefinition; column: string; score: number }[] = [];
  headings.forEach((column, at) => {
    const values = samples.map((row) => (row[at] ?? "").trim());
    for (const field of FIELDS) {
      const name = headingFit(field, column);
      // A heading's words beat the shape of its values: a column called wholesale price is no price.
      if (name === null) continue;
      const fit = valueFit(field, values);
      // A heading alone is weak when the values deny it; values alone decide only by a shape of their own.
      const score = name === 0 ? shapeFit(field, values) : name * (fit === null ? 0.6 : 0.3 + 0.7 * fit);
      if (score >= 0.3) pairs.push({ field, column, score });
    }
  });
  // Of columns that are alike but for a number, the first in that order: "image 1" before "image 3", wherever they stand;
  // of others the one that is nested less.
  const depth = (column: string) => column.split(".").length;
  pairs.sort(
    (a, b) => b.score - a.score || numberIn(a.column) - numberIn(b.column) || depth(a.column) - depth(b.column),
  );
  const byField = new Map<FieldKey, { column: string; score: number }>();
  const used = new Set<string>();
  for (const { field, column, score } of pairs) {
    if (byField.has(field.key) || used.has(column)) continue;
    byField.set(field.key, { column, score });
    used.add(column);
  }
  return FIELDS.map(({ key, kind }) => {
    const found = byField.get(key);
    if (!found) return { field: key, source: null, score: 0 };
    const currency = kind === "money" ? currencyColumn(headings, samples, found.column) : null;
    const levels = key === "category" ? levelsFrom(headings, found.column) : [];
    if (levels.length > 1) return { field: key, source: { join: levels, by: " > " }, score: found.score };
    const source: FieldSource = currency ? { join: [found.column, currency], by: " " } : found.column;
    return { field: key, source, score: found.score };
  });
}

/** The number that tells a column from others alike, or 0. */
const numberIn = (heading: string) => Number(/(\d{1,3})\D*$/.exec(heading)?.[1] ?? 0);

/** Levels of a category that a shop calls by words. */
const LEVEL_WORDS = /^(?:main|top|parent|haupt)?|^(?:sub|unter|under|sous)+/;
const MOST_LEVELS = 6;

/** The columns that together hold the levels of a category, widest first, from the one that was found; only it where it has all. */
function levelsFrom(headings: string[], found: string): string[] {
  const stem = (heading: string) =>
    foldHeading(heading)
      .replace(/\d+$/, "")
      .replace(/level|ebene|niveau|nivel|livello|stufe/, "");
  const numbered = headings.filter((heading) => /\d\D*$/.test(heading) && stem(heading) === stem(found));
  const isNumbered = numbered.length > 1 || (numbered.length === 1 && !numbered.includes(found));
  if (isNumbered) {
    const all = [...new Set([...(/\d\D*$/.test(found) ? [] : [found]), ...numbered])];
    return all.sort((a, b) => numberIn(a) - numberIn(b)).slice(0, MOST_LEVELS);
  }
  const core = foldHeading(found).replace(LEVEL_WORDS, "");
  const depth = (heading: string) => {
    const folded = foldHeading(heading);
    if (!folded.endsWith(core) || core.length < 4) return -1;
    const before = folded.slice(0, -core.length);
    if (/^(?:main|top|parent|haupt)?$/.test(before)) return before === "" ? 1 : 0;
    return /^(?:sub|unter|under|sous)+$/.test(before) ? 1 + before.match(/sub|unter|under|sous/g)!.length : -1;
  };
  const levels = headings.filter((heading) => depth(heading) >= 0).sort((a, b) => depth(a) - depth(b));
  return new Set(levels.map(depth)).size === levels.length ? levels.slice(0, MOST_LEVELS) : [found];
}

/** Whether a heading is that of a column with currencies. */
export function isCurrencyHeading(heading: string): boolean {
  return /currency|währung|devise$|devises|moneda|waluta|měna|mena$|valuta|valuutta|pénznem|νόμισμα|валюта|monedă|paraBirimi|parabirimi|通貨|货币|貨幣|통화/i.test(
    foldHeading(heading),
  );
}

/** The column that holds the currency of an amount, when the amount itself names none. */
function currencyColumn(headings: string[], samples: string[][], amount: string): string | null {
  const at = headings.indexOf(amount);
  const namesOne = samples.some((row) => {
    const parsed = parseMoney((row[at] ?? "").trim());
    return parsed.ok && parsed.currency !== null;
  });
  if (namesOne) return null;
  const found = headings.findIndex((heading, i) => {
    if (!isCurrencyHeading(heading)) return false;
    const filled = samples.map((row) => (row[i] ?? "").trim()).filter((value) => value !== "");
    return filled.length > 0 && filled.every((value) => isCurrency(value.toUpperCase()));
  });
  return found < 0 ? null : headings[found]!;
}

/** A mapping from its proposals and what the samples say about marks and separators. */
export function mappingFrom(proposals: MappingProposal[], headings: string[], samples: string[][]): Mapping {
  const columns = Object.fromEntries(proposals.map(({ field, source }) => [field, source])) as Mapping["columns"];
  const valuesOf = (key: FieldKey) => {
    const [column] = columnsOfSource(columns[key]);
    const at = column === undefined ? -1 : headings.indexOf(column);
    return at < 0 ? [] : samples.map((row) => (row[at] ?? "").trim());
  };
  return {
    columns,
    decimal: detectDecimal(valuesOf("price")),
    moneyWords: [],
    categorySeparator: detectSeparator(valuesOf("category")) as Mapping["categorySeparator"],
    availability: {},
  };
}

/** What a heading that only holds a known word is worth: less than any that is one. */
const PARTLY_NAMED = 0.35;

/** The needed fields whose proposed column is a guess, since its heading is none that is known, with that column. */
export function unsureNeeded(proposals: MappingProposal[]): { field: FieldDefinition; column: string }[] {
  return FIELDS.filter(({ required }) => required).flatMap((field) => {
    const found = proposals.find((one) => one.field === field.key);
    const [column] = columnsOfSource(found?.source);
    return column !== undefined && (headingFit(field, column) ?? 0) <= PARTLY_NAMED ? [{ field, column }] : [];
  });
}

export interface MappingGaps {
  /** Required fields that nothing fills. */
  missing: FieldDefinition[];
  /** Fields whose column the feed no longer has. */
  lost: { field: FieldDefinition; column: string }[];
}

/** What keeps a mapping from being used as it is on a feed with these headings. */
export function mappingGaps(mapping: Mapping, headings: string[]): MappingGaps {
  const known = new Set(headings);
  const lost = FIELDS.flatMap((field) =>
    columnsOfSource(mapping.columns[field.key])
      .filter((column) => !known.has(column))
      .map((column) => ({ field, column })),
  );
  const isLost = new Set(lost.map(({ field }) => field.key));
  const missing = FIELDS.filter((field) => field.required && (!mapping.columns[field.key] || isLost.has(field.key)));
  return { missing, lost };
}

/** A lost column found again under another name. */
export interface Renamed {
  field: FieldDefinition;
  from: string;
  to: string;
  how: "name" | "values";
}

/** Shares of equal values from which a column counts as another one's successor. */
const SAME_VALUES = 0.5;

/**
 * Carries a saved mapping over to a feed whose columns were renamed: a column is found again by its folded name
 * ("g:price" for "price"), or by holding the values that the field had before.
 * @param hadValue whether a field had a value in the catalogue in force
 */
export function followRenames(
  mapping: Mapping,
  headings: string[],
  samples: string[][],
  hadValue: (field: FieldKey, value: string) => boolean,
): { mapping: Mapping; renamed: Renamed[] } {
  const taken = new Set(mappedColumns(mapping).filter((column) => headings.includes(column)));
  const renamed: Renamed[] = [];
  for (const { field, column } of mappingGaps(mapping, headings).lost) {
    const free = headings.filter((heading) => !taken.has(heading));
    const byName = free.find((heading) => foldHeading(heading) === foldHeading(column));
    const to = byName ?? byValues(free, headings, samples, (value) => hadValue(field.key, value));
    if (to === undefined) continue;
    taken.add(to);
    renamed.push({ field, from: column, to, how: byName === undefined ? "values" : "name" });
  }
  const columns = { ...mapping.columns };
  for (const { field, from, to } of renamed) {
    const source = columns[field.key];
    columns[field.key] =
      typeof source === "object" && source !== null && "join" in source
        ? { ...source, join: source.join.map((column) => (column === from ? to : column)) }
        : to;
  }
  return { mapping: { ...mapping, columns }, renamed };
}

function byValues(free: string[], headings: string[], samples: string[][], had: (value: string) => boolean) {
  let best: string | undefined;
  let bestShare = 0;
  for (const heading of free) {
    const at = headings.indexOf(heading);
    const filled = samples.map((row) => (row[at] ?? "").trim()).filter((value) => value !== "");
    if (filled.length < 3) continue;
    const share = filled.filter(had).length / filled.length;
    if (share >= SAME_VALUES && share > bestShare) [best, bestShare] = [heading, share];
  }
  return best;
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
