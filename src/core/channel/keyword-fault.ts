import { plural } from "../kit/format";
import { CHANNEL_LIMITS } from "./limits";
import { comparedWords } from "./matching";

/** Why a text can't be a keyword, in a sentence; null when it can. */
export function keywordFault(given: string): string | null {
  const text = given.trim();
  const { keywordLength, keywordWords } = CHANNEL_LIMITS;
  const shown = text.length > 40 ? `${text.slice(0, 40)}…` : text;
  if (comparedWords(text).length === 0) return `“${shown}” has no word in it, so nothing could match it.`;
  if (text.length > keywordLength) {
    return `“${shown}” has ${text.length} characters; the channel takes ${keywordLength} for a keyword.`;
  }
  const words = text.split(/\s+/).length;
  return words > keywordWords ? `“${shown}” has ${plural(words, "word")}; the channel takes ${keywordWords}.` : null;
}

/** A text as a keyword: in lower case, without signs that stand for nothing, without a word twice in a row. */
export function cleanedKeyword(text: string): string {
  const words = text
    .toLowerCase()
    .replace(/[^\p{L}\p{M}\p{N}'’.-]+/gu, " ")
    .trim()
    .split(" ");
  return words.filter((word, i) => /[\p{L}\p{N}]/u.test(word) && word !== words[i - 1]).join(" ");
}
