import { ownRecord } from "./own-record";

/** Signs and short words that name a currency, beside its ISO code. */
const CURRENCY_WORDS: Record<string, string> = ownRecord({
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
  ca$: "CAD",
  c$: "CAD",
  a$: "AUD",
  au$: "AUD",
  nz$: "NZD",
  hk$: "HKD",
  s$: "SGD",
  nt$: "TWD",
  mx$: "MXN",
  "cn¥": "CNY",
  元: "CNY",
  円: "JPY",
  "₩": "KRW",
  "₪": "ILS",
  "฿": "THB",
  "₫": "VND",
  "₨": "INR",
  rs: "INR",
});

/** Signs that stand for several currencies, and those beside the one that is named first above. */
const SHARED_SIGNS: Record<string, ReadonlySet<string>> = ownRecord(
  Object.fromEntries(
    [
      ["$", "USD CAD AUD NZD SGD HKD TWD MXN ARS CLP COP UYU BSD BBD BZD BMD FJD GYD JMD LRD NAD SBD SRD TTD XCD KYD"],
      ["£", "GBP EGP LBP FKP GIP SHP SSP SYP SDG"],
      ["¥", "JPY CNY"],
      ["lei", "RON MDL"],
      ["лв", "BGN KGS UZS"],
      ["fr", "CHF XOF XAF"],
      ["₨", "INR PKR LKR NPR MUR"],
      ["rs", "INR PKR LKR NPR MUR"],
    ].map(([sign, codes]) => [sign!, new Set(codes!.split(" "))]),
  ),
);

/** Whether a sign may stand for a currency. */
export function isSignOf(sign: string | undefined, currency: string): boolean {
  return sign !== undefined && (SHARED_SIGNS[sign]?.has(currency) ?? false);
}

/** Languages whose names of currencies are known, and the currencies that shops there use. */
const NAMED_IN =
  "en de fr es it nl pl pt cs sk sv da nb fi hu ro bg el hr sl et lv lt tr uk ru ar he fa hi bn th vi id ms ja ko zh ca is sr sq".split(
    " ",
  );
const NAMED =
  "EUR USD GBP CHF PLN CZK SEK NOK DKK HUF RON BGN JPY CNY CAD AUD NZD TRY UAH RUB INR BRL MXN ILS AED SAR EGP KRW THB VND IDR MYR SGD HKD TWD ISK RSD".split(
    " ",
  );

let names: Map<string, string> | null = null;

/** The currency that a name or sign of some language stands for, from the standard library's own tables; null for none or several. */
function currencyNamed(text: string): string | null {
  names ??= allNames();
  return names.get(text.toLowerCase()) || null;
}

function allNames(): Map<string, string> {
  const found = new Map<string, string>();
  for (const language of NAMED_IN) {
    for (const currency of NAMED) {
      for (const currencyDisplay of ["name", "symbol"] as const) {
        const format = new Intl.NumberFormat(language, { style: "currency", currency, currencyDisplay });
        // One, few and many are named differently.
        for (const amount of currencyDisplay === "name" ? [1, 3, 5.5, 100] : [1]) {
          const name = format.formatToParts(amount).find(({ type }) => type === "currency")?.value ?? "";
          const folded = name
            .normalize("NFKC")
            .replace(/\p{Cf}/gu, "")
            .replace(/\s+/g, " ")
            .trim()
            .toLowerCase();
          if (folded === "") continue;
          const before = found.get(folded);
          // What stands for two is no name of either.
          found.set(folded, before === undefined || before === currency ? currency : "");
        }
      }
    }
  }
  return found;
}

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

/** Whether one of the words beside an amount is such a one. */
export function saysNothing(text: string): boolean {
  return text.split(/[^\p{L}]+/u).some((word) => SAYING_NOTHING.has(word.toLowerCase()));
}

export interface AmountWords {
  currency: string | null;
  /** The sign that named it, where it stands for several; see {@link isSignOf}. */
  sign?: string;
  /** The words that are neither a currency nor known to say nothing. */
  unknown: string[];
}

/**
 * What the words beside an amount say.
 * @param ignored words that this feed's amounts have and that say nothing, in lower case
 */
export function readAmountWords(text: string, ignored: ReadonlySet<string>): AmountWords {
  let currency: string | null = null;
  let sign: string | undefined;
  const unknown: string[] = [];
  for (const word of text.split(/[^\p{L}\p{M}\p{Sc}]+/u)) {
    if (word === "") continue;
    const small = word.toLowerCase();
    const isCode = isCurrency(word) || SMALL_CODES.has(small);
    const code = CURRENCY_WORDS[small] ?? (isCode ? word.toUpperCase() : null);
    if (ignored.has(small) || SAYING_NOTHING.has(small) || (code !== null && code === currency)) continue;
    if (code !== null && currency === null) {
      currency = code;
      if (small in SHARED_SIGNS) sign = small;
    } else unknown.push(small);
  }
  if (unknown.length > 0 && currency === null) {
    // Names of several words, and of other languages, are looked up as a whole.
    const named = currencyNamed(text.replace(/[^\p{L}\p{M}\p{Sc}.]+/gu, " ").trim());
    if (named) return { currency: named, unknown: [] };
  }
  return { currency, ...(sign ? { sign } : {}), unknown };
}
