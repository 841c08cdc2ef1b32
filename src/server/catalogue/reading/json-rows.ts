import { TokenParser, Tokenizer, TokenType } from "@streamparser/json";
import { flattenInto, unmistakable } from "@/core/catalogue/flatten";
import { GrowingColumns } from "@/core/catalogue/growing-columns";
import { LIMITS } from "@/core/catalogue/limits";
import { cleanHeadings } from "@/core/catalogue/mapping";
import { isSchemaOrg, productsIn } from "@/core/catalogue/schema-org";
import { variantsOf } from "@/core/catalogue/variants";
import { FailureError, giveUp } from "@/core/kit/outcome";
import type { FeedText } from "./feed-text";
import { BrokenRow, LOOK_ROWS, RowNumbers, type FeedRows, type RowBatch } from "./feed-rows";

/** Numbers are kept as they are written: a long ID must not be rounded, and 12.90 stays 12.90. */
class VerbatimTokenizer extends Tokenizer {
  protected override parseNumber(written: string): number {
    return unmistakable(written) as unknown as number;
  }
}

/** Turns one record into rows of flat fields: a schema.org node into its products, one with variants into those. */
function rowsOfRecord(columns: GrowingColumns, record: unknown): string[][] {
  const records = isSchemaOrg(record) ? productsIn(record) : variantsOf(record);
  return records.map((one) => {
    const row: string[] = [];
    flattenInto(columns, row, one);
    return row;
  });
}

/** Where the records of a document lie: the keys that lead to their list, or null for the document itself. */
type RecordPath = (string | null)[] | null;

/** Lists of objects in a document, by which its records can be read, and what is read where nobody chose. */
interface RecordLists {
  paths: (string | null)[][];
  best: RecordPath;
  /** The names of the columns, where records are lists of values: those of a list beside them, or of the first record. */
  columns: string[] | "first" | null;
}

/**
 * Finds the lists of records in the beginning of a document: those of objects, with the most members first. Without one,
 * an object whose values are objects is taken as records by key, a list of lists as records whose columns stand beside or
 * first; any other document is one record.
 */
export function findRecords(sample: string): RecordLists {
  interface Open {
    isList: boolean;
    key: string | null;
    members: number;
    objects: number;
    lists: number;
    /** Its members that are texts, as far as it holds nothing else. */
    texts: string[];
  }
  const open: Open[] = [];
  const lists: { path: (string | null)[]; objects: number }[] = [];
  const tables: (string | null)[][] = [];
  const maps: { path: (string | null)[]; objects: number }[] = [];
  let named: string[] | null = null;
  let isTyped = false;
  let isRootList = false;
  let key: string | null = null;
  let awaitsKey = false;
  const tokenizer = new VerbatimTokenizer();
  tokenizer.onError = () => {};
  tokenizer.onToken = ({ token, value }) => {
    const parent = open.at(-1);
    const isOpening = token === TokenType.LEFT_BRACE || token === TokenType.LEFT_BRACKET;
    if (isOpening) {
      if (parent) {
        if (parent.isList) parent.members++;
        if (token === TokenType.LEFT_BRACE) parent.objects++;
        else parent.lists++;
      }
      if (open.length === 0) isRootList = token === TokenType.LEFT_BRACKET;
      if (open.length <= LIMITS.depth) {
        open.push({
          isList: token === TokenType.LEFT_BRACKET,
          key: parent?.isList ? null : key,
          ...{ members: 0, objects: 0, lists: 0, texts: [] },
        });
      } else tooDeep();
      awaitsKey = token === TokenType.LEFT_BRACE;
      key = null;
    } else if (token === TokenType.RIGHT_BRACE || token === TokenType.RIGHT_BRACKET) {
      const closed = open.pop();
      if (closed) consider(closed);
      awaitsKey = false;
    } else if (token === TokenType.COMMA) awaitsKey = parent !== undefined && !parent.isList;
    else if (token === TokenType.STRING && awaitsKey) {
      key = value as unknown as string;
      awaitsKey = false;
      if (parent) parent.members++;
      if (open.length === 1 && key === "@type") isTyped = true;
    } else if (token === TokenType.STRING && parent?.isList && parent.texts.length < LIMITS.columns) {
      parent.texts.push(value as unknown as string);
    }
  };
  const consider = (one: Open) => {
    // A list inside a record of another list is a repeated field, not the records.
    if (open.some(({ isList }) => isList)) return;
    const path = [...open.slice(1).map(({ key: name }) => name), ...(open.length > 0 ? [one.key] : [])];
    if (!one.isList) {
      // Records by their key: { "A1": { ... }, "A2": { ... } }.
      if (one.members > 1 && one.objects >= one.members - 1) maps.push({ path: [...path, "*"], objects: one.objects });
    } else if (one.objects > 0) lists.push({ path, objects: one.objects });
    else if (one.lists > 0) tables.push(path);
    else if (one.texts.length > 1) named ??= one.texts;
  };
  try {
    tokenizer.write(sample);
  } catch (error) {
    if (error instanceof FailureError) throw error;
    // The sample ends in the middle, or the document is broken; reading it says where.
  }
  while (open.length > 0) consider(open.pop()!);
  const paths = lists.sort((a, b) => b.objects - a.objects).map(({ path }) => path);
  const found = (best: RecordPath, columns: RecordLists["columns"] = null) => ({ paths, best, columns });
  if (isTyped) return found(null);
  if (isRootList) return paths.length === 0 && tables[0] ? found([], "first") : found([]);
  const [list, map, table] = [lists[0], maps.sort((a, b) => b.objects - a.objects)[0], tables[0]];
  if (list && (!map || list.objects >= map.objects)) return found(list.path);
  if (map) return found(map.path);
  if (table) return found(table, named ?? "first");
  return found(null);
}

