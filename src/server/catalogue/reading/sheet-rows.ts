import ExcelJS from "exceljs";
import yauzl from "yauzl";
import { headerAt } from "./header-at";
import { LIMITS } from "@/core/catalogue/limits";
import { cleanHeadings } from "@/core/catalogue/mapping";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { settings } from "../../settings";
import type { FeedRows, RowBatch } from "./feed-rows";

const BATCH = 1000;
/** Rows at the top of a sheet among which the header is looked for. */
const HEADER_REACH = 30;

/** The names of what a ZIP archive holds and their whole size once unpacked, from its directory. */
function zipContents(file: string): Promise<{ names: string[]; bytes: number }> {
  return new Promise((resolve, reject) => {
    yauzl.open(file, { lazyEntries: true }, (error, zip) => {
      if (error || !zip) return reject(error ?? new Error("no archive"));
      const names: string[] = [];
      let bytes = 0;
      zip.on("entry", (entry: { fileName: string; uncompressedSize: number }) => {
        names.push(entry.fileName);
        bytes += entry.uncompressedSize;
        zip.readEntry();
      });
      zip.on("end", () => resolve({ names, bytes }));
      zip.on("error", reject);
      zip.readEntry();
    });
  });
}

/** The text of a cell as a person sees it: results of formulas, plain text of rich text, dates as days. */
function cellText(value: unknown): string {
  if (value === null || value === undefined) return "";
  if (typeof value === "string") return value;
  if (typeof value === "number")
    return Number.isSafeInteger(value) ? String(value) : String(Number(value.toPrecision(15)));
  if (typeof value === "boolean") return String(value);
  if (value instanceof Date)
    return Number.isNaN(value.getTime()) ? "" : value.toISOString().replace("T00:00:00.000Z", "");
  if (typeof value === "object") {
    const cell = value as { richText?: { text: string }[]; text?: unknown; result?: unknown; error?: string };
    if (cell.richText) return cell.richText.map(({ text }) => text).join("");
    if ("result" in cell) return cellText(cell.result);
    if ("text" in cell) return cellText(cell.text);
    return "";
  }
  return String(value);
}

function rowCells(values: unknown): string[] {
  if (!Array.isArray(values)) return [];
  // Cells are counted from 1, and cells that are not there are holes. What was only painted far to the right is no column.
  let last = values.length - 1;
  while (last > 0 && cellText(values[last]).trim() === "") last--;
  if (last > LIMITS.columns) tooWide(last);
  return Array.from({ length: last }, (_, i) => cellText(values[i + 1]).trim());
}

function tooWide(columns: number): never {
  giveUp("feed-too-wide", `The sheet has ${columns} columns; ${LIMITS.columns} can be read.`, "Leave some out.");
}

interface Sheet {
  name: string;
  rows: AsyncIterable<string[]>;
}

async function* sheets(file: string): AsyncIterable<Sheet> {
  const reader = new ExcelJS.stream.xlsx.WorkbookReader(file, {
    worksheets: "emit",
    sharedStrings: "cache",
    hyperlinks: "ignore",
    styles: "cache",
    entries: "ignore",
  });
  for await (const sheet of reader) {
    const name = (sheet as unknown as { name?: string }).name ?? "sheet";
    yield {
      name,
      rows: (async function* () {
        for await (const row of sheet) yield rowCells(row.values);
      })(),
    };
  }
}

function broken(error: unknown): never {
  if (error instanceof FailureError) throw error;
  giveUp(
    "feed-sheet-broken",
    "The workbook can't be read: it is damaged, or protected by a password. Nothing was taken in.",
    "Open it in your spreadsheet program and save it anew as XLSX or CSV.",
  );
}

/**
 * Opens the rows of a sheet of an XLSX workbook. The header may stand below a few title rows.
 * @param wanted the sheet's name; null takes the first sheet with a header and a row
 */
export async function openSheet(file: string, wanted: string | null): Promise<FeedRows> {
  const { names, bytes } = await zipContents(file).catch(broken);
  if (!names.some((name) => name === "xl/workbook.xml")) {
    giveUp(
      "feed-not-text",
      "This is a ZIP archive that holds no XLSX workbook.",
      "Unpack it and upload the feed itself; gzip is the compression that is read.",
    );
  }
  if (bytes > settings().HOTSHELF_MAX_FEED_MB * 1024 * 1024) {
    giveUp(
      "feed-too-large",
      `The workbook unpacks to more than ${settings().HOTSHELF_MAX_FEED_MB} MB.`,
      "Split it, leave long columns out, or raise HOTSHELF_MAX_FEED_MB.",
    );
  }
  const all: string[] = [];
  let chosen: { name: string; header: string[]; skip: number } | null = null;
  try {
    for await (const sheet of sheets(file)) {
      all.push(sheet.name);
      const top: string[][] = [];
      for await (const cells of sheet.rows) if (top.length < HEADER_REACH) top.push(cells);
      const at = headerAt(top);
      if (chosen || at < 0 || (wanted !== null ? sheet.name !== wanted : top.length < at + 2)) continue;
      chosen = { name: sheet.name, header: top[at]!, skip: at + 1 };
    }
  } catch (error) {
    broken(error);
  }
  const found = chosen as { name: string; header: string[]; skip: number } | null;
  if (!found) {
    giveUp(
      "feed-sheet-empty",
      wanted !== null && !all.includes(wanted)
        ? `The workbook has no sheet "${wanted}". It has: ${all.join(", ")}.`
        : "No sheet of the workbook has a header with two columns or more and a row under it.",
      "Choose another sheet, or put the column names into one row above the items.",
    );
  }
  const { headings, repeated } = cleanHeadings(found.header);
  const batches = () => sheetBatches(file, found);
  return { headings, repeated, grows: false, delimiter: null, sheets: all, sheet: found.name, batches };
}

async function* sheetBatches(file: string, { name, skip }: { name: string; skip: number }): AsyncIterable<RowBatch> {
  try {
    for await (const sheet of sheets(file)) {
      if (sheet.name !== name) {
        // The stream has to be read to its next sheet.
        for await (const cells of sheet.rows) void cells;
        continue;
      }
      let rows: string[][] = [];
      let seen = 0;
      for await (const cells of sheet.rows) {
        if (seen++ < skip || cells.every((cell) => cell === "")) continue;
        rows.push(cells);
        if (rows.length < BATCH) continue;
        // How many rows a sheet has is known at its end only.
        yield { rows, share: 0 };
        rows = [];
      }
      if (rows.length > 0) yield { rows, share: 1 };
      return;
    }
  } catch (error) {
    broken(error);
  }
}
