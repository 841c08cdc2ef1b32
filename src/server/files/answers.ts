import { toTsv, type DecimalSign } from "@/core/dispatch/cells";
import { toCsv } from "@/core/dispatch/csv";
import { toWorkbook, toXlsx, type SheetRows } from "./sheet";

/** A file to download. */
export interface FileAnswer {
  file: string | ReadableStream;
  name: string;
  contentType: string;
}

type Rows = (string | number | null)[][];

/** Rows as a CSV file. */
export function csv(
  name: string,
  headings: string[],
  rows: Rows,
  how?: { delimiter?: string; decimal?: DecimalSign },
): FileAnswer {
  return { file: toCsv(headings, rows, how), name, contentType: "text/csv; charset=utf-8" };
}

/** Rows as a file parted by tabs. */
export function tsv(name: string, headings: string[], rows: Rows, decimal?: DecimalSign): FileAnswer {
  return { file: toTsv(headings, rows, decimal), name, contentType: "text/tab-separated-values; charset=utf-8" };
}

/** Rows as an XLSX workbook of one sheet, called like the file or otherwise. */
export function xlsx(name: string, headings: string[], rows: Rows, sheet = name.replace(/\.xlsx$/, "")): FileAnswer {
  return { file: toXlsx(sheet, headings, rows), name, contentType: XLSX_TYPE };
}

/** Several tables as an XLSX workbook, a sheet each. */
export function workbook(name: string, sheets: readonly SheetRows[]): FileAnswer {
  return { file: toWorkbook(sheets), name, contentType: XLSX_TYPE };
}

const XLSX_TYPE = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";

/** Anything as a JSON file. */
export function json(name: string, value: unknown): FileAnswer {
  return { file: JSON.stringify(value, null, 1), name, contentType: "application/json" };
}
