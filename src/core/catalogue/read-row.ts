import { parseMoney, type MoneyFault } from "../kit/money";
import { LIMITS } from "./xml-items";
import { faultBits, isLongTitle, type FaultCode } from "./faults";
import { FIELD_KEYS, readAvailability, type FieldKey } from "./fields";
import type { Mapping } from "./mapping";

/** One feed row understood. Money in mills, null where the feed gives none. */
export interface ReadItem {
  id: string;
  title: string;
  price: number;
  salePrice: number | null;
  cost: number | null;
  stock: number | null;
  availability: string;
  brand: string;
  category: string;
  family: string;
  link: string;
  image: string;
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
 */
export function rowReader(
  headings: string[],
  mapping: Mapping,
  currency: string,
  seen = new Set<string>(),
): (cells: string[]) => RowResult {
  const at = Object.fromEntries(
    FIELD_KEYS.map((key) => {
      const column = mapping.columns[key];
      return [key, column ? headings.indexOf(column) : -1];
    }),
  ) as Record<FieldKey, number>;
  // The feed may still be growing columns (XML), so a row is only too long when its extra cells hold something.
  const isTooLong = (cells: string[]) =>
    cells.length > headings.length && cells.slice(headings.length).some((cell) => cell.trim() !== "");

  const cell = (cells: string[], key: FieldKey) => {
    const index = at[key];
    return index < 0 ? "" : (cells[index] ?? "").trim();
  };
  const optionalMoney = (cells: string[], key: FieldKey) => {
    const parsed = parseMoney(cell(cells, key));
    return parsed.ok && (parsed.currency === null || parsed.currency === currency) ? parsed.mills : null;
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
    const price = parseMoney(cell(cells, "price"));
    if (!price.ok) faults.push(PRICE_FAULT[price.fault]);
    else if (price.currency !== null && price.currency !== currency) faults.push("currency-other");
    if (faults.length > 0 || !price.ok) return { ok: false, faults };
    seen.add(id);

    const warnings: FaultCode[] = [];
    const salePrice = optionalMoney(cells, "salePrice");
    if (salePrice !== null && salePrice > price.mills) warnings.push("sale-price-above");
    const stated = cell(cells, "availability");
    const availability = stated === "" ? "" : readAvailability(stated);
    if (availability === null) warnings.push("availability-unknown");
    const category = cell(cells, "category");
    if (category === "") warnings.push("category-missing");
    const link = cell(cells, "link");
    if (link !== "" && !/^https?:\/\/[^\s/]+/i.test(link)) warnings.push("link-broken");
    if (isLongTitle(title)) warnings.push("title-long");
    const stock = cell(cells, "stock");
    return {
      ok: true,
      item: {
        id,
        title,
        price: price.mills,
        salePrice,
        cost: optionalMoney(cells, "cost"),
        stock: /^\d{1,9}$/.test(stock) ? Number(stock) : null,
        availability: availability || "in stock",
        brand: cell(cells, "brand"),
        category,
        family: cell(cells, "family"),
        link,
        image: cell(cells, "image"),
        description: cell(cells, "description"),
        warnings: faultBits(warnings),
      },
    };
  };
}
