/** Whether a UTF-16 unit belongs to a word: a letter, a mark on one, or a digit. Surrogates count as letters. */
function isWordUnit(unit: number): boolean {
  if (unit < 128) {
    return (unit >= 97 && unit <= 122) || (unit >= 48 && unit <= 57) || (unit >= 65 && unit <= 90);
  }
  return /[\p{L}\p{M}\p{N}\p{Cs}]/u.test(String.fromCharCode(unit));
}

/**
 * Where a word or phrase stands as whole words, or -1: "rose" is in "a rose bush" but not in "prose".
 * Both texts must be in one case. A phrase whose own edge is no letter ("m²+") needs no boundary there.
 */
export function findWord(text: string, word: string, from = 0): number {
  if (word === "") return -1;
  const startsInWord = isWordUnit(word.charCodeAt(0));
  const endsInWord = isWordUnit(word.charCodeAt(word.length - 1));
  for (let at = text.indexOf(word, from); at >= 0; at = text.indexOf(word, at + 1)) {
    const end = at + word.length;
    const isOpenBefore = !startsInWord || at === 0 || !isWordUnit(text.charCodeAt(at - 1));
    const isOpenAfter = !endsInWord || end === text.length || !isWordUnit(text.charCodeAt(end));
    if (isOpenBefore && isOpenAfter) return at;
  }
  return -1;
}

/** The whole word around a place in a text, such as "primrose" around the "rose" in it. */
export function wordAround(text: string, at: number): string {
  let start = at;
  let end = at;
  while (start > 0 && isWordUnit(text.charCodeAt(start - 1))) start--;
  while (end < text.length && isWordUnit(text.charCodeAt(end))) end++;
  return text.slice(start, end);
}

/** The words of a text, in order, without what stands between them. */
export function wordsOf(text: string): string[] {
  return text.match(/[\p{L}\p{M}\p{N}]+(?:['’.,-][\p{L}\p{M}\p{N}]+)*/gu) ?? [];
}

/** A list as people type or paste it: one entry a line, or parted by commas or semicolons; trimmed, without repeats. */
export function listEntries(text: string): string[] {
  const parts = text.split(text.includes("\n") ? /\r?\n/ : /[,;]/);
  return [...new Set(parts.map((part) => part.trim()).filter((part) => part !== ""))];
}

/** Whether two different words are one slip apart: a letter added, left out, changed, or two neighbours swapped. */
export function isOneSlip(a: string, b: string): boolean {
  if (a === b || Math.abs(a.length - b.length) > 1) return false;
  let at = 0;
  while (at < a.length && a[at] === b[at]) at++;
  const restA = a.slice(at);
  const restB = b.slice(at);
  if (a.length === b.length) {
    if (restA.slice(1) === restB.slice(1)) return true;
    return restA[0] === restB[1] && restA[1] === restB[0] && restA.slice(2) === restB.slice(2);
  }
  return a.length > b.length ? restA.slice(1) === restB : restA === restB.slice(1);
}
