/*
 * How long a text is as people count it: what is written with several code points, such as a letter with its marks or a family of
 * faces, counts once (Unicode's extended grapheme clusters, as `Intl.Segmenter` finds them).
 */

const SEGMENTER = new Intl.Segmenter("und", { granularity: "grapheme" });

/**
 * Where every code unit is a character of its own: nothing below the first combining mark joins but a line break of two, nor do
 * dashes, quotes and signs of currencies, which prices and titles are full of.
 */
const SIMPLE = /^[^\r\u0300-\u200f\u2028-\u202f\u205f-\u209f\u20c0-\uffff]*$/;

/** Signs as wide as two letters: Chinese, Japanese and Korean writing, and the full-width forms of Latin. */
const WIDE =
  /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Hangul}\u3000-\u303f\uff01-\uff60\uffe0-\uffe6]/u;

/** Whether a text is made of single code units, so that lengths of its pieces add up. */
export function isSimple(text: string): boolean {
  return SIMPLE.test(text);
}

/** The characters of a text as people count them. */
export function charactersOf(text: string): string[] {
  return isSimple(text) ? text.split("") : Array.from(SEGMENTER.segment(text), ({ segment }) => segment);
}

/**
 * The length of a text in characters.
 * @param wideCountTwice whether wide signs count two, as channels do that reserve their width
 */
export function textLength(text: string, wideCountTwice = false): number {
  if (isSimple(text)) return text.length;
  let length = 0;
  for (const { segment } of SEGMENTER.segment(text)) length += wideCountTwice && WIDE.test(segment) ? 2 : 1;
  return length;
}
