import { headerAt, TOP_ROWS } from "@/core/catalogue/header-at";
import { numberText } from "@/core/catalogue/flatten";
import { LIMITS } from "@/core/catalogue/limits";
import { cleanHeadings, proposeMapping } from "@/core/catalogue/mapping";
import { FIELD } from "@/core/catalogue/fields";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { isBlankRow, type FeedRows, type RowBatch } from "./feed-rows";
import { Archive, openWorkbook, partParser, type Workbook } from "./workbook";

/** A row of a sheet: its number there, and the texts of its cells. */
interface SheetRow {
  no: number;
  cells: string[];
}

const DAY_MS = 86_400_000;
/** Days from the workbook's first day to 1970: its day 1 is 1 January 1900, and it counts a 29 February that never was. */
const TO_1970 = 25_569;
const FROM_1904 = 1462;

/** A date as the workbook counts it, as a day, with the time where it has one. */
function dateText(serial: number, from1904: boolean): string {
  const ms = Math.round((serial + (from1904 ? FROM_1904 : 0) - TO_1970) * DAY_MS);
  const date = new Date(ms);
  return Number.isNaN(date.getTime()) ? "" : date.toISOString().replace("T00:00:00.000Z", "");
}

/** A number as a cell shows it: with the noughts before it that its format has, as IDs such as 00042 do. */
function shownNumber(written: string, noughts: number): string {
  const value = Number(written);
  if (!Number.isFinite(value)) return written;
  const text = numberText(value);
  return noughts > 0 && /^\d+$/.test(text) ? text.padStart(noughts, "0") : text;
}

/** The column of a cell's address, counted from 0: C7 stands in column 2. */
function columnOf(address: string): number {
  let column = 0;
  for (let i = 0; i < address.length; i++) {
    const letter = address.charCodeAt(i) - 64;
    if (letter < 1 || letter > 26) break;
    column = column * 26 + letter;
  }
  return column - 1;
}

/** Reads the rows of a sheet from pushed XML. */
class SheetReader {
  private rows: SheetRow[] = [];
  private cells: string[] = [];
  private no = 0;
  private column = -1;
  private kind = "n";
  private style = 0;
  private value = "";
  private inside = "";
  private readonly parser = partParser({
    open: (name, attributes) => this.open(name, attributes),
    close: (name) => this.close(name),
    text: (text) => {
      if (this.inside !== "" && this.value.length <= LIMITS.cell) this.value += text;
    },
  });

  constructor(private readonly book: Workbook) {}

  /** The rows completed by the next piece. */
  push(text: string): SheetRow[] {
    this.parser.write(text);
    const done = this.rows;
    this.rows = [];
    return done;
  }

  end(): void {
    this.parser.close();
  }

  private open(name: string, { r, t, s }: Record<string, string>): void {
    if (name === "row") {
      this.no = r === undefined ? this.no + 1 : Number(r);
      this.column = -1;
      this.cells = [];
    } else if (name === "c") {
      this.column = r === undefined ? this.column + 1 : columnOf(r);
      this.kind = t ?? "n";
      this.style = Number(s ?? 0);
      this.value = "";
    } else if (name === "v" || name === "t") this.inside = name;
  }

  private close(name: string): void {
    if (name === "v" || name === "t") this.inside = "";
    else if (name === "c") this.put(this.cellText().trim());
    else if (name === "row") this.rows.push({ no: this.no, cells: this.cells });
  }

  private put(text: string): void {
    // What was only painted far to the right is no column.
    if (text === "") return;
    if (this.column >= LIMITS.columns) tooWide(this.column + 1);
    while (this.cells.length < this.column) this.cells.push("");
    this.cells[this.column] = text;
  }

  private cellText(): string {
    const { value, book } = this;
    if (value === "") return "";
    switch (this.kind) {
      case "s":
        return book.shared[Number(value)] ?? "";
      case "b":
        return value === "1" ? "true" : "false";
      case "e":
        return "";
      case "n":
        return book.isDate[this.style]
          ? dateText(Number(value), book.from1904)
          : shownNumber(value, book.noughts[this.style] ?? 0);
      case "d":
        return value.replace(/T00:00:00(?:\.000)?Z?$/, "");
      default:
        return value;
    }
  }
}

function tooWide(columns: number): never {
  giveUp("feed-too-wide", `The sheet has ${columns} columns; ${LIMITS.columns} can be read.`, "Leave some out.");
}

/** The rows of a sheet, a piece of its XML at a time, and the share of it read. */
async function* rowsOf(book: Workbook, part: string): AsyncIterable<{ rows: SheetRow[]; share: number }> {
  const reader = new SheetReader(book);
  const size = Math.max(1, book.archive.sizeOf(part));
  let read = 0;
  for await (const piece of book.archive.text(part)) {
    read += piece.length;
    const rows = reader.push(piece);
    if (rows.length > 0) yield { rows, share: Math.min(1, read / size) };
  }
  reader.end();
}

