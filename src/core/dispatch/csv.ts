import Papa from "papaparse";

/** What begins a formula, also full-width as East Asian keyboards write it, and behind marks that are not shown. */
const FORMULA = /^[\uFEFF\uFFFE\u200B-\u200F\u2060]*[=+\-@＝＋－＠\t\r\n]/;

/** Cells that a spreadsheet would run as a formula get an apostrophe in front, which it hides. Plain numbers stay. */
export function neutraliseCell(cell: string): string {
  return FORMULA.test(cell) && !/^-?\d+(\.\d+)?$/.test(cell) ? `'${cell}` : cell;
}

/** Rows as CSV (RFC 4180) that is safe to open in a spreadsheet. */
export function toCsv(headings: string[], rows: (string | number | null)[][]): string {
  const safe = rows.map((row) => row.map((cell) => (cell === null ? "" : neutraliseCell(String(cell)))));
  return `${Papa.unparse([headings.map(neutraliseCell), ...safe], { newline: "\r\n" })}\r\n`;
}
