import { stem } from "../../channel/matching";
import { isAppName } from "./kind";

/** Words that a catalogue is about: those of its categories, and those that several titles have. */
export interface CatalogueWords {
  /** Of categories: these count inside longer words too ("gardendiary"). */
  categories: ReadonlySet<string>;
  titles: ReadonlySet<string>;
}

/** Shorter words say too little of what something is about. */
const LEAST_LETTERS = 4;
/** Letters from which on a word counts inside a longer one. */
const LEAST_INSIDE = 5;
/** Words that hosts have whatever they are about. */
const OF_HOSTS = new Set("www site page home blog online shop store news daily example apps channel video".split(" "));

/** The words of an address and a shown name: letters only, without the ending of a host or the beginning of an app's name. */
export function placementWords(shown: string, name: string): string[] {
  const [host = "", ...path] = shown.split("/");
  const labels = host.split(".");
  const telling = isAppName(host) ? labels.slice(1) : labels.length > 1 ? labels.slice(0, -1) : labels;
  return [...new Set(wordsOf([...telling, ...path, name].join(" ")))];
}

function wordsOf(text: string): string[] {
  return (text.toLowerCase().match(/[\p{L}\p{M}]+/gu) ?? []).map(stem);
}

/**
 * What a catalogue is about.
 * @param titles of items; a word counts when at least two in a thousand items have it, and two at least
 */
export function catalogueWords(categories: readonly string[], titles: readonly string[]): CatalogueWords {
  const counts = new Map<string, number>();
  for (const title of titles) {
    for (const word of new Set(wordsOf(title))) counts.set(word, (counts.get(word) ?? 0) + 1);
  }
  const least = Math.max(2, titles.length / 500);
  const isTelling = (word: string) => word.length >= LEAST_LETTERS && !OF_HOSTS.has(word);
  return {
    categories: new Set(categories.flatMap(wordsOf).filter(isTelling)),
    titles: new Set([...counts].flatMap(([word, count]) => (count >= least && isTelling(word) ? [word] : []))),
  };
}

/**
 * Which of a placement's words the catalogue is about. A word of titles alone tells little ("corner bed", "car corner"), so it
 * counts beside another one only.
 */
export function topicWords(words: readonly string[], { categories, titles }: CatalogueWords): string[] {
  const isOfCategories = (word: string) =>
    categories.has(word) || (word.length > LEAST_INSIDE && [...inside(word)].some((part) => categories.has(part)));
  const found = words.filter((word) => isOfCategories(word) || titles.has(word));
  return found.length > 1 || found.some(isOfCategories) ? found : [];
}

/** All parts of a word that are long enough to tell something. */
function* inside(word: string): Generator<string> {
  for (let from = 0; from + LEAST_INSIDE <= word.length; from++) {
    for (let to = from + LEAST_INSIDE; to <= word.length; to++) yield word.slice(from, to);
  }
}

/**
 * Finds words of a list of one's own in those of a placement: as a word, or, from five letters on, inside a longer one.
 * @param unsafe in small letters
 */
export function unsafeFinder(unsafe: readonly string[]): (words: readonly string[]) => string[] {
  const own = unsafe.map(stem);
  return (words) =>
    own.filter((bad) => words.some((word) => word === bad || (bad.length >= LEAST_INSIDE && word.includes(bad))));
}

/** Scripts told apart, by their name in Unicode. */
const SCRIPTS = {
  Latin: /\p{Script=Latin}/gu,
  Cyrillic: /\p{Script=Cyrillic}/gu,
  Greek: /\p{Script=Greek}/gu,
  Arabic: /\p{Script=Arabic}/gu,
  Hebrew: /\p{Script=Hebrew}/gu,
  Devanagari: /\p{Script=Devanagari}/gu,
  Thai: /\p{Script=Thai}/gu,
  Hangul: /\p{Script=Hangul}/gu,
  "Chinese or Japanese": /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]/gu,
} as const;
export type Script = keyof typeof SCRIPTS;

/** The script that most letters of a text are of; null where it has none. */
export function scriptOf(text: string): Script | null {
  let found: Script | null = null;
  let most = 0;
  for (const [script, letters] of Object.entries(SCRIPTS) as [Script, RegExp][]) {
    const count = text.match(letters)?.length ?? 0;
    if (count > most) [found, most] = [script, count];
  }
  return found;
}
