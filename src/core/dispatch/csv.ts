import Papa from "papaparse";
import { neutraliseCell, type DecimalSign } from "./cells";

/** Rows as CSV (RFC 4180, or parted by another sign) that is safe to open in a spreadsheet. */
export function toCsv(
  headings: string[],
  rows: (string | number | null)[][],
  { delimiter = ",", decimal = "." as DecimalSign } = {},
): string {
  const safe = [headings, ...rows].map((row) =>
    row.map((cell) => (cell === null ? "" : neutraliseCell(String(cell), decimal))),
  );
  return `${Papa.unparse(safe, { newline: "\r\n", delimiter })}\r\n`;
}
