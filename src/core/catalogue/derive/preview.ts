import { cellText, type Columns } from "../../kit/columns";
import { findWord, isOneSlip, listEntries, wordAround, wordsOf } from "../../kit/words";
import { isGroup, isWordOp, lowered, matchRows, maskOf, type Condition, type Where } from "../where";
import { formsOf, type DerivedField } from "./derived-field";
import { evaluateField, NO_RULE, type DeriveSettings } from "./evaluate";

/** Examples shown for each finding. */
const SHOWN = 6;

export interface DerivedExample {
  row: number;
  /** The values of the fields it reads. */
  before: { field: string; value: string }[];
  after: string[];
  /** Number of the rule that gave the value, from 0; null when none did. */
  rule: number | null;
}

export interface RuleFigures {
  /** Rows its conditions hold for. */
  holds: number;
  /** Rows it gave the value of. */
  gives: number;
  examples: DerivedExample[];
  nearMisses: NearMiss[];
  /** Words of its conditions that also stand inside other words. */
  insideOthers: { word: string; others: { word: string; count: number }[]; count: number }[];
}

export interface NearMiss {
  row: number;
  /** Why it was nearly caught, in words. */
  why: string;
}

export interface DerivedPreview {
  rows: number;
  caught: number;
  caughtByNone: number;
  /** Rows that several rules with conditions hold for; the first of them decides. */
  caughtTwice: number;
  rules: RuleFigures[];
  noneExamples: DerivedExample[];
  twiceExamples: (DerivedExample & { rules: number[] })[];
  /** The most common values. */
  values: { value: string; count: number }[];
  lookedUp: DerivedExample[];
}

/** A spread of rows with a mark, so that examples are not all from the feed's first page. */
function spread(isMarked: (row: number) => boolean, length: number, most: number): number[] {
  const rows: number[] = [];
  for (let row = 0; row < length; row++) if (isMarked(row)) rows.push(row);
  if (rows.length <= most) return rows;
  return Array.from({ length: most }, (_, i) => rows[Math.floor(((i + 0.5) * rows.length) / most)]!);
}

/**
 * What a derived field would do to the whole catalogue, with examples: counts per rule, rows caught by none or by
 * several, near misses, and words that also stand inside other words.
 * @param lookedUp rows to show whatever they are
 */
export function previewField(
  table: Columns,
  field: DerivedField,
  reads: string[],
  settings: DeriveSettings,
  lookedUp: number[] = [],
): DerivedPreview {
  const { columns, ruleOf } = evaluateField(table, field, settings);
  const { length } = table;
  const show = (name: string, row: number) => {
    const column = table.columns[name];
    if (!column) return "";
    const text = cellText(column, row);
    return text !== "" && settings.isMoney(name) ? (Number(text) / 1000).toFixed(2) : text;
  };
  const after = (row: number) =>
    columns.slice(0, formsOf(field)).map((column) => {
      const text = cellText(column, row);
      return field.kind === "money" && text !== "" ? (Number(text) / 1000).toFixed(2) : text;
    });
  const example = (row: number): DerivedExample => ({
    row,
    before: reads.map((name) => ({ field: name, value: show(name, row) })),
    after: after(row),
    rule: ruleOf[row] === NO_RULE ? null : ruleOf[row]!,
  });

  const masks = field.rules.map((rule) => matchRows(table, rule.when));
  const conditional = field.rules.map((rule) => rule.when.of.length > 0);
  const holdCount = new Uint8Array(length);
  masks.forEach((mask, no) => {
    if (conditional[no]) for (let row = 0; row < length; row++) holdCount[row]! += mask[row]!;
  });
  const rules = field.rules.map((rule, no): RuleFigures => {
    const mask = masks[no]!;
    let holds = 0;
    let gives = 0;
    for (let row = 0; row < length; row++) {
      holds += mask[row]!;
      if (ruleOf[row] === no) gives++;
    }
    return {
      holds,
      gives,
      examples: spread((row) => ruleOf[row] === no, length, SHOWN).map(example),
      nearMisses: nearMisses(table, rule.when, mask),
      insideOthers: insideOthers(table, rule.when),
    };
  });
  const caughtByNone = count(length, (row) => ruleOf[row] === NO_RULE);
  const isTwice = (row: number) => holdCount[row]! > 1;
  return {
    rows: length,
    caught: length - caughtByNone,
    caughtByNone,
    caughtTwice: count(length, isTwice),
    rules,
    noneExamples: spread((row) => ruleOf[row] === NO_RULE, length, SHOWN).map(example),
    twiceExamples: spread(isTwice, length, SHOWN).map((row) => ({
      ...example(row),
      rules: masks.flatMap((mask, no) => (conditional[no] && mask[row] ? [no] : [])),
    })),
    values: commonValues(length, (row) => after(row)[0] ?? ""),
    lookedUp: lookedUp.map(example),
  };
}

