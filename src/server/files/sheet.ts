import { PassThrough, Readable } from "node:stream";

/** Rows written before other requests get their turn. */
const ROWS_AT_ONCE = 500;

/** A sheet of a workbook: null leaves a cell empty. */
export interface SheetRows {
  name: string;
  headings: string[];
  rows: (string | number | null)[][];
}

/**
 * Rows as an XLSX workbook of one sheet, as a stream. Texts are written as texts, so none runs as a formula.
 * @param rows cells; null leaves one empty
 */
export function toXlsx(sheetName: string, headings: string[], rows: (string | number | null)[][]): ReadableStream {
  return toWorkbook([{ name: sheetName, headings, rows }]);
}

/** Several tables as one workbook, as a stream. */
export function toWorkbook(sheets: readonly SheetRows[]): ReadableStream {
  const out = new PassThrough();
  const write = async () => {
    // Loaded when the first workbook is written: it takes a quarter of the time that a process needs to start.
    const { default: ExcelJS } = await import("exceljs");
    const workbook = new ExcelJS.stream.xlsx.WorkbookWriter({ stream: out, useStyles: true, useSharedStrings: false });
    for (const { name, headings, rows } of sheets) {
      const sheet = workbook.addWorksheet(name.slice(0, 31), { views: [{ state: "frozen", ySplit: 1 }] });
      const head = sheet.addRow(headings);
      head.font = { bold: true };
      head.commit();
      for (const [i, row] of rows.entries()) {
        sheet.addRow(row).commit();
        if (i % ROWS_AT_ONCE === 0) await new Promise((resolve) => setImmediate(resolve));
      }
      sheet.commit();
    }
    await workbook.commit();
  };
  write().catch((error: Error) => out.destroy(error));
  return Readable.toWeb(out) as ReadableStream;
}
