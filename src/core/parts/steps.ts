import { RE2JS } from "re2js";
import { z } from "zod";
import { categoryLevels } from "../kit/categories";
import { charactersOf } from "../kit/text-length";
import { findWord, listEntries, wordsOf } from "../kit/words";

/** What can be done to a value on its way into a name, an ad line or a derived field. */
export const stepSchema = z.discriminatedUnion("do", [
  /** Characters by position; `from` counts from 1, or from the end when negative. `count` 0 takes the rest. */
  z.object({
    do: z.literal("take-characters"),
    from: z.number().int(),
    count: z.number().int().min(0).max(10_000).default(0),
  }),
  /** Words by position; `from` counts from 1, or from the end when negative. `count` 0 takes the rest. */
  z.object({
    do: z.literal("take-words"),
    from: z.number().int(),
    count: z.number().int().min(0).max(1000).default(0),
  }),
  z.object({ do: z.literal("take-between"), after: z.string().max(100), before: z.string().max(100) }),
  /** The first number followed by one of the units, with the unit. Without units, the first number. */
  z.object({ do: z.literal("take-number"), units: z.string().max(500).default("") }),
  z.object({ do: z.literal("take-listed"), words: z.string().max(20_000) }),
  z.object({ do: z.literal("take-pattern"), pattern: z.string().min(1).max(200) }),
  z.object({ do: z.literal("take-level"), level: z.number().int().min(1).max(12) }),
  z.object({
    do: z.literal("replace"),
    find: z.string().min(1).max(200),
    with: z.string().max(200),
    whole: z.boolean().default(true),
  }),
  z.object({ do: z.literal("remove-words"), words: z.string().max(20_000) }),
  z.object({ do: z.literal("case"), to: z.enum(["lower", "upper", "title", "sentence"]) }),
  /** On plain numbers; money counts in currency units. The operand is a number, or a field's value. */
  z.object({
    do: z.literal("arithmetic"),
    op: z.enum(["add", "subtract", "multiply", "divide"]),
    by: z.number().finite().default(0),
    field: z.string().max(200).default(""),
  }),
  z.object({ do: z.literal("round"), to: z.number().positive().max(1_000_000) }),
  z.object({ do: z.literal("price"), digits: z.union([z.literal(0), z.literal(2)]), currency: z.string().max(10) }),
  z.object({
    do: z.literal("look-up"),
    list: z.string().max(60),
    column: z.union([z.literal(1), z.literal(2)]).default(1),
    missing: z.enum(["keep", "empty"]).default("empty"),
  }),
  /** Without HTML tags, with HTML's codes read, without control and invisible characters. */
  z.object({ do: z.literal("plain-text") }),
  z.object({ do: z.literal("shorten"), most: z.number().int().min(1).max(10_000) }),
  /** What stands before and behind a value; an empty one stays empty. */
  z.object({ do: z.literal("around"), before: z.string().max(100), behind: z.string().max(100) }),
  z.object({ do: z.literal("default"), text: z.string().max(500) }),
  /** A number that lies between two bounds, both counted in; any other value is empty. Null is no bound. */
  z.object({ do: z.literal("within"), from: z.number().nullable(), to: z.number().nullable() }),
]);

export type Step = z.infer<typeof stepSchema>;

export const STEP_LABEL: Record<Step["do"], string> = {
  "take-characters": "take characters by position",
  "take-words": "take words by position",
  "take-between": "take what stands between",
  "take-number": "take a number with its unit",
  "take-listed": "take the first of these words found",
  "take-pattern": "take what fits a pattern",
  "take-level": "take a level of a category path",
  replace: "replace",
  "remove-words": "leave words out",
  case: "change the case",
  arithmetic: "calculate",
  round: "round",
  price: "write as a price",
  "look-up": "look up in a list",
  "plain-text": "take out HTML and hidden characters",
  shorten: "shorten at a word",
  around: "put before and behind it",
  default: "if empty, use",
  within: "only where it lies between",
};

/** A step to begin with when somebody chooses what to do. */
export const FRESH_STEP: { [D in Step["do"]]: Extract<Step, { do: D }> } = {
  "take-characters": { do: "take-characters", from: 1, count: 3 },
  "take-words": { do: "take-words", from: 1, count: 1 },
  "take-between": { do: "take-between", after: "(", before: ")" },
  "take-number": { do: "take-number", units: "cm, m, mm" },
  "take-listed": { do: "take-listed", words: "" },
  "take-pattern": { do: "take-pattern", pattern: "[0-9]+" },
  "take-level": { do: "take-level", level: 1 },
  replace: { do: "replace", find: "x", with: "", whole: true },
  "remove-words": { do: "remove-words", words: "" },
  case: { do: "case", to: "title" },
  arithmetic: { do: "arithmetic", op: "multiply", by: 1, field: "" },
  round: { do: "round", to: 1 },
  price: { do: "price", digits: 2, currency: "EUR" },
  "look-up": { do: "look-up", list: "", column: 1, missing: "empty" },
  "plain-text": { do: "plain-text" },
  shorten: { do: "shorten", most: 30 },
  around: { do: "around", before: "", behind: "" },
  default: { do: "default", text: "" },
  within: { do: "within", from: 1, to: 5 },
};

