/** What begins a formula, also full-width as East Asian keyboards write it, and behind marks that are not shown. */
const FORMULA = /^[\uFEFF\uFFFE\u200B-\u200F\u2060]*[=+\-@＝＋－＠\t\r\n]/;

/** What parts whole numbers from the rest. */
export type DecimalSign = "." | ",";

const NUMBER = { ".": /^-?\d+(\.\d+)?$/, ",": /^-?\d+([.,]\d+)?$/ };

/**
 * Cells that a spreadsheet would run as a formula get an apostrophe in front, which it hides. Plain numbers stay, also those
 * written with a comma where the file's numbers are.
 */
export function neutraliseCell(cell: string, decimal: DecimalSign = "."): string {
  return FORMULA.test(cell) && !NUMBER[decimal].test(cell) ? `'${cell}` : cell;
}

/** Rows as tab-separated text for a spreadsheet, pasted or read: safe as CSV is; tabs and line ends in a cell become spaces. */
export function toTsv(headings: string[], rows: (string | number | null)[][], decimal: DecimalSign = "."): string {
  const clean = (cell: string | number | null) =>
    neutraliseCell(cell === null ? "" : String(cell), decimal).replace(/[\t\r\n]+/g, " ");
  return [headings, ...rows].map((row) => row.map(clean).join("\t")).join("\n");
}
