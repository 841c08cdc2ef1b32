import type { Column } from "./columns";

const encoder = new TextEncoder();
const decoder = new TextDecoder();

/**
 * A column as bytes: a tag (1 text, 2 number), the row count, then for texts the codes and the dictionary as JSON,
 * for numbers the values. A column without any value is its tag (3 text, 4 number) and row count alone.
 * Little-endian, aligned so that typed arrays can be laid over the bytes.
 */
export function encodeColumn(column: Column): Uint8Array<ArrayBuffer> {
  if (isEmpty(column)) {
    const bytes = new Uint8Array(8);
    const length = column.kind === "text" ? column.codes.length : column.values.length;
    new Uint32Array(bytes.buffer).set([column.kind === "text" ? 3 : 4, length]);
    return bytes;
  }
  if (column.kind === "number") {
    const bytes = new Uint8Array(8 + column.values.byteLength);
    new Uint32Array(bytes.buffer, 0, 2).set([2, column.values.length]);
    new Float64Array(bytes.buffer, 8).set(column.values);
    return bytes;
  }
  const dictionary = encoder.encode(JSON.stringify(column.values));
  const bytes = new Uint8Array(8 + column.codes.byteLength + dictionary.length);
  new Uint32Array(bytes.buffer, 0, 2).set([1, column.codes.length]);
  new Uint32Array(bytes.buffer, 8, column.codes.length).set(column.codes);
  bytes.set(dictionary, 8 + column.codes.byteLength);
  return bytes;
}

/**
 * The beginning of a column of texts that hardly repeat (tag 5): the row count and each text's length in UTF-8 bytes.
 * The texts themselves follow, one after another. Such a column needs no dictionary and can be written piece by piece.
 */
export function ownTextsHead(lengths: Uint32Array): Uint8Array<ArrayBuffer> {
  const head = new Uint32Array(2 + lengths.length);
  head.set([5, lengths.length]);
  head.set(lengths, 2);
  return new Uint8Array(head.buffer);
}

/** Whether bytes begin a column of texts that hardly repeat, which may lie in several pieces. */
export function isOwnTexts(bytes: Uint8Array): boolean {
  return bytes[0] === 5 && bytes[1] === 0 && bytes[2] === 0 && bytes[3] === 0;
}

function decodeOwnTexts(bytes: ArrayBuffer, length: number): Column {
  const lengths = new Uint32Array(bytes, 8, length);
  const codes = new Uint32Array(length);
  const values = [""];
  // Node's own decoder is several times faster on many short texts than the standard one.
  const text = typeof Buffer === "undefined" ? null : Buffer.from(bytes);
  let at = 8 + length * 4;
  for (let row = 0; row < length; row++) {
    const end = at + lengths[row]!;
    if (end > at) {
      codes[row] = values.length;
      values.push(text ? text.toString("utf8", at, end) : decoder.decode(new Uint8Array(bytes, at, end - at)));
    }
    at = end;
  }
  return { kind: "text", codes, values };
}

function isEmpty(column: Column): boolean {
  return column.kind === "text" ? column.values.length === 1 : column.values.every(Number.isNaN);
}

/** The column that {@link encodeColumn} wrote. @throws Error when the bytes are not such a column. */
export function decodeColumn(source: ArrayBuffer | Uint8Array): Column {
  const bytes = source instanceof Uint8Array ? new Uint8Array(source).buffer : source;
  const head = new Uint32Array(bytes, 0, 2);
  const length = head[1]!;
  if (head[0] === 2) return { kind: "number", values: new Float64Array(bytes, 8, length) };
  if (head[0] === 5) return decodeOwnTexts(bytes, length);
  if (head[0] === 3) return { kind: "text", codes: new Uint32Array(length), values: [""] };
  if (head[0] === 4) return { kind: "number", values: new Float64Array(length).fill(NaN) };
  if (head[0] !== 1) throw new Error("these bytes are no column");
  const codes = new Uint32Array(bytes, 8, length);
  const values = JSON.parse(decoder.decode(new Uint8Array(bytes, 8 + length * 4))) as string[];
  return { kind: "text", codes, values };
}
