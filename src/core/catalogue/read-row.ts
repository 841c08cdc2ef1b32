import { isOf, LARGEST_PRICE, parseMoney, type MoneyFault, type ParsedMoney } from "../kit/money";
import { readAmountWords } from "../kit/money-words";
import { ownRecord } from "../kit/own-record";
import { LIMITS } from "./limits";
import { faultBits, isLongTitle, type FaultCode } from "./faults";
import { foldWord, NOT_KNOWN, readAvailability, type Availability } from "./availability";
import { FIELD_KEYS, type FieldKey } from "./fields";
import { REPEAT_MARK } from "./growing-columns";
import { columnsOfSource, isCurrencyHeading, isInCents, type FieldSource, type Mapping } from "./mapping";
import { PriceJudge } from "./price-judge";
import { readCount } from "./read-count";
import { readTax } from "./read-tax";

/** One feed row understood. Money in mills, null where the feed gives none. */
export interface ReadItem {
  id: string;
  title: string;
  price: number;
  salePrice: number | null;
  cost: number | null;
  fee: number | null;
  stock: number | null;
  /** Share of tax on the item, such as 0.19; null where the feed says none. */
  tax: number | null;
  availability: string;
  brand: string;
  category: string;
  family: string;
  link: string;
  image: string;
  gtin: string;
  color: string;
  size: string;
  description: string;
  /** Bits of the faults that do not keep the item out; see `faultsIn`. */
  warnings: number;
}

export type RowResult = { ok: true; item: ReadItem } | { ok: false; faults: FaultCode[] };

const PRICE_FAULT: Record<MoneyFault, FaultCode> = {
  empty: "price-missing",
  unreadable: "price-unreadable",
  open: "price-open",
  negative: "price-negative",
  absurd: "price-absurd",
  "unknown-currency": "currency-unknown",
};

/**
 * Makes the function that reads the rows of one feed.
 * @param headings the feed's columns in order
 * @param currency the workspace's ISO currency; a price in another one puts the row aside
 * @param seen the IDs taken so far; the reader adds to it
 * @param judge is shown every amount, and told of those that can't be read
 * @param onUnknownWord is told of every word for availability that nobody has explained
 */
export function rowReader(
  headings: string[],
  mapping: Mapping,
  currency: string,
  seen = new Set<string>(),
  judge = new PriceJudge(),
  onUnknownWord: (word: string) => void = () => {},
): (cells: string[]) => RowResult {
  const sources = FIELD_KEYS.map((key) => [key, sourceReader(mapping.columns[key] ?? null, headings)] as const);
  const read = Object.fromEntries(sources) as Record<FieldKey, (cells: string[]) => string>;
  // The feed may still be growing columns (XML), so a row is only too long when its extra cells hold something.
  const isTooLong = (cells: string[]) =>
    cells.length > headings.length && cells.slice(headings.length).some((cell) => cell.trim() !== "");

  const cell = (cells: string[], key: FieldKey) => read[key](cells);
  const currencyOf = currencyReader(headings);
  const words = new Set(mapping.moneyWords);
  const money = (text: string): ParsedMoney => {
    judge.see(text);
    const parsed = parseMoney(text, mapping.decimal, LARGEST_PRICE, words);
    if (!parsed.ok) judge.failed(text, parsed.fault, mapping.decimal);
    return parsed;
  };
  const inCents = (key: FieldKey) => columnsOfSource(mapping.columns[key]).some(isInCents);
  const cents = new Set(FIELD_KEYS.filter(inCents));
  const amountOf = (cells: string[], key: FieldKey): Amount => {
    const text = amountText(cell(cells, key));
    const amount = text === "" ? NO_AMOUNT : amountIn(text, currency, money, () => currencyOf(cells));
    return cents.has(key) && "mills" in amount ? centsOf(amount.mills) : amount;
  };
  const optionalMoney = (cells: string[], key: FieldKey, fault: FaultCode, warnings: FaultCode[]) => {
    const amount = amountOf(cells, key);
    if (amount === NO_AMOUNT) return null;
    if ("mills" in amount) return amount.mills;
    if (!warnings.includes(fault)) warnings.push(fault);
    return null;
  };
  // A feed has few availability words, so each is understood once.
  const understood = new Map<string, Availability | null>();
  const taught = ownRecord({ ...mapping.availability });
  const availabilityOf = (stated: string) => {
    let meaning = understood.get(stated);
    if (meaning === undefined) {
      meaning = taught[foldWord(stated)] ?? readAvailability(stated);
      if (understood.size < 1000) understood.set(stated, meaning);
    }
    return meaning;
  };

  return (cells) => {
    const faults: FaultCode[] = [];
    if (isTooLong(cells)) faults.push("row-too-long");
    for (const value of cells) if (value.length > LIMITS.cell) faults.push("cell-too-long");
    const id = cell(cells, "id");
    if (id === "") faults.push("id-missing");
    else if (seen.has(id)) faults.push("id-duplicate");
    const title = cell(cells, "title");
    // What shows nothing is no title, however many marks it has.
    if (!SEEN.test(title)) faults.push("title-missing");
    const price = amountOf(cells, "price");
    if ("fault" in price) faults.push(price.fault);
    if (faults.length > 0 || "fault" in price) return { ok: false, faults };
    seen.add(id);

    const warnings: FaultCode[] = [];
    let salePrice = optionalMoney(cells, "salePrice", "sale-price-unreadable", warnings);
    if (salePrice === 0) {
      warnings.push("sale-price-zero");
      salePrice = null;
    }
    const cost = optionalMoney(cells, "cost", "cost-unreadable", warnings);
    const fee = optionalMoney(cells, "fee", "cost-unreadable", warnings);
    const stock = readCount(firstOf(cell(cells, "stock")));
    if (salePrice !== null && salePrice > price.mills) warnings.push("sale-price-above");
    const stated = firstOf(cell(cells, "availability"));
    const availability = stated === "" ? "" : availabilityOf(stated);
    if (availability === null) {
      warnings.push("availability-unknown");
      onUnknownWord(stated);
    }
    const category = cell(cells, "category");
    if (category === "") warnings.push("category-missing");
    const link = cell(cells, "link");
    if (link !== "" && !/^https?:\/\/[^\s/]+/i.test(link)) warnings.push("link-broken");
    if (isLongTitle(title)) warnings.push("title-long");
    return {
      ok: true,
      item: {
        id,
        title,
        price: price.mills,
        salePrice,
        cost,
        fee,
        stock,
        tax: readTax(firstOf(cell(cells, "tax"))),
        availability:
          availability || (availability === null ? byPieces(stock, NOT_KNOWN) : byPieces(stock, "in stock")),
        brand: cell(cells, "brand"),
        category,
        family: cell(cells, "family"),
        link,
        // Of several pictures or offers the first is the main one; the others stay in the raw cells.
        image: firstOf(cell(cells, "image")),
        gtin: cell(cells, "gtin"),
        color: cell(cells, "color"),
        size: cell(cells, "size"),
        description: cell(cells, "description"),
        warnings: faultBits(warnings),
      },
    };
  };
}