async function topOf(book: Workbook, part: string): Promise<SheetRow[]> {
  const top: SheetRow[] = [];
  for await (const { rows } of rowsOf(book, part)) {
    top.push(...rows.filter(({ cells }) => !isBlankRow(cells)));
    if (top.length >= TOP_ROWS) break;
  }
  return top.slice(0, TOP_ROWS);
}

function broken(error: unknown): never {
  if (error instanceof FailureError) throw error;
  giveUp(
    "feed-sheet-broken",
    "The workbook can't be read: it is damaged, or protected by a password. Nothing was taken in.",
    "Open it in your spreadsheet program and save it anew as XLSX or CSV.",
  );
}

interface Found {
  name: string;
  part: string;
  header: SheetRow;
  /** How many of the fields a feed needs its headings and first rows have. */
  needed: number;
}

/** The header of a sheet and what its columns may be; null where it has no header with a row under it. */
async function headerOf(
  book: Workbook,
  sheet: Workbook["sheets"][number],
  headerRow: number | null,
): Promise<Found | null> {
  const top = await topOf(book, sheet.part);
  const at = headerRow === null ? headerAt(top.map(({ cells }) => cells)) : top.findIndex(({ no }) => no === headerRow);
  const header = top[at];
  if (!header || header.cells.length < 2) return null;
  const samples = top.slice(at + 1).map(({ cells }) => cells);
  const proposals = proposeMapping(cleanHeadings(header.cells).headings, samples);
  const needed = proposals.filter(({ field, score }) => FIELD[field].required && score >= 0.5).length;
  return samples.length === 0 ? null : { ...sheet, header, needed };
}

/**
 * Opens the rows of a sheet of an XLSX workbook. The header may stand below a few title rows.
 * @param wanted the sheet's name; null takes the one whose columns are most like a feed's, the first of equals
 * @param headerRow the row that the header stands in, or null to find it out
 */
export async function openSheet(file: string, wanted: string | null, headerRow: number | null): Promise<FeedRows> {
  const archive = await Archive.open(file).catch(broken);
  try {
    if (!archive.has("xl/workbook.xml")) {
      giveUp(
        "feed-not-text",
        "This is a ZIP archive that holds no XLSX workbook.",
        "Unpack it and upload the feed itself; gzip is the compression that is read.",
      );
    }
    const book = await openWorkbook(archive);
    const all = book.sheets.map(({ name }) => name);
    let found: Found | null = null;
    for (const sheet of book.sheets) {
      if (wanted !== null && sheet.name !== wanted) continue;
      const one = await headerOf(book, sheet, headerRow);
      if (one && (found === null || one.needed > found.needed)) found = one;
    }
    if (!found) {
      giveUp(
        "feed-sheet-empty",
        wanted !== null && !all.includes(wanted)
          ? `The workbook has no sheet "${wanted}". It has: ${all.join(", ")}.`
          : "No sheet of the workbook has a header with two columns or more and a row under it.",
        "Choose another sheet, or put the column names into one row above the items.",
      );
    }
    const { name, part, header } = found;
    const { headings, repeated } = cleanHeadings(header.cells);
    const feed: FeedRows = {
      ...{ headings, repeated, grows: false, delimiter: null, parts: all, part: name, headerRow: header.no, blank: 0 },
      batches: () => sheetBatches(file, part, feed),
    };
    return feed;
  } catch (error) {
    return broken(error);
  } finally {
    archive.close();
  }
}

async function* sheetBatches(file: string, part: string, feed: FeedRows): AsyncIterable<RowBatch> {
  const archive = await Archive.open(file).catch(broken);
  try {
    const book = await openWorkbook(archive);
    const header = feed.headerRow ?? 0;
    feed.blank = 0;
    feed.twice = 0;
    let last = 0;
    for await (const { rows, share } of rowsOf(book, part)) {
      for (const row of rows) {
        // Two rows of one number could not be told apart.
        if (!(row.no > last)) {
          feed.twice++;
          row.no = last + 1;
        }
        last = row.no;
      }
      const below = rows.filter(({ no }) => no > header);
      const filled = below.filter(({ cells }) => !isBlankRow(cells));
      feed.blank += below.length - filled.length;
      if (filled.length === 0) continue;
      yield { rows: filled.map(({ cells }) => cells), numbers: filled.map(({ no }) => no), share };
    }
  } catch (error) {
    broken(error);
  } finally {
    archive.close();
  }
}
