import Papa from "papaparse";

/** Cells that a spreadsheet would run as a formula get an apostrophe in front, which it hides. Plain numbers stay. */
export function neutraliseCell(cell: string): string {
  return /^[=+\-@\t\r]/.test(cell) && !/^-?\d+(\.\d+)?$/.test(cell) ? `'${cell}` : cell;
}

/** Rows as CSV (RFC 4180) that is safe to open in a spreadsheet. */
export function toCsv(headings: string[], rows: (string | number | null)[][]): string {
  const safe = rows.map((row) => row.map((cell) => (cell === null ? "" : neutraliseCell(String(cell)))));
  return `${Papa.unparse([headings.map(neutraliseCell), ...safe], { newline: "\r\n" })}\r\n`;
}
