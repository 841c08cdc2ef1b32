import type { AdLine } from "../account/records/ad-lines";
import { isField } from "../parts/part";
import { isSimple, textLength } from "../kit/text-length";
import { awkwardIn, isDangling, type Awkward } from "./awkward";
import type { LineList } from "./copy-plan";
import type { LineProof } from "./faults";
import { isClaim, type CopyValues, type Said } from "./values";

/** A line put together for an ad group. */
export interface Put {
  text: string;
  /** Characters as the channel counts them. */
  length: number;
  /** Why it reads badly, null where it does not; undefined until somebody asks. */
  awkward: Awkward | null | undefined;
  /** The outcome of standing on this rung, once it was made. */
  written: Written | null;
  /** The same as a keyword, once it was asked for. */
  keyword: string | undefined;
  gap: null;
}

/** A field had nothing to say. */
export interface Gap {
  gap: string;
  /** The outcome where this is why, once it was made. */
  written: Written | null;
}

/** A rung made ready: what it says for a unit. What repeats is put together once. */
export interface CompiledLine {
  write: (unit: number) => Put | Gap;
  /** Fields in it whose values go out of date. */
  claims: string[];
}

const SAYS_SOMETHING = /[\p{L}\p{N}]/u;
/** What stands between two parts and means nothing at an end. */
const LOOSE_END = /[\s·|,;:/–—-]+$/;
const single = (text: string) => text.replace(/\s+/g, " ");

/**
 * Makes a line of parts ready to be written for many ad groups. It says the same as `fillParts`, but a line with a gap is no line
 * here, so texts and values only have to be set one after the other.
 */
export function compileLine(line: AdLine, values: CopyValues): CompiledLine {
  const { wideCountTwice } = values.settings;
  const parts = line
    .filter(isField)
    .map((part) => ({ ...values.compile(part), gap: { gap: part.field, written: null } }));
  const texts = [""];
  for (const part of line) {
    if (isField(part)) texts.push("");
    else texts[texts.length - 1] += part.text;
  }
  const last = texts.length - 1;
  for (let i = 0; i <= last; i++) texts[i] = single(texts[i]!);
  if (last > 0 && !SAYS_SOMETHING.test(texts[0]!)) texts[0] = "";
  texts[0] = texts[0]!.trimStart();
  texts[last] = last > 0 ? texts[last]!.replace(LOOSE_END, "") : texts[last]!.trim();
  const own = texts.reduce((sum, text) => sum + textLength(text, wideCountTwice), 0);
  const areSimple = texts.every(isSimple);
  const claims = [...new Set(line.filter(isField).flatMap(({ field }) => (isClaim(field) ? [field] : [])))];
  const put = (text: string, length: number, addsUp: boolean): Put => {
    const counted = addsUp ? length : textLength(text, wideCountTwice);
    return { text, length: counted, awkward: undefined, written: null, keyword: undefined, gap: null };
  };
  const make = (saids: readonly Said[]): Put => {
    let text = texts[0]!;
    let length = own;
    let addsUp = areSimple;
    for (let i = 0; i < saids.length; i++) {
      const said = saids[i]!;
      text += said.text + texts[i + 1]!;
      length += said.length;
      addsUp &&= said.isSimple;
    }
    return put(text, length, addsUp);
  };
  if (parts.length === 0) {
    const fixed = put(texts[0]!, own, areSimple);
    return { write: () => fixed, claims };
  }
  if (parts.length === 1) {
    const [{ of, repeats, gap }] = parts as [(typeof parts)[number]];
    const known: (Put | undefined)[] = [];
    const write = (unit: number): Put | Gap => {
      const said = of(unit);
      if (said === null) return gap;
      if (!repeats) return make([said]);
      return (known[said.id] ??= make([said]));
    };
    return { write, claims };
  }
  // Two that repeat are kept by both; more hardly ever come together twice.
  const known = parts.length === 2 && parts.every(({ repeats }) => repeats) ? new Map<number, Put>() : null;
  const saids: Said[] = [];
  const write = (unit: number): Put | Gap => {
    for (let i = 0; i < parts.length; i++) {
      const { of, gap } = parts[i]!;
      const said = of(unit);
      if (said === null) return gap;
      saids[i] = said;
    }
    if (!known) return make(saids);
    const id = saids[0]!.id * 2 ** 26 + saids[1]!.id;
    let found = known.get(id);
    if (!found) known.set(id, (found = make(saids)));
    return found;
  };
  return { write, claims };
}

/** What became of a line for an ad group: which rung it stands on, or why there is none. */
export const OUTCOMES = {
  /** The first rung; the n-th is `rung + n − 1`. */
  rung: 0,
  ranOn: 20,
  cut: 21,
  gap: 30,
  long: 31,
  awkward: 32,
  /** The design was not tried for this ad group. */
  untried: 255,
} as const;

/** Whether an outcome left a line that can be shown. */
export function isWritten(outcome: number): boolean {
  return outcome < OUTCOMES.gap;
}

