import { isMoneyColumn } from "../catalogue/finish";
import { cellText, type Columns } from "../kit/columns";
import { formatMoney } from "../kit/money";
import type { ValueOf } from "../parts/fill";

export interface AdValueSettings {
  /** Whether a column holds money in mills. */
  isMoney: (field: string) => boolean;
  /** What prices are written in. */
  currency: string;
}

const PLAIN: AdValueSettings = { isMoney: (field) => isMoneyColumn(field), currency: "EUR" };

/**
 * The values of a row's fields as they read in an ad: texts as they are, money with its currency, numbers plainly.
 * @param catalogue columns that the asset sets read; one that is missing has no values
 */
export function adValues({ columns }: Columns, { isMoney, currency }: AdValueSettings = PLAIN) {
  return (row: number): ValueOf =>
    (field) => {
      const column = columns[field];
      if (!column) return "";
      if (column.kind === "text") return cellText(column, row);
      const value = column.values[row]!;
      if (Number.isNaN(value)) return "";
      return isMoney(field) ? formatMoney(value, currency) : cellText(column, row);
    };
}
