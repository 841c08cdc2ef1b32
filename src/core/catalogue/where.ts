import { z } from "zod";
import type { Column, Columns, TextColumn } from "../kit/columns";
import { findWord, listEntries } from "../kit/words";

/** What a condition can ask. Word conditions take lists and mean whole words; the others compare the whole value. */
export const CONDITION_OPS = [
  "is",
  "is-not",
  "one-of",
  "has-word",
  "has-all-words",
  "lacks-word",
  "contains",
  "lacks",
  "starts",
  "ends",
  "capitals",
  "at-least",
  "at-most",
  "empty",
  "filled",
] as const;

export type ConditionOp = (typeof CONDITION_OPS)[number];

/** How the conditions are said in plain words. */
export const OP_LABEL: Record<ConditionOp, string> = {
  is: "is",
  "is-not": "is not",
  "one-of": "is one of",
  "has-word": "has any of the words",
  "has-all-words": "has all of the words",
  "lacks-word": "has none of the words",
  contains: "contains the letters",
  lacks: "does not contain the letters",
  starts: "begins with",
  ends: "ends with",
  capitals: "is written in capitals",
  "at-least": "is at least",
  "at-most": "is at most",
  empty: "is empty",
  filled: "has a value",
};

/** Whether a condition needs no value. */
export function isValueless(op: ConditionOp): boolean {
  return op === "empty" || op === "filled" || op === "capitals";
}

/** Whether a condition takes whole words. */
export function isWordOp(op: ConditionOp): boolean {
  return op === "has-word" || op === "has-all-words" || op === "lacks-word";
}

/** One condition on a field or metric. Money and counts compare as numbers (money in mills). */
export const conditionSchema = z.object({
  field: z.string().min(1).max(200),
  op: z.enum(CONDITION_OPS),
  value: z.string().max(20_000).default(""),
});

export type Condition = z.infer<typeof conditionSchema>;

/** Conditions that stack: all or any of them, each a condition or a group again. */
export interface Where {
  match: "all" | "any";
  of: (Condition | Where)[];
}

/** Groups may nest this deep. */
const DEEPEST = 4;
const MOST_IN_GROUP = 50;

function groupSchema(depth: number): z.ZodType<Where> {
  const inner = depth > 1 ? z.union([conditionSchema, groupSchema(depth - 1)]) : conditionSchema;
  return z.object({ match: z.enum(["all", "any"]), of: z.array(inner).max(MOST_IN_GROUP) }) as z.ZodType<Where>;
}

export const whereSchema = groupSchema(DEEPEST);

export function isGroup(part: Condition | Where): part is Where {
  return "of" in part;
}

/** All conditions of a group, those of inner groups too. */
export function conditionsIn(where: Where): Condition[] {
  return where.of.flatMap((part) => (isGroup(part) ? conditionsIn(part) : [part]));
}

/** The names of the fields that a group looks at. */
export function fieldsIn(where: Where): string[] {
  return [...new Set(conditionsIn(where).map(({ field }) => field))];
}

const lowerCase = new WeakMap<TextColumn, string[]>();

/** The values of a text column in lower case, worked out once a column. */
export function lowered(column: TextColumn): string[] {
  let found = lowerCase.get(column);
  if (!found) lowerCase.set(column, (found = column.values.map((value) => value.toLowerCase())));
  return found;
}

/** Whether most letters of a text of some length are capitals. */
export function isShouting(text: string): boolean {
  let capitals = 0;
  let letters = 0;
  for (let i = 0; i < text.length; i++) {
    const unit = text.charCodeAt(i);
    if (unit < 128) {
      if (unit >= 97 && unit <= 122) letters++;
      else if (unit >= 65 && unit <= 90) {
        letters++;
        capitals++;
      }
      continue;
    }
    const letter = text[i]!;
    if (letter.toLowerCase() === letter.toUpperCase()) continue;
    letters++;
    if (letter !== letter.toLowerCase()) capitals++;
  }
  return letters >= 10 && capitals > letters * 0.8;
}

/** Makes the test of one condition on a text that is in lower case already; `capitals` is told before the case goes. */
export function textTest(op: ConditionOp, value: string): (text: string) => boolean {
  const wanted = value.trim().toLowerCase();
  const number = Number(value);
  switch (op) {
    case "is":
      return (text) => text === wanted;
    case "is-not":
      return (text) => text !== wanted;
    case "one-of": {
      const list = new Set(listEntries(wanted));
      return (text) => list.has(text);
    }
    case "has-word":
    case "has-all-words":
    case "lacks-word": {
      const words = listEntries(wanted);
      const holds = (text: string) => (word: string) => findWord(text, word) >= 0;
      if (op === "has-all-words") return (text) => words.length > 0 && words.every(holds(text));
      return op === "has-word" ? (text) => words.some(holds(text)) : (text) => !words.some(holds(text));
    }
    case "contains":
      return (text) => text.includes(wanted);
    case "lacks":
      return (text) => !text.includes(wanted);
    case "starts":
      return (text) => text.startsWith(wanted);
    case "ends":
      return (text) => text.endsWith(wanted);
    case "capitals":
      return isShouting;
    case "at-least":
      return (text) => text !== "" && Number(text) >= number;
    case "at-most":
      return (text) => text !== "" && Number(text) <= number;
    case "empty":
      return (text) => text === "";
    case "filled":
      return (text) => text !== "";
  }
}

function numberTest(op: ConditionOp, value: string): (value: number) => boolean {
  const wanted = Number(value);
  switch (op) {
    case "is":
      return (number) => number === wanted;
    case "is-not":
      return (number) => number !== wanted;
    case "one-of": {
      const list = new Set(listEntries(value).map(Number));
      return (number) => list.has(number);
    }
    case "at-least":
      return (number) => number >= wanted;
    case "at-most":
      return (number) => number <= wanted;
    case "empty":
      return (number) => Number.isNaN(number);
    case "filled":
      return (number) => !Number.isNaN(number);
    default: {
      const test = textTest(op, value);
      return (number) => test(Number.isNaN(number) ? "" : String(number));
    }
  }
}

/** Which rows a condition holds for, as ones. A condition on an unknown field holds for none. */
export function maskOf(column: Column | undefined, { op, value }: Condition, length: number): Uint8Array {
  const mask = new Uint8Array(length);
  if (!column) return mask;
  if (column.kind === "text") {
    const test = textTest(op, value);
    // Each value is tested once, and only values that a row still has.
    const hit = new Uint8Array(column.values.length);
    const texts = op === "capitals" ? column.values : lowered(column);
    texts.forEach((text, code) => (hit[code] = test(text) ? 1 : 0));
    for (let row = 0; row < length; row++) mask[row] = hit[column.codes[row]!]!;
    return mask;
  }
  const test = numberTest(op, value);
  for (let row = 0; row < length; row++) mask[row] = test(column.values[row]!) ? 1 : 0;
  return mask;
}

/**
 * Which rows a group of conditions holds for, as ones. An empty group holds for every row.
 * @param columns fields and metrics by name
 */
export function matchRows(table: Columns, where: Where): Uint8Array {
  const isAll = where.match === "all";
  const mask = new Uint8Array(table.length).fill(where.of.length === 0 || isAll ? 1 : 0);
  for (const part of where.of) {
    const more = isGroup(part) ? matchRows(table, part) : maskOf(table.columns[part.field], part, table.length);
    if (isAll) for (let row = 0; row < mask.length; row++) mask[row] = mask[row]! & more[row]!;
    else for (let row = 0; row < mask.length; row++) mask[row] = mask[row]! | more[row]!;
  }
  return mask;
}