/** A line of a written ad. */
export interface WrittenLine {
  list: LineList;
  text: string;
  /** The line of the design that it is of, from 0 on. */
  at: number;
  /** Whether it stands in every view. */
  always: boolean;
  /** Fields in it whose values go out of date. */
  claims: readonly string[];
  /** What the proof finds in it, once it was looked at. */
  proof: LineProof | null;
}

/** What a line came to. */
export interface Written {
  outcome: number;
  /** One, two where it ran on, none where nothing fits. */
  lines: WrittenLine[];
  /** The rung it was made of, or that came nearest; −1 where all leave a gap. */
  rung: number;
  /** Characters beyond the length, where that is why; 0 otherwise. */
  over: number;
  /** The field that had nothing to say, where that is why. */
  gap: string | null;
  awkward: Awkward | null;
}

/** A line of a design made ready. */
export interface Ladder {
  list: LineList;
  at: number;
  always: boolean;
  rungs: readonly CompiledLine[];
  runsOn: boolean;
  cut: boolean;
  /** Most characters. */
  length: number;
  joining: ReadonlySet<string>;
  wideCountTwice: boolean;
}

/**
 * Writes a line by its fit ladder: the first rung that is complete, fits and reads well; else, where that is allowed, the first
 * complete one over two lines; else the last complete one cut at a word.
 */
export function climb(ladder: Ladder, unit: number): Written {
  const { rungs, length: most, joining } = ladder;
  let gap: Gap | null = null;
  let nearest = -1;
  let over = Infinity;
  let bad: Put | null = null;
  let badRung = -1;
  let long: { rung: number; text: string }[] | null = null;
  for (let rung = 0; rung < rungs.length; rung++) {
    const put = rungs[rung]!.write(unit);
    if (put.gap !== null) {
      gap ??= put;
      continue;
    }
    const { text, length } = put;
    if (text === "") continue;
    if (length <= most) {
      if (put.awkward === undefined) put.awkward = awkwardIn(text, joining);
      if (put.awkward === null) return (put.written ??= standing(ladder, rung, rung, [text]));
      if (bad === null) {
        bad = put;
        badRung = rung;
      }
      continue;
    }
    (long ??= []).push({ rung, text });
    if (length - most < over) {
      nearest = rung;
      over = length - most;
    }
  }
  if (long && ladder.runsOn) {
    for (const { rung, text } of long) {
      const texts = runOn(text, ladder);
      if (texts) return standing(ladder, OUTCOMES.ranOn, rung, texts);
    }
  }
  if (long && ladder.cut) {
    for (const { rung, text } of long.toReversed()) {
      const short = cutAtWord(text, ladder);
      if (short !== "" && awkwardIn(short, joining) === null) return standing(ladder, OUTCOMES.cut, rung, [short]);
    }
  }
  if (nearest >= 0) return without(OUTCOMES.long, nearest, over, null, null);
  if (bad !== null) return (bad.written ??= without(OUTCOMES.awkward, badRung, 0, null, bad.awkward ?? null));
  if (gap !== null) return (gap.written ??= without(OUTCOMES.gap, -1, 0, gap.gap, null));
  return without(OUTCOMES.gap, -1, 0, null, null);
}

// Written out field by field: a plan of a large catalogue makes millions of these.
function without(outcome: number, rung: number, over: number, gap: string | null, awkward: Awkward | null): Written {
  return { outcome, lines: NO_LINES, rung, over, gap, awkward };
}

const NO_LINES: WrittenLine[] = [];

function standing({ list, at, always, rungs }: Ladder, outcome: number, rung: number, texts: string[]): Written {
  const { claims } = rungs[rung]!;
  const lines = texts.map((text) => ({ list, text, at, always, claims, proof: null }));
  return { outcome, lines, rung, over: 0, gap: null, awkward: null };
}

/** A text over two lines, broken at a word so that neither is too long nor the first ends on a joining word; null where it can't be. */
function runOn(text: string, settings: Ladder): [string, string] | null {
  const first = cutAtWord(text, settings);
  if (first === "") return null;
  const rest = text.slice(first.length).replace(/^[\s,;:·|–—-]+/, "");
  if (rest === "" || textLength(rest, settings.wideCountTwice) > settings.length) return null;
  if (awkwardIn(first, settings.joining) !== null || awkwardIn(rest, settings.joining) !== null) return null;
  return [first, rest];
}

const TRAILING = /[\s,;:·|/&+(–—-]+$/;

/** As many whole words of a text as fit, without a sign or a joining word left hanging; "" where not even the first fits. */
export function cutAtWord(
  text: string,
  { length: most, joining, wideCountTwice }: Pick<Ladder, "length" | "joining" | "wideCountTwice">,
): string {
  let kept = 0;
  let length = 0;
  for (let from = 0; from < text.length;) {
    let to = text.indexOf(" ", from + 1);
    if (to < 0) to = text.length;
    length += textLength(text.slice(from, to), wideCountTwice);
    if (length > most) break;
    kept = from = to;
  }
  let cut = text.slice(0, kept).replace(TRAILING, "");
  while (cut !== "" && isDangling(cut, joining)) {
    const space = cut.lastIndexOf(" ");
    cut = space < 0 ? "" : cut.slice(0, space).replace(TRAILING, "");
  }
  return cut;
}