/** What steps may look at beside the text: look-up lists, and the row's other values. */
export interface StepContext {
  lookUp: (list: string, text: string, column: 1 | 2) => string | undefined;
  /** A field's value as a plain number, money in currency units; NaN when it has none. */
  number: (field: string) => number;
}

/** Longest text that a pattern is tried on: what is said further down is hardly ever meant. */
const PATTERN_REACH = 2000;

/**
 * Patterns are matched by an engine whose time grows with the text alone (RE2: Cox 2010), so none that a person types can
 * run away.
 */
function compilePattern(pattern: string): RE2JS | null {
  try {
    return RE2JS.compile(pattern, RE2JS.CASE_INSENSITIVE);
  } catch {
    return null;
  }
}

/** Whether a pattern can be used. @returns a sentence for a person when not */
export function patternFault(pattern: string): string | null {
  if (compilePattern(pattern)) return null;
  if (/\(\?<?[=!]|\\[1-9]/.test(pattern)) {
    return "The pattern looks around itself or back at what it found, which is not done here. Write what to take in brackets instead.";
  }
  return "The pattern can't be read: check brackets and backslashes.";
}

/** Compiles a step once, so that using it on many texts is cheap. A pattern that can't be used gives nothing. */
export function compileStep(step: Step): (text: string, context: StepContext) => string {
  switch (step.do) {
    case "take-characters":
      return (text) => slice([...text], step.from, step.count).join("");
    case "take-words":
      return (text) => slice(wordsOf(text), step.from, step.count).join(" ");
    case "take-between":
      return (text) => between(text, step.after, step.before);
    case "take-number":
      return takeNumber(step.units);
    case "take-listed": {
      const words = listEntries(step.words);
      return (text) => firstListed(text, words);
    }
    case "take-pattern": {
      const pattern = compilePattern(step.pattern);
      if (!pattern) return () => "";
      return (text) => {
        const found = pattern.matcher(text.slice(0, PATTERN_REACH));
        if (!found.find()) return "";
        return (found.groupCount() > 0 ? found.group(1) : null) ?? found.group(0) ?? "";
      };
    }
    case "take-level":
      return (text) => categoryLevels(text)[step.level - 1] ?? "";
    case "replace":
      return (text) => replaceAll(text, step.find, step.with, step.whole);
    case "remove-words": {
      const words = listEntries(step.words);
      return (text) => tidy(words.reduce((rest, word) => replaceAll(rest, word, "", true), text));
    }
    case "case":
      return (text) => CASES[step.to](text);
    case "arithmetic":
      return (text, context) => arithmetic(text, step.op, step.field === "" ? step.by : context.number(step.field));
    case "round":
      return (text) => (isNumber(text) ? plain(Math.round(Number(text) / step.to) * step.to) : "");
    case "price":
      return (text) => (isNumber(text) ? `${Number(text).toFixed(step.digits)} ${step.currency}`.trim() : "");
    case "look-up":
      return (text, context) =>
        context.lookUp(step.list, text.trim().toLowerCase(), step.column) ?? (step.missing === "keep" ? text : "");
    case "plain-text":
      return plainText;
    case "shorten":
      return (text) => shorten(text, step.most);
    case "around":
      return (text) => (text === "" ? "" : step.before + text + step.behind);
    case "default":
      return (text) => (text === "" ? step.text : text);
    case "within":
      return (text) => {
        const isIn =
          isNumber(text) && Number(text) >= (step.from ?? -Infinity) && Number(text) <= (step.to ?? Infinity);
        return isIn ? text : "";
      };
  }
}

/** Steps one after the other. */
export function compileSteps(steps: readonly Step[]): (text: string, context: StepContext) => string {
  const compiled = steps.map(compileStep);
  return (text, context) => compiled.reduce((value, step) => step(value, context), text);
}

/** What is wrong with a step that a person set up, in a sentence, or null. @param lists keys of the look-up lists */
export function stepFault(step: Step, lists: { key: string }[]): string | null {
  if (step.do === "take-pattern") return patternFault(step.pattern);
  if (step.do === "look-up" && !lists.some(({ key }) => key === step.list))
    return "It looks up in a list that is not there.";
  return null;
}

/** Whether a step needs more than the text itself: another value of the row. */
export function readsRow(step: Step): boolean {
  return step.do === "arithmetic" && step.field !== "";
}

function slice<T>(list: T[], from: number, count: number): T[] {
  const start = from < 0 ? Math.max(0, list.length + from) : Math.max(0, from - 1);
  return list.slice(start, count === 0 ? undefined : start + count);
}

function between(text: string, after: string, before: string): string {
  const folded = text.toLowerCase();
  let start = 0;
  if (after !== "") {
    const at = folded.indexOf(after.toLowerCase());
    if (at < 0) return "";
    start = at + after.length;
  }
  if (before === "") return text.slice(start).trim();
  const end = folded.indexOf(before.toLowerCase(), start);
  return end < 0 ? "" : text.slice(start, end).trim();
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\/-]/g, "\\$&");
}

