import type { Columns, NumberColumn, TextColumn } from "../../kit/columns";
import { repeatedPlaces } from "../../kit/repeats";
import { hasCheckDigit } from "../mapping";
import { isShouting } from "../where";
import { FINDING_CODES, findingBit, type FindingCode } from "./finding";

/** What was found, kept with the revision: the count, and for spellings which text stands for which. */
export interface FoundFinding {
  count: number;
  /** Wrong text to right text, the most common spelling being right. */
  spellings?: [from: string, to: string][];
}

export type FoundFindings = Partial<Record<FindingCode, FoundFinding>>;

/** Prices beyond this ratio to their category's middle are told. */
const OUTLIER_RATIO = 50;
const OUTLIER_LEAST_ITEMS = 8;
const SHARED_PICTURE_FAMILIES = 5;
const SHORT_TITLE = 10;

interface Look {
  length: number;
  text: (name: string) => TextColumn | null;
  number: (name: string) => Float64Array | null;
}

type Mark = (row: number) => void;

/**
 * Looks through the whole catalogue for what is wrong with its items.
 * @param proposed rows for which a family is proposed
 * @returns a column of finding bits, and counts with details
 */
export function findFindings(table: Columns, proposed: Uint8Array): { column: NumberColumn; found: FoundFindings } {
  const values = new Float64Array(table.length);
  const found: FoundFindings = {};
  const look: Look = {
    length: table.length,
    text: (name) => {
      const column = table.columns[name];
      return column?.kind === "text" ? column : null;
    },
    number: (name) => {
      const column = table.columns[name];
      return column?.kind === "number" ? column.values : null;
    },
  };
  for (const code of FINDING_CODES) {
    const bit = findingBit(code);
    let count = 0;
    const spellings: [string, string][] = [];
    DETECTORS[code](
      look,
      (row) => {
        values[row] = values[row]! + bit;
        count++;
      },
      { proposed, spellings },
    );
    if (count > 0) found[code] = spellings.length > 0 ? { count, spellings: spellings.slice(0, 500) } : { count };
  }
  return { column: { kind: "number", values }, found };
}

interface Extra {
  proposed: Uint8Array;
  spellings: [string, string][];
}

type Detector = (look: Look, mark: Mark, extra: Extra) => void;

/** Marks the rows whose text fits; each distinct text is tested once. */
function whereText(name: string, fits: (text: string) => boolean): Detector {
  return (look, mark) => {
    const column = look.text(name);
    if (!column) return;
    const hit = new Uint8Array(column.values.length);
    for (let code = 1; code < hit.length; code++) if (fits(column.values[code]!)) hit[code] = 1;
    for (let row = 0; row < look.length; row++) if (hit[column.codes[row]!]) mark(row);
  };
}

/** Marks rows without a value, if the feed has the field at all. */
function whereEmpty(name: string): Detector {
  return (look, mark) => {
    const column = look.text(name);
    if (!column || column.values.length === 1) return;
    for (let row = 0; row < look.length; row++) if (column.codes[row] === 0) mark(row);
  };
}

/** Marks rows whose texts fold to the same although they are written differently. */
function whereAlike(name: string, fold: (text: string) => string): Detector {
  return (look, mark, { spellings }) => {
    const column = look.text(name);
    if (!column) return;
    const uses = new Map<string, number>();
    for (let row = 0; row < look.length; row++) {
      const text = column.values[column.codes[row]!]!;
      if (text !== "") uses.set(text, (uses.get(text) ?? 0) + 1);
    }
    const groups = new Map<string, string[]>();
    for (const text of uses.keys()) {
      const folded = fold(text);
      const group = groups.get(folded);
      if (group) group.push(text);
      else groups.set(folded, [text]);
    }
    const odd = new Set<string>();
    for (const group of groups.values()) {
      if (group.length < 2) continue;
      group.sort((a, b) => (uses.get(b) as number) - (uses.get(a) as number) || (a < b ? 1 : -1));
      for (const text of group) odd.add(text);
      for (const text of group.slice(1)) spellings.push([text, group[0]!]);
    }
    if (odd.size === 0) return;
    for (let row = 0; row < look.length; row++) {
      if (odd.has(column.values[column.codes[row]!]!)) mark(row);
    }
  };
}

/** Marks rows whose value of one field is shared by many different families (an item without one is its own). */
function whereShared(name: string, leastFamilies: number): Detector {
  return (look, mark) => {
    const column = look.text(name);
    const family = look.text("family");
    if (!column) return;
    const { codes, values } = column;
    const familyOf = (row: number) => {
      const code = family ? family.codes[row]! : 0;
      return code === 0 ? -1 - row : code;
    };
    const marked: number[] = [];
    for (const rows of repeatedPlaces(look.length, (row) => values[codes[row]!]!)) {
      if (new Set(rows.map(familyOf)).size >= leastFamilies) marked.push(...rows);
    }
    marked.sort((x, y) => x - y).forEach(mark);
  };
}

/** Marks items whose IDs a careless spreadsheet would make one. */
const alikeIds: Detector = (look, mark) => {
  const column = look.text("id");
  if (!column) return;
  const { codes, values } = column;
  const same = (a: string, b: string) => foldId(a) === foldId(b);
  const groups = repeatedPlaces(look.length, (row) => values[codes[row]!]!, foldedHash, same);
  groups
    .flat()
    .sort((x, y) => x - y)
    .forEach(mark);
};

