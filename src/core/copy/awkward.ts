/*
 * What makes a line read badly whatever it says. These run on every line that is written, so they look at characters and make
 * nothing.
 */

/** Why a line reads badly. */
export type Awkward = "doubled" | "dangling" | "two-prices";

const SPACE = 32;
/** A letter of either case as one number, for the common letters; others compare as they are. */
const folded = (unit: number) => (unit >= 65 && unit <= 90 ? unit | 32 : unit);

/** Whether two neighbouring words are the same but for capitals; numbers may stand twice. */
export function hasDoubledWord(text: string): boolean {
  let [before, beforeEnd] = [-1, -1];
  let from = 0;
  const end = text.length;
  while (from < end) {
    let to = text.indexOf(" ", from);
    if (to < 0) to = end;
    const length = to - from;
    if (before >= 0 && length === beforeEnd - before && length >= 2 && isSameRun(text, before, from, length)) {
      if (/\p{L}/u.test(text.slice(from, to))) return true;
    }
    [before, beforeEnd] = [from, to];
    from = to + 1;
    while (from < end && text.charCodeAt(from) === SPACE) from++;
  }
  return false;
}

function isSameRun(text: string, a: number, b: number, length: number): boolean {
  for (let i = 0; i < length; i++) {
    const [x, y] = [text.charCodeAt(a + i), text.charCodeAt(b + i)];
    if (x !== y && folded(x) !== folded(y)) return false;
  }
  return true;
}

/** Whether a line ends with a word that joins what would come after it. */
export function isDangling(text: string, joining: ReadonlySet<string>): boolean {
  let end = text.length;
  while (end > 0 && !isWordUnit(text.charCodeAt(end - 1))) end--;
  // "50 %" and "(new)" end with a sign that belongs to them; "tools &" does not.
  if (/[&+/·|–—-]\s*$/.test(text.slice(end))) return true;
  let from = end;
  while (from > 0 && isWordUnit(text.charCodeAt(from - 1))) from--;
  const length = end - from;
  if (length === 0 || length > 6 || from === 0) return false;
  return joining.has(text.slice(from, end).toLowerCase());
}

function isWordUnit(unit: number): boolean {
  return (
    (unit >= 97 && unit <= 122) ||
    (unit >= 65 && unit <= 90) ||
    (unit >= 48 && unit <= 57) ||
    (unit >= 0xc0 && unit !== 0xd7 && unit !== 0xf7 && (unit < 0x2000 || unit > 0x20ff))
  );
}

const MONEY = /(?:[€$£¥]|\b(?:EUR|USD|GBP|CHF)\b)\s?(\d[\d.,]*)|(\d[\d.,]*)\s?(?:[€$£¥]|\b(?:EUR|USD|GBP|CHF)\b)/gu;
const CODES = /\b(?:EUR|USD|GBP|CHF)\b/g;

/** How many signs and codes of a currency a line has. */
function signsIn(text: string): number {
  let count = 0;
  let capitals = 0;
  let mayHaveCode = false;
  for (let i = 0; i < text.length; i++) {
    const unit = text.charCodeAt(i);
    if (unit === 0x20ac || unit === 0x24 || unit === 0xa3 || unit === 0xa5) count++;
    capitals = unit >= 65 && unit <= 90 ? capitals + 1 : 0;
    if (capitals === 3) mayHaveCode = true;
  }
  return mayHaveCode ? count + (text.match(CODES)?.length ?? 0) : count;
}

/** The amounts of money that a line names, as it writes them, without a trailing full stop or comma. */
export function amountsIn(text: string): string[] {
  if (signsIn(text) === 0) return [];
  return Array.from(text.matchAll(MONEY), (found) => (found[1] ?? found[2]!).replace(/[.,]+$/, ""));
}

/** Whether one amount has two signs of a currency: "€12 €". */
export function hasTwoSigns(text: string): boolean {
  const signs = signsIn(text);
  return signs > 1 && signs > amountsIn(text).length;
}

/** Why a line reads badly; null where it reads well. */
export function awkwardIn(text: string, joining: ReadonlySet<string>): Awkward | null {
  if (hasDoubledWord(text)) return "doubled";
  if (isDangling(text, joining)) return "dangling";
  return hasTwoSigns(text) ? "two-prices" : null;
}