function takeNumber(units: string): (text: string) => string {
  const known = listEntries(units)
    .sort((a, b) => b.length - a.length)
    .map(escaped);
  const number = "\\d+(?:[.,]\\d+)?";
  if (known.length === 0) {
    const pattern = new RegExp(number, "u");
    return (text) => pattern.exec(text)?.[0].replace(",", ".") ?? "";
  }
  const pattern = new RegExp(`(?<![\\p{L}\\p{N}.,])(${number})\\s*(${known.join("|")})(?![\\p{L}\\p{N}])`, "iu");
  return (text) => {
    const found = pattern.exec(text);
    return found ? `${found[1]} ${found[2]}` : "";
  };
}

function firstListed(text: string, words: string[]): string {
  const folded = text.toLowerCase();
  let best = "";
  let bestAt = Infinity;
  for (const word of words) {
    const at = findWord(folded, word.toLowerCase());
    // Of words that begin at the same place the longer one says more.
    if (at >= 0 && (at < bestAt || (at === bestAt && word.length > best.length))) [best, bestAt] = [word, at];
  }
  return best;
}

function replaceAll(text: string, find: string, by: string, whole: boolean): string {
  const folded = text.toLowerCase();
  const wanted = find.toLowerCase();
  // Some letters change length with their case; then places would not agree, and the text is left as it is.
  if (folded.length !== text.length) return text;
  let out = "";
  let from = 0;
  for (;;) {
    const at = whole ? findWord(folded, wanted, from) : folded.indexOf(wanted, from);
    if (at < 0) break;
    out += text.slice(from, at) + by;
    from = at + wanted.length;
  }
  return from === 0 ? text : out + text.slice(from);
}

/** White space made single, and none at the ends or before a comma. */
export function tidy(text: string): string {
  return UNTIDY.test(text) ? tidied(text) : text;
}

const UNTIDY = /\s\s|^\s|\s$|[^\S ]| [,;:.]/;

function tidied(text: string): string {
  return text
    .replace(/\s+/g, " ")
    .replace(/ ([,;:.])/g, "$1")
    .trim();
}

const CASES: Record<"lower" | "upper" | "title" | "sentence", (text: string) => string> = {
  lower: (text) => text.toLowerCase(),
  upper: (text) => text.toUpperCase(),
  title: (text) =>
    text.toLowerCase().replace(/(^|[^\p{L}\p{M}\p{N}'’])(\p{L})/gu, (_, before: string, letter: string) => {
      return before + letter.toUpperCase();
    }),
  sentence: (text) => text.toLowerCase().replace(/\p{L}/u, (letter) => letter.toUpperCase()),
};

const CODES: Record<string, string> = { amp: "&", lt: "<", gt: ">", quot: '"', apos: "'", nbsp: " ", eacute: "é" };

function plainText(text: string): string {
  return text
    .replace(/<\/?[a-z][^>]*>/gi, " ")
    .replace(/&(?:#(\d{1,6})|([a-z]{2,8}));/gi, (whole, number: string | undefined, name: string | undefined) => {
      if (number !== undefined)
        return Number(number) > 31 ? String.fromCodePoint(Math.min(Number(number), 0x10ffff)) : " ";
      return CODES[(name as string).toLowerCase()] ?? whole;
    })
    .replace(/[\p{Cc}\u200B\u200E\u200F\u202A-\u202E\u2060\uFEFF]/gu, " ");
}

function isNumber(text: string): boolean {
  return text.trim() !== "" && Number.isFinite(Number(text));
}

/** A number as plain text with at most six decimals, free of binary dust. */
export function plain(value: number): string {
  return String(Number(value.toFixed(6)));
}

function arithmetic(text: string, op: "add" | "subtract" | "multiply" | "divide", by: number): string {
  if (!isNumber(text) || Number.isNaN(by)) return "";
  const value = Number(text);
  if (op === "divide" && by === 0) return "";
  const result = { add: value + by, subtract: value - by, multiply: value * by, divide: value / by }[op];
  return plain(result);
}

/** Cut at a word, with no sign left hanging; a first word that is too long by itself is cut where it is. */
export function shorten(text: string, most: number): string {
  if (text.length <= most) return text;
  const letters = charactersOf(text);
  if (letters.length <= most) return text;
  const cut = letters.slice(0, most).join("");
  const isAtWord = /\s/.test(letters[most]!);
  const space = cut.lastIndexOf(" ");
  return (isAtWord || space <= 0 ? cut : cut.slice(0, space)).replace(/[\s,;:–-]+$/, "");
}
