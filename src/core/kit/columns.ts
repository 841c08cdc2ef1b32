/**
 * Columnar tables: the catalogue is held as columns, not objects. Texts are coded into a dictionary, numbers are
 * typed arrays; code 0 is always "no value". Built once per catalogue revision and then only read.
 */
export interface TextColumn {
  kind: "text";
  /** One code per row, an index into `values`. */
  codes: Uint32Array;
  /** The distinct texts in order of first appearance; `values[0]` is "" and stands for no value. */
  values: string[];
  /** What each value is called where that is not the value itself, as with keys; same places as `values`. */
  labels?: string[];
}

export interface NumberColumn {
  kind: "number";
  /** One number per row; NaN stands for no value. */
  values: Float64Array;
}

export type Column = TextColumn | NumberColumn;

/** Named columns of one length. */
export interface Columns {
  length: number;
  columns: Record<string, Column>;
}

/** Collects texts row by row into a dictionary-coded column. */
export class TextColumnBuilder {
  private codes = new Uint32Array(1024);
  private readonly values: string[] = [""];
  private readonly index: Map<string, number> | null;
  length = 0;

  /**
   * @param areTold each value is looked up and coded once (the usual column). False skips that for texts that hardly
   * ever repeat, such as links: then a repeated text gets two codes, so such a column can't be split or counted by.
   */
  constructor(areTold = true) {
    this.index = areTold ? new Map() : null;
  }

  /** Adds a text. @returns its code */
  push(value: string): number {
    let code = value === "" ? 0 : this.index?.get(value);
    if (code === undefined) {
      code = this.values.length;
      this.values.push(value);
      this.index?.set(value, code);
    }
    this.pushCode(code);
    return code;
  }

  /** Adds a text by the code that an earlier `push` gave. */
  pushCode(code: number): void {
    if (this.length === this.codes.length) {
      const wider = new Uint32Array(this.length * 2);
      wider.set(this.codes);
      this.codes = wider;
    }
    this.codes[this.length++] = code;
  }

  finish(): TextColumn {
    return { kind: "text", codes: this.codes.subarray(0, this.length), values: this.values };
  }
}

/** Collects numbers row by row. */
export class NumberColumnBuilder {
  private values = new Float64Array(1024);
  length = 0;

  push(value: number): void {
    if (this.length === this.values.length) {
      const wider = new Float64Array(this.length * 2);
      wider.set(this.values);
      this.values = wider;
    }
    this.values[this.length++] = value;
  }

  finish(): NumberColumn {
    return { kind: "number", values: this.values.subarray(0, this.length) };
  }
}

/** A text column from an array of texts. */
export function textColumn(texts: Iterable<string>): TextColumn {
  const builder = new TextColumnBuilder();
  for (const text of texts) builder.push(text);
  return builder.finish();
}

/** A number column from an array; null becomes "no value". */
export function numberColumn(numbers: Iterable<number | null>): NumberColumn {
  return { kind: "number", values: Float64Array.from(numbers, (n) => n ?? NaN) };
}

/** The cell as text; "" for no value. Numbers use their shortest decimal form. */
export function cellText(column: Column, row: number): string {
  if (column.kind === "text") return column.values[column.codes[row]!]!;
  const value = column.values[row]!;
  return Number.isNaN(value) ? "" : String(value);
}

/** Share of rows with a value, and how many distinct values there are. */
export function coverage(column: Column): { filled: number; distinct: number } {
  let filled = 0;
  if (column.kind === "text") {
    for (let i = 0; i < column.codes.length; i++) if (column.codes[i] !== 0) filled++;
    return { filled, distinct: column.values.length - 1 };
  }
  const seen = new Set<number>();
  for (const value of column.values) {
    if (Number.isNaN(value)) continue;
    filled++;
    seen.add(value);
  }
  return { filled, distinct: seen.size };
}

/** The texts of a column as codes: a text column is returned as it is, a number column is coded by its decimal form. */
export function asText(column: Column): TextColumn {
  if (column.kind === "text") return column;
  const builder = new TextColumnBuilder();
  for (let row = 0; row < column.values.length; row++) builder.push(cellText(column, row));
  return builder.finish();
}

/** Row numbers by code, as one array with offsets (a counting sort), so that the rows of a value are a slice. */
export interface Postings {
  rows: Uint32Array;
  /** `rows.subarray(offsets[code], offsets[code + 1])` are the rows with that code, ascending. */
  offsets: Uint32Array;
}

/** Builds the postings of a text column in two passes. */
export function postings(column: TextColumn): Postings {
  const offsets = new Uint32Array(column.values.length + 1);
  for (const code of column.codes) offsets[code + 1] = offsets[code + 1]! + 1;
  for (let i = 1; i < offsets.length; i++) offsets[i] = offsets[i]! + offsets[i - 1]!;
  const next = offsets.slice();
  const rows = new Uint32Array(column.codes.length);
  for (let row = 0; row < column.codes.length; row++) {
    const code = column.codes[row]!;
    const at = next[code]!;
    rows[at] = row;
    next[code] = at + 1;
  }
  return { rows, offsets };
}

/** The same columns under a record of its own, which has no other names; those that are read anew with each look stay so. */
export function sameColumns(columns: Record<string, Column>): Record<string, Column> {
  return Object.create(null, Object.getOwnPropertyDescriptors(columns)) as Record<string, Column>;
}