/** What shows: letters, digits, signs. */
const SEEN = /[\p{L}\p{N}\p{S}\p{P}]/u;

/** Whether an item can be bought by the pieces on hand, where its availability says nothing that is understood. */
function byPieces(stock: number | null, otherwise: string): string {
  if (stock === null) return otherwise;
  return stock > 0 ? "in stock" : "out of stock";
}

type Amount = { mills: number } | { fault: FaultCode };
const NO_AMOUNT: Amount = { fault: "price-missing" };

/**
 * The amount of a cell that is not empty. Of several, as repeated elements give, those in the workspace's currency count; where they differ
 * nothing says which one is meant.
 */
function amountIn(
  text: string,
  currency: string,
  read: (text: string) => ParsedMoney,
  currencyBeside: () => string | null,
): Amount {
  const parsed = text.includes(REPEAT_MARK) ? text.split(REPEAT_MARK).map(read) : [read(text)];
  const [first] = parsed as [ParsedMoney, ...ParsedMoney[]];
  if (parsed.length === 1) {
    if (!first.ok) return { fault: PRICE_FAULT[first.fault] };
    // A column of currencies speaks for amounts that name none themselves, whether it was mapped or not.
    const beside = first.currency === null ? currencyBeside() : null;
    if (beside !== null && beside !== currency) return { fault: "currency-other" };
    return isOf(first, currency) ? { mills: first.mills } : { fault: "currency-other" };
  }
  const known = parsed.filter((one) => one.ok);
  if (known.length < parsed.length) return { fault: "price-several" };
  const named = known.filter((one) => one.currency !== null);
  const mine = named.length > 0 ? named.filter((one) => isOf(one, currency)) : known;
  const amounts = new Set(mine.map(({ mills }) => mills));
  if (amounts.size === 0) return { fault: "currency-other" };
  return amounts.size === 1 ? { mills: mine[0]!.mills } : { fault: "price-several" };
}

/** An amount that its column gives in hundredths; one of less than a hundredth is none. */
function centsOf(mills: number): Amount {
  return mills % 100 === 0 ? { mills: mills / 100 } : { fault: "price-unreadable" };
}

/** An amount's text, where signs for nothing are nothing. */
function amountText(text: string): string {
  return /^(?:[-–—]+|n\/?a|null|none|nan)$/i.test(text) ? "" : text;
}

/** Reads the currency that a row gives in a column of its own; null where it gives none that is known. */
function currencyReader(headings: string[]): (cells: string[]) => string | null {
  let at = -1;
  let known = 0;
  return (cells) => {
    // Columns can appear on the way.
    if (at < 0 && headings.length > known) {
      at = headings.findIndex((heading, i) => i >= known && isCurrencyHeading(heading));
      known = headings.length;
    }
    const code = at < 0 ? "" : firstOf(cells[at] ?? "").trim();
    return code === "" ? null : readAmountWords(code, NO_WORDS).currency;
  };
}

const NO_WORDS: ReadonlySet<string> = new Set();

function firstOf(text: string): string {
  const end = text.indexOf(REPEAT_MARK);
  return end < 0 ? text : text.slice(0, end);
}

/** Makes the function that reads a field's text from a row by its source. */
function sourceReader(source: FieldSource, headings: string[]): (cells: string[]) => string {
  if (source === null) return () => "";
  if (typeof source === "string") return columnReader(source, headings);
  if ("constant" in source) return () => source.constant;
  const readers = source.join.map((column) => columnReader(column, headings));
  return (cells) =>
    readers
      .map((read) => read(cells))
      .filter((text) => text !== "")
      .join(source.by);
}

/** Reads one column, which in a feed without a header may appear only on the way. */
function columnReader(column: string, headings: string[]): (cells: string[]) => string {
  let at = headings.indexOf(column);
  let known = headings.length;
  return (cells) => {
    if (at < 0 && headings.length > known) {
      at = headings.indexOf(column);
      known = headings.length;
    }
    return at < 0 ? "" : (cells[at] ?? "").trim();
  };
}
