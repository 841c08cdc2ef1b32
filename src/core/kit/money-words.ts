/** Signs and short words that name a currency, beside its ISO code. */
const CURRENCY_WORDS: Record<string, string> = {
  "€": "EUR",
  euro: "EUR",
  euros: "EUR",
  $: "USD",
  us$: "USD",
  dollar: "USD",
  dollars: "USD",
  "£": "GBP",
  pound: "GBP",
  pounds: "GBP",
  "¥": "JPY",
  zł: "PLN",
  zl: "PLN",
  kč: "CZK",
  ft: "HUF",
  fr: "CHF",
  sfr: "CHF",
  lei: "RON",
  лв: "BGN",
  "₽": "RUB",
  "₴": "UAH",
  "₺": "TRY",
  "₹": "INR",
  r$: "BRL",
};

/** ISO 4217 codes this runtime knows, from the standard library's own table. */
const KNOWN_CURRENCIES = new Set(Intl.supportedValuesOf("currency"));

/** Whether a text is the ISO 4217 code of a currency. */
export function isCurrency(code: string): boolean {
  return KNOWN_CURRENCIES.has(code);
}

/** Codes that also count in small letters; of others, such as CUP and TOP, small letters are words. */
const SMALL_CODES = new Set("eur usd gbp chf pln czk sek nok dkk huf ron bgn jpy cad aud".split(" "));

/** Words that stand beside prices and leave the amount as it is: from, only, with tax, a piece. "kr" is of three currencies. */
const SAYING_NOTHING = new Set(
  [
    "ab from nur only just about ca price preis prix precio prezzo prijs cena uvp rrp msrp vk à da od vanaf desde dès",
    "inkl incl inklusive inclusive including inclus incluido zzgl zuzüglich plus excl exkl exclusive excluding hors exc",
    "mwst ust vat tax taxes taxe ttc ht iva tva btw dph moms gst netto brutto net gross steuer gesetzl gesetzliche",
    "versand shipping versandkosten delivery",
    "stk stck stück stueck st stuk piece pieces pc pcs each ea unit per pro je pièce pza szt ks db kr",
  ].flatMap((line) => line.split(" ")),
);

export interface AmountWords {
  currency: string | null;
  /** The words that are neither a currency nor known to say nothing. */
  unknown: string[];
}

/**
 * What the words beside an amount say.
 * @param ignored words that this feed's amounts have and that say nothing, in lower case
 */
export function readAmountWords(text: string, ignored: ReadonlySet<string>): AmountWords {
  let currency: string | null = null;
  const unknown: string[] = [];
  for (const word of text.split(/[^\p{L}\p{Sc}]+/u)) {
    if (word === "") continue;
    const small = word.toLowerCase();
    const isCode = isCurrency(word) || SMALL_CODES.has(small);
    const code = CURRENCY_WORDS[small] ?? (isCode ? word.toUpperCase() : null);
    if (ignored.has(small) || SAYING_NOTHING.has(small) || (code !== null && code === currency)) continue;
    if (code !== null && currency === null) currency = code;
    else unknown.push(small);
  }
  return { currency, unknown };
}