function count(length: number, holds: (row: number) => boolean): number {
  let found = 0;
  for (let row = 0; row < length; row++) if (holds(row)) found++;
  return found;
}

function commonValues(length: number, value: (row: number) => string): { value: string; count: number }[] {
  const counts = new Map<string, number>();
  for (let row = 0; row < length; row++) {
    const text = value(row);
    if (text !== "") counts.set(text, (counts.get(text) ?? 0) + 1);
  }
  return [...counts]
    .map(([text, times]) => ({ value: text, count: times }))
    .sort((a, b) => b.count - a.count || (a.value < b.value ? -1 : 1))
    .slice(0, 12);
}

function conditionsWithWords(where: Where): Condition[] {
  return where.of.flatMap((part) =>
    isGroup(part) ? conditionsWithWords(part) : isWordOp(part.op) || part.op === "contains" ? [part] : [],
  );
}

/** Words that stand whole in some values but inside a longer word in others: "rose" in "primrose". */
function insideOthers(table: Columns, where: Where): RuleFigures["insideOthers"] {
  return conditionsWithWords(where).flatMap(({ field, value }) => {
    const column = table.columns[field];
    if (column?.kind !== "text") return [];
    const rowsOf = new Uint32Array(column.values.length);
    for (const code of column.codes) rowsOf[code] = rowsOf[code]! + 1;
    return listEntries(value.toLowerCase()).flatMap((word) => {
      const others = new Map<string, number>();
      lowered(column).forEach((text, code) => {
        if (rowsOf[code] === 0) return;
        for (let at = text.indexOf(word); at >= 0; at = text.indexOf(word, at + word.length)) {
          const around = wordAround(text, at);
          if (around.length > word.length && findWord(around, word) < 0) {
            others.set(around, (others.get(around) ?? 0) + rowsOf[code]!);
          }
        }
      });
      if (others.size === 0) return [];
      const sorted = [...others].map(([other, times]) => ({ word: other, count: times }));
      sorted.sort((a, b) => b.count - a.count || (a.word < b.word ? -1 : 1));
      const total = sorted.reduce((sum, entry) => sum + entry.count, 0);
      return [{ word, others: sorted.slice(0, SHOWN), count: total }];
    });
  });
}

/** Rows that a rule nearly holds for: all conditions but one, or a word that is one slip away or inside another. */
function nearMisses(table: Columns, where: Where, mask: Uint8Array): NearMiss[] {
  const misses: NearMiss[] = [];
  const seen = new Set<number>();
  const add = (row: number, why: string) => {
    if (seen.has(row) || misses.length >= SHOWN) return;
    seen.add(row);
    misses.push({ row, why });
  };
  for (const { field, op, value } of conditionsWithWords(where)) {
    const column = table.columns[field];
    if (column?.kind !== "text" || op === "lacks-word") continue;
    const words = listEntries(value.toLowerCase());
    const whyOf = new Map<number, string>();
    lowered(column).forEach((text, code) => {
      if (whyOf.size > 200) return;
      const why = slipIn(text, words);
      if (why) whyOf.set(code, why);
    });
    if (whyOf.size === 0) continue;
    for (let row = 0; row < table.length && misses.length < SHOWN; row++) {
      const why = mask[row] ? undefined : whyOf.get(column.codes[row]!);
      if (why) add(row, why);
    }
  }
  if (where.match === "all" && where.of.length > 1) {
    const parts = where.of.map((part) =>
      isGroup(part) ? matchRows(table, part) : maskOf(table.columns[part.field], part, table.length),
    );
    for (let row = 0; row < table.length && misses.length < SHOWN; row++) {
      if (mask[row]) continue;
      const failing = parts.flatMap((part, i) => (part[row] ? [] : [i]));
      if (failing.length === 1) add(row, `all holds but condition ${failing[0]! + 1}`);
    }
  }
  return misses;
}

function slipIn(text: string, words: string[]): string | null {
  for (const word of words) {
    if (findWord(text, word) >= 0) continue;
    const at = text.indexOf(word);
    if (at >= 0) return `"${word}" stands inside "${wordAround(text, at)}"`;
    if (word.length < 5 || word.includes(" ")) continue;
    const near = wordsOf(text).find((other) => isOneSlip(other, word));
    if (near) return `"${near}" is one letter from "${word}"`;
  }
  return null;
}
