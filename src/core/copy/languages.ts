/** Languages in which lines are judged: what joins words, and how buyers search. */
export const LANGUAGES = ["en", "de", "fr", "es", "it", "nl"] as const;
export type Language = (typeof LANGUAGES)[number];

export const LANGUAGE_NAME: Record<Language, string> = {
  en: "English",
  de: "German",
  fr: "French",
  es: "Spanish",
  it: "Italian",
  nl: "Dutch",
};

const words = (list: string) => new Set(list.split(" "));

/** Words that join what comes after them, so that a line can't end with one. */
export const JOINING: Record<Language, ReadonlySet<string>> = {
  en: words("a an and as at but by for from in into of on or per plus than the to up with without your our"),
  de: words(
    "ab am an auf aus bei bis das dem den der die durch ein eine einem einen einer für im in mit nach oder ohne pro sowie über um und unter vom von vor zum zur",
  ),
  fr: words("à au aux avec chez dans de des du en et la le les ou par pour sans sous sur un une vos votre"),
  es: words("a al con de del el en la las los o para por sin sobre su sus un una y"),
  it: words("a al alla con da dal dalla dei del della delle di e il in la le lo o per senza su un una"),
  nl: words("aan bij de een en het in met naar of om op over per te tot uit van voor zonder"),
};

/** Words with which people say that they mean to buy, as a list to begin with. */
export const BUYING: Record<Language, readonly string[]> = {
  en: ["buy", "order"],
  de: ["kaufen", "bestellen"],
  fr: ["acheter", "commander"],
  es: ["comprar", "pedir"],
  it: ["comprare", "ordinare"],
  nl: ["kopen", "bestellen"],
};

/** Whether a buying word stands before what is bought, as in "buy hose", or behind it, as in "Schlauch kaufen". */
export const BUYS_FIRST: Record<Language, boolean> = { en: true, de: false, fr: true, es: true, it: true, nl: false };

/** Joining words that other languages do not share: where several of them stand in a line, it is written in that language. */
const TELLING = new Map<Language, ReadonlySet<string>>(
  LANGUAGES.map((language) => {
    const others = LANGUAGES.filter((other) => other !== language);
    return [
      language,
      new Set(
        [...JOINING[language]].filter((word) => word.length > 1 && !others.some((one) => JOINING[one].has(word))),
      ),
    ];
  }),
);

/** So many telling words of another language, and more than of one's own, are no accident. */
const LEAST_TELLING = 2;

/** The language that a line is written in where it clearly is another than the one meant; null otherwise. */
export function otherLanguage(lineWords: readonly string[], meant: Language): Language | null {
  const count = (language: Language) => lineWords.filter((word) => TELLING.get(language)!.has(word)).length;
  const own = lineWords.filter((word) => JOINING[meant].has(word)).length;
  let found: Language | null = null;
  let most = Math.max(own, LEAST_TELLING - 1);
  for (const language of LANGUAGES) {
    if (language === meant) continue;
    const has = count(language);
    if (has > most) [found, most] = [language, has];
  }
  return found;
}
