import Papa from "papaparse";
import { neutraliseCell } from "./cells";

/** Rows as CSV (RFC 4180) that is safe to open in a spreadsheet. */
export function toCsv(headings: string[], rows: (string | number | null)[][]): string {
  const safe = rows.map((row) => row.map((cell) => (cell === null ? "" : neutraliseCell(String(cell)))));
  return `${Papa.unparse([headings.map(neutraliseCell), ...safe], { newline: "\r\n" })}\r\n`;
}
