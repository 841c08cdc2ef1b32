/** Words of pages that are not fit for a shop's ads, by language, to begin with: a list of one's own is made of them and kept. */
export const SAFETY_WORDS: Record<string, readonly string[]> = {
  en: [
    ...["adult", "betting", "casino", "escort", "firearm", "gambling", "gore", "hate", "jackpot", "nude"],
    ...["piracy", "poker", "porn", "torrent", "uncut", "uncensored", "warez", "weapon", "xxx"],
  ],
  de: ["erotik", "glücksspiel", "hetze", "nackt", "raubkopie", "spielbank", "unzensiert", "waffen", "wetten"],
  fr: ["adulte", "armes", "casino", "érotique", "haine", "nue", "piratage"],
  es: ["adultos", "apuestas", "armas", "casino", "desnuda", "erótico", "odio", "piratería"],
  it: ["adulti", "armi", "casinò", "erotico", "nuda", "odio", "pirateria", "scommesse"],
  nl: ["erotiek", "gokken", "naakt", "ongecensureerd", "wapens", "weddenschap"],
};