function tooDeep(): never {
  giveUp("feed-deep", `The JSON nests deeper than ${LIMITS.depth} levels.`, "A product feed is flat.");
}

const REFUSED = "Nothing was taken in. No product feed looks like this; export it again.";

function tooLarge(record: number): never {
  giveUp(
    "feed-record-large",
    `Record ${record} of the JSON holds more than ${LIMITS.members} names and values.`,
    REFUSED,
  );
}

/** Streams the records at a path of a document. */
async function* records(text: FeedText, path: RecordPath): AsyncIterable<{ found: unknown[]; share: number }> {
  const isMap = path?.at(-1) === "*";
  const above = isMap ? path!.slice(0, -1) : path;
  const depth = path === null ? 0 : isMap ? path.length : path.length + 1;
  const pattern = ["$", ...Array.from({ length: depth }, () => "*")].join(".");
  const tokenizer = new VerbatimTokenizer();
  const parser = new TokenParser({ paths: [pattern], keepStack: false });
  let found: unknown[] = [];
  let level = 0;
  let count = 0;
  // Names and values of the record being read, and characters since the last whole token.
  let members = 0;
  let unbroken = 0;
  tokenizer.onToken = (token) => {
    unbroken = 0;
    if (level <= depth) members = 0;
    else if (token.token !== TokenType.COMMA && token.token !== TokenType.COLON && ++members > LIMITS.members) {
      tooLarge(count + 1);
    }
    if (token.token === TokenType.LEFT_BRACE || token.token === TokenType.LEFT_BRACKET) {
      if (++level > LIMITS.depth) tooDeep();
    } else if (token.token === TokenType.RIGHT_BRACE || token.token === TokenType.RIGHT_BRACKET) level--;
    parser.write(token);
  };
  parser.onValue = ({ value, key, stack }) => {
    if (above !== null) {
      const keys = stack.slice(1).map((one) => one.key);
      if (!above.every((wanted, i) => keys[i] === wanted) || (!isMap && typeof key !== "number")) return;
    }
    if (value === null || typeof value !== "object") {
      // What stands among the records and is none is set aside; beside records by key it says something about the file.
      if (path !== null && !isMap) found.push(new BrokenRow(String(value)));
      return;
    }
    count++;
    found.push(isMap && !Array.isArray(value) && !("id" in value) ? { id: key, ...(value as object) } : value);
  };
  parser.onEnd = () => {};
  let read = 0;
  const broken = (error: unknown): never => {
    if (error instanceof FailureError) throw error;
    const near = read > 0 ? ` at about character ${read}` : "";
    giveUp(
      "feed-json-broken",
      `The JSON breaks off or is malformed${near}, after ${count} whole records.`,
      "Nothing was taken in. Fetch the feed again; a download that stopped early looks like this.",
    );
  };
  for await (const piece of text.read()) {
    unbroken += piece.length;
    try {
      tokenizer.write(read === 0 ? piece.replace(/^\uFEFF/, "") : piece);
    } catch (error) {
      broken(error);
    }
    read += piece.length;
    if (unbroken > LIMITS.unbroken) {
      giveUp("feed-json-endless", `A value at about character ${read} of the JSON runs on without end.`, REFUSED);
    }
    if (found.length > 0) {
      yield { found, share: read / text.bytes };
      found = [];
    }
  }
  try {
    if (!tokenizer.isEnded) tokenizer.end();
    if (!parser.isEnded) parser.end();
  } catch (error) {
    broken(error);
  }
  if (level > 0) broken(null);
  if (found.length > 0) yield { found, share: 1 };
}