/** The same for IDs that fold to the same, without making the folded text. */
function foldedHash(id: string): number {
  let hash = 0x811c9dc5;
  let isStart = true;
  for (let i = 0; i < id.length; i++) {
    let unit = id.charCodeAt(i);
    // Letters beyond ASCII fold in many ways and are left to the comparison.
    if (unit <= 32 || unit > 127 || (isStart && unit === 48)) continue;
    isStart = false;
    if (unit >= 65 && unit <= 90) unit += 32;
    hash = Math.imul(hash ^ unit, 0x01000193);
  }
  return hash;
}

/** Marks rows whose value of a field stands once only. */
function whereOnce(name: string): Detector {
  return (look, mark) => {
    const column = look.text(name);
    if (!column) return;
    const counts = new Uint32Array(column.values.length);
    for (const code of column.codes) counts[code] = counts[code]! + 1;
    for (let row = 0; row < look.length; row++) {
      const code = column.codes[row]!;
      if (code !== 0 && counts[code] === 1) mark(row);
    }
  };
}

function foldSpelling(text: string): string {
  return text.toLowerCase().replace(/[\s'’.,&-]+/g, "");
}

/** An ID as a careless spreadsheet would see it. */
export function foldId(id: string): string {
  return id
    .toLowerCase()
    .replace(/\s+/g, "")
    .replace(/^0+(?=.)/, "");
}

/** Words of measure may stand twice ("40 x 40"); numbers and single letters are no doubled words. */
function isDoubled(title: string): boolean {
  let before = 0;
  let start = title.indexOf(" ") + 1;
  // Word against word in place: most differ in length or first letter, and then nothing is cut out.
  while (start > 0) {
    const next = title.indexOf(" ", start);
    const end = next < 0 ? title.length : next;
    const length = end - start;
    const sameLetter = ((title.charCodeAt(start) ^ title.charCodeAt(before)) & ~32) === 0;
    if (length > 1 && length === start - 1 - before && sameLetter) {
      const word = title.slice(start, end).toLowerCase();
      if (word === title.slice(before, start - 1).toLowerCase() && /^\p{L}+$/u.test(word)) return true;
    }
    before = start;
    start = next + 1;
  }
  return false;
}

function hasMarkup(title: string): boolean {
  if (!title.includes("<") && !title.includes("&")) return false;
  return /<\/?[a-z][^>]*>|&(?:[a-z]{2,8}|#\d{1,6});/i.test(title);
}

/** Control, invisible and direction-changing characters. */
const HIDDEN = new RegExp("[\\u0000-\\u001f\\u007f-\\u009f\\u200b\\u200e\\u200f\\u202a-\\u202e\\u2060\\ufeff]");

const outlierPrices: Detector = (look, mark) => {
  const price = look.number("price");
  const category = look.text("category");
  if (!price || !category) return;
  const byCategory = new Map<number, number[]>();
  for (let row = 0; row < look.length; row++) {
    const code = category.codes[row]!;
    if (!(price[row]! > 0)) continue;
    const list = byCategory.get(code);
    if (list) list.push(price[row]!);
    else byCategory.set(code, [price[row]!]);
  }
  const middles = new Map<number, number>();
  for (const [code, prices] of byCategory) {
    if (prices.length < OUTLIER_LEAST_ITEMS) continue;
    prices.sort((a, b) => a - b);
    middles.set(code, prices[Math.floor(prices.length / 2)]!);
  }
  for (let row = 0; row < look.length; row++) {
    const middle = middles.get(category.codes[row]!);
    const value = price[row]!;
    if (middle && value > 0 && (value > middle * OUTLIER_RATIO || value * OUTLIER_RATIO < middle)) mark(row);
  }
};

const DETECTORS: Record<FindingCode, Detector> = {
  "id-alike": alikeIds,
  "price-zero": (look, mark) => look.number("price")?.forEach((price, row) => price === 0 && mark(row)),
  "price-outlier": outlierPrices,
  "cost-above-price": (look, mark) => look.number("margin")?.forEach((margin, row) => margin <= 0 && mark(row)),
  "image-missing": whereEmpty("image"),
  "image-shared": whereShared("image", SHARED_PICTURE_FAMILIES),
  "link-missing": whereEmpty("link"),
  "link-shared": whereShared("link", 2),
  "title-shouting": whereText("title", isShouting),
  "title-markup": whereText("title", hasMarkup),
  "title-short": whereText("title", (title) => title.length < SHORT_TITLE * 2 && [...title].length < SHORT_TITLE),
  "title-doubled": whereText("title", isDoubled),
  "title-same": (look, mark) => {
    whereShared("title", 2)(look, mark, { proposed: new Uint8Array(0), spellings: [] });
  },
  "brand-missing": whereEmpty("brand"),
  "brand-spellings": whereAlike("brand", foldSpelling),
  "category-single": whereOnce("category"),
  "category-spellings": whereAlike("category", (text) => text.toLowerCase().replace(/\s+/g, "")),
  "family-single": whereOnce("family"),
  "family-proposed": (look, mark, { proposed }) => {
    for (let row = 0; row < proposed.length; row++) if (proposed[row]) mark(row);
  },
  "stock-contradicts": (look, mark) => {
    const stock = look.number("stock");
    const availability = look.text("availability");
    if (!stock || !availability) return;
    for (let row = 0; row < look.length; row++) {
      const state = availability.values[availability.codes[row]!];
      const count = stock[row]!;
      if ((state === "in stock" && count === 0) || (state === "out of stock" && count > 0)) mark(row);
    }
  },
  "gtin-wrong": whereText("gtin", (gtin) => !/^(\d{8}|\d{12,14})$/.test(gtin) || !hasCheckDigit(gtin)),
  "description-missing": whereEmpty("description"),
  "title-hidden": whereText("title", (title) => HIDDEN.test(title)),
};
