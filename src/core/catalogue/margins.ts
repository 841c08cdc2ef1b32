import type { Columns, NumberColumn } from "../kit/columns";

/** Costs from a file beside the feed, by item ID. Mills; null where it says nothing. */
export type CostFile = ReadonlyMap<string, { cost: number | null; fee: number | null }>;

/** Which amounts are written with tax. Sales in reports are taken to be written as prices are. */
export interface TaxRule {
  /** Share of tax, such as 0.19, where the item has no rate of its own. */
  rate: number;
  price: boolean;
  cost: boolean;
  fee: boolean;
}

/** Everything as it is written. */
export const NO_TAX: TaxRule = { rate: 0, price: false, cost: false, fee: false };

export interface Margins {
  /** Mills: the file's cost where it has one, else the feed's. */
  cost: NumberColumn;
  fee: NumberColumn;
  /** Share of the price, as it is written, left after tax, cost and fee. NaN without a cost. */
  margin: NumberColumn;
  /**
   * Ad sales per unit of spend at which the margin is just used up: 1 ÷ margin (`docs/formulas.md` 1). NaN without a cost,
   * infinite where the margin is none: no return pays.
   */
  breakEven: NumberColumn;
}

/** The price a shopper pays: the sale price where it is below the price. Mills. */
export function paidPrice(price: number, salePrice: number): number {
  return salePrice < price ? salePrice : price;
}

/** What a shopper pays for each row, mills; NaN where there is no price. The one definition for margins, evidence and market. */
export function paidPrices(table: Columns): Float64Array {
  const [price, salePrice] = ["price", "salePrice"].map((name) => {
    const column = table.columns[name];
    return column?.kind === "number" ? column.values : new Float64Array(table.length).fill(NaN);
  }) as [Float64Array, Float64Array];
  return price.map((value, row) => paidPrice(value, salePrice[row]!));
}

/**
 * Cost, fee, margin and break-even return of every row. What is written with tax is counted without it:
 * margin = (price − tax − cost − fee) ÷ price.
 */
export function workMargins(table: Columns, file: CostFile, tax: TaxRule = NO_TAX): Margins {
  const numbers = (name: string) => {
    const column = table.columns[name];
    return column?.kind === "number" ? column.values : new Float64Array(table.length).fill(NaN);
  };
  const id = table.columns["id"];
  const paidFor = paidPrices(table);
  const feedCost = numbers("cost");
  const feedFee = numbers("fee");
  const ownRate = numbers("tax");
  const made = () => new Float64Array(table.length).fill(NaN);
  const [cost, fee, margin, breakEven] = [made(), made(), made(), made()];
  for (let row = 0; row < table.length; row++) {
    const own = id?.kind === "text" && file.size > 0 ? file.get(id.values[id.codes[row]!]!) : undefined;
    cost[row] = own?.cost ?? feedCost[row]!;
    fee[row] = own?.fee ?? feedFee[row]!;
    const paid = paidFor[row]!;
    if (Number.isNaN(cost[row]) || !(paid > 0)) continue;
    const rate = Number.isNaN(ownRate[row]!) ? tax.rate : ownRate[row]!;
    const net = (amount: number, withTax: boolean) => (withTax ? amount / (1 + rate) : amount);
    const left = net(paid, tax.price) - net(cost[row]!, tax.cost) - net(fee[row] || 0, tax.fee);
    margin[row] = left / paid;
    breakEven[row] = margin[row]! > 0 ? 1 / margin[row]! : Infinity;
  }
  const column = (values: Float64Array): NumberColumn => ({ kind: "number", values });
  return { cost: column(cost), fee: column(fee), margin: column(margin), breakEven: column(breakEven) };
}
