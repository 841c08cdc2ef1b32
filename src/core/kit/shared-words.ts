/** A name is cut at a word beyond so many characters: it stands in campaigns' names beside other parts. */
const LONGEST = 60;

/** Words that join what comes after them; at the end of a name they hang in the air. */
const DANGLING = new Set(["a", "an", "and", "at", "by", "for", "from", "in", "of", "on", "or", "the", "to", "with"]);

/** The words of a title, with their signs. */
export function wordsOf(title: string): string[] {
  return title.split(/\s+/).filter(Boolean);
}

/** How many words two titles begin with alike, whatever their capitals. */
export function sharedWords(words: readonly string[], others: readonly string[]): number {
  let count = 0;
  while (count < words.length && count < others.length && isSame(words[count]!, others[count]!)) count++;
  return count;
}

const isSame = (a: string, b: string) => a === b || plainWord(a) === plainWord(b);
const plainWord = (word: string) => word.toLowerCase().replace(/[^\p{L}\p{N}]+$/u, "");

/** Words as a name: within its length, without a joining word or a sign at its end. */
export function asName(words: readonly string[]): string {
  const kept: string[] = [];
  let length = -1;
  for (const word of words) {
    if ((length += word.length + 1) > LONGEST) break;
    kept.push(word);
  }
  while (kept.length > 0 && (DANGLING.has(plainWord(kept.at(-1)!)) || plainWord(kept.at(-1)!) === "")) kept.pop();
  return kept.join(" ").replace(/[^\p{L}\p{N})\]"”%°]+$/u, "");
}

/** The words with which all titles begin, as a name; "" where they begin with nothing alike. */
export function commonName(titles: Iterable<string>): string {
  let shared: string[] | null = null;
  for (const title of titles) {
    const words = wordsOf(title);
    if (shared === null) shared = words;
    else shared.length = sharedWords(shared, words);
    if (shared.length === 0) break;
  }
  return asName(shared ?? []);
}
