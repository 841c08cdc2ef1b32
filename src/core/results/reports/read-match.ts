import type { MatchType } from "../../channel/match-types";

/** Words by which reports in several languages name a match type. */
const WORDS: [MatchType, RegExp][] = [
  ["exact", /exa[ck]?t|genau|esatt/i],
  ["phrase", /phrase|wortgruppe|expression|frase/i],
  ["broad", /broad|weitgehend|large|amplia|generica/i],
];

/** The match type that a report's text means; a text that names none of ours stays what it is, in lower case. */
export function readMatch(text: string): string {
  return WORDS.find(([, words]) => words.test(text))?.[0] ?? text.trim().toLowerCase();
}
