import { LARGEST_PRICE, parseMoney, type MoneyFault, type ParsedMoney } from "../kit/money";
import { LIMITS } from "./limits";
import { faultBits, isLongTitle, type FaultCode } from "./faults";
import { FIELD_KEYS, foldWord, readAvailability, type Availability, type FieldKey } from "./fields";
import { REPEAT_MARK } from "./growing-columns";
import type { FieldSource, Mapping } from "./mapping";
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
 */
export function rowReader(
  headings: string[],
  mapping: Mapping,
  currency: string,
  seen = new Set<string>(),
  judge = new PriceJudge(),
): (cells: string[]) => RowResult {
  const sources = FIELD_KEYS.map((key) => [key, sourceReader(mapping.columns[key] ?? null, headings)] as const);
  const read = Object.fromEntries(sources) as Record<FieldKey, (cells: string[]) => string>;
  // The feed may still be growing columns (XML), so a row is only too long when its extra cells hold something.
  const isTooLong = (cells: string[]) =>
    cells.length > headings.length && cells.slice(headings.length).some((cell) => cell.trim() !== "");

  const cell = (cells: string[], key: FieldKey) => read[key](cells);
  const words = new Set(mapping.moneyWords);
  const money = (text: string): ParsedMoney => {
    judge.see(text);
    const parsed = parseMoney(text, mapping.decimal, LARGEST_PRICE, words);
    if (!parsed.ok) judge.failed(text, parsed.fault, mapping.decimal);
    return parsed;
  };
  const optionalMoney = (cells: string[], key: FieldKey, fault: FaultCode, warnings: FaultCode[]) => {
    const text = amountText(cell(cells, key));
    if (text === "") return null;
    const parsed = money(text);
    if (parsed.ok && (parsed.currency === null || parsed.currency === currency)) return parsed.mills;
    if (!warnings.includes(fault)) warnings.push(fault);
    return null;
  };
  // A feed has few availability words, so each is understood once.
  const understood = new Map<string, Availability | null>();
  const availabilityOf = (stated: string) => {
    let meaning = understood.get(stated);
    if (meaning === undefined) {
      meaning = mapping.availability[foldWord(stated)] ?? readAvailability(stated);
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
    if (title === "") faults.push("title-missing");
    const price = money(firstOf(cell(cells, "price")));
    if (!price.ok) faults.push(PRICE_FAULT[price.fault]);
    else if (price.currency !== null && price.currency !== currency) faults.push("currency-other");
    if (faults.length > 0 || !price.ok) return { ok: false, faults };
    seen.add(id);

    const warnings: FaultCode[] = [];
    const salePrice = optionalMoney(cells, "salePrice", "sale-price-unreadable", warnings);
    const cost = optionalMoney(cells, "cost", "cost-unreadable", warnings);
    const fee = optionalMoney(cells, "fee", "cost-unreadable", warnings);
    const stock = readCount(firstOf(cell(cells, "stock")));
    if (salePrice !== null && salePrice > price.mills) warnings.push("sale-price-above");
    const stated = firstOf(cell(cells, "availability"));
    const availability = stated === "" ? "" : availabilityOf(stated);
    if (availability === null) warnings.push("availability-unknown");
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
        // Where nothing is said, the pieces on hand say it.
        availability: availability || (stated === "" && stock === 0 ? "out of stock" : "in stock"),
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

/** An amount's text, where signs for nothing are nothing. */
function amountText(text: string): string {
  const first = firstOf(text);
  return /^(?:[-–—]+|n\/?a|null|none|nan)$/i.test(first) ? "" : first;
}

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