/** Gives records that are lists of values the names of their columns, as in `{ "columns": [...], "rows": [[...], ...] }`. */
class TableOfLists {
  constructor(private names: string[] | null) {}

  /** The record that a list of values is; none for the list that names the columns. */
  record(values: unknown): unknown[] {
    if (!Array.isArray(values)) return [values];
    if (this.names === null) {
      this.names = cleanHeadings(values.map(String)).headings;
      return [];
    }
    return [Object.fromEntries(values.map((value, at) => [this.names![at] ?? `column ${at + 1}`, value as unknown]))];
  }
}

/** How a list of records is called: by the keys that lead to it. */
const pathName = (path: (string | null)[]) => path.map((key) => key ?? "").join(".") || "the whole list";

/**
 * Opens the records of a JSON document.
 * @param wanted the name of the list that a person chose, or null to find it out
 */
export async function openJson(text: FeedText, sample: string, wanted: string | null): Promise<FeedRows> {
  const { paths, best, columns } = findRecords(sample);
  const path = paths.find((one) => pathName(one) === wanted) ?? best;
  const part = path && path.at(-1) !== "*" ? pathName(path) : null;
  const shown = { parts: paths.map(pathName), part };
  return openRecords(
    async function* () {
      const named = columns === null || path !== best ? null : columns;
      const table = named && new TableOfLists(named === "first" ? null : named);
      for await (const { found, share } of records(text, path)) {
        yield { found: table ? found.flatMap((one) => table.record(one)) : found, share };
      }
    },
    "The JSON holds no list of records and no schema.org Product.",
    shown,
  );
}

/** Opens JSON Lines: a record a line. A line that is no JSON is put aside by itself. */
export async function openJsonLines(text: FeedText): Promise<FeedRows> {
  return openRecords(async function* () {
    let rest = "";
    let read = 0;
    for await (const piece of text.read()) {
      read += piece.length;
      const lines = (rest + piece).split(/\r?\n/);
      rest = lines.pop() as string;
      if (rest.length > LIMITS.cell * 8) {
        giveUp("feed-line-long", "A line of the JSON Lines feed runs on without end.", "Put each record on one line.");
      }
      yield { found: lines.flatMap(parseLine), share: read / text.bytes };
    }
    if (rest.trim() !== "") yield { found: parseLine(rest), share: 1 };
  }, "None of the lines is a JSON record.");
}

function parseLine(line: string): unknown[] {
  const text = line.replace(/^\uFEFF/, "").trim();
  if (text === "") return [];
  try {
    // Long numbers would be rounded, so such lines take the slower way that keeps them as written.
    if (!/\d{16}/.test(text)) return [JSON.parse(text)];
    const tokenizer = new VerbatimTokenizer();
    const parser = new TokenParser({ paths: ["$"] });
    let found: unknown;
    parser.onValue = ({ value }) => (found = value);
    tokenizer.onToken = (token) => parser.write(token);
    tokenizer.write(text);
    if (found === undefined) throw new Error("no whole record");
    return [found];
  } catch {
    return [new BrokenRow(text)];
  }
}

async function openRecords(
  stream: () => AsyncIterable<{ found: unknown[]; share: number }>,
  whenNone: string,
  { parts, part }: Pick<FeedRows, "parts" | "part"> = { parts: [], part: null },
): Promise<FeedRows> {
  const look = new GrowingColumns();
  let seen = 0;
  for await (const { found } of stream()) {
    for (const record of found) {
      if (seen >= LOOK_ROWS) break;
      if (!(record instanceof BrokenRow)) seen += rowsOfRecord(look, record).length;
    }
    if (seen >= LOOK_ROWS) break;
  }
  if (seen === 0) {
    giveUp(
      "feed-json-no-items",
      whenNone,
      "A feed is a list of objects, one for each item: [{ … }, { … }], or an object that holds such a list.",
    );
  }
  const headings = look.names;
  return {
    ...{ delimiter: null, headings, repeated: [], grows: true, parts, part, headerRow: null, blank: 0 },
    async *batches(): AsyncIterable<RowBatch> {
      // The same places as in the look, so that rows agree with the headings that were shown.
      const columns = new GrowingColumns();
      const seed: string[] = [];
      for (const name of headings) columns.put(seed, name, "x");
      const numbers = new RowNumbers();
      for await (const { found, share } of stream()) {
        const rows: RowBatch["rows"] = [];
        for (const record of found) {
          if (record instanceof BrokenRow) rows.push(record);
          else rows.push(...rowsOfRecord(columns, record));
        }
        for (const name of columns.names.slice(headings.length)) headings.push(name);
        if (rows.length > 0) yield { rows, numbers: numbers.next(rows.length), share };
      }
    },
  };
}
