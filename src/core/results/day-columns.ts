/** Whole numbers in the narrowest array that holds them, or doubles. */
export type Numbers = Uint8Array | Uint16Array | Uint32Array | Float64Array;

/**
 * A day's ad results by campaign, ad group and item, as columns of one length: the rollup that screens sum over.
 * `campaign` and `adGroup` are codes of keys, `item` is the item number. Money in mills.
 */
export interface DayRollup {
  campaign: Numbers;
  adGroup: Numbers;
  item: Numbers;
  impressions: Numbers;
  clicks: Numbers;
  cost: Numbers;
  orders: Numbers;
  units: Numbers;
  revenue: Numbers;
}

/** Ad results of several days by item alone: what a sum over a long window reads instead of its days. */
export type ItemSpan = Omit<DayRollup, "campaign" | "adGroup">;

/** A day's store sales by item, with or without an ad. Money in mills. */
export interface DayStore {
  item: Numbers;
  orders: Numbers;
  units: Numbers;
  revenue: Numbers;
}

/** A day of the term report. `campaign`, `adGroup`, `target` and `term` are codes. */
export interface DayTerms extends Omit<DayRollup, "item"> {
  target: Numbers;
  term: Numbers;
}

const TERMS = [
  "campaign",
  "adGroup",
  "target",
  "term",
  "impressions",
  "clicks",
  "cost",
  "orders",
  "units",
  "revenue",
] as const;
const ROLLUP = ["campaign", "adGroup", "item", "impressions", "clicks", "cost", "orders", "units", "revenue"] as const;
const SPAN = ["item", "impressions", "clicks", "cost", "orders", "units", "revenue"] as const;
const STORE = ["item", "orders", "units", "revenue"] as const;

/** The arrays a column can be stored as; its place in this list is its tag. */
const KINDS = [Uint8Array, Uint16Array, Uint32Array, Float64Array] as const;

function kindFor(values: Numbers): number {
  let most = 0;
  for (const value of values) {
    if (!Number.isInteger(value) || value < 0) return 3;
    if (value > most) most = value;
  }
  return most <= 0xff ? 0 : most <= 0xffff ? 1 : most <= 0xffffffff ? 2 : 3;
}

const ALIGN = 8;
const aligned = (at: number) => Math.ceil(at / ALIGN) * ALIGN;

/** Row count (4 bytes), a tag a column, then the columns, each at a multiple of 8. Little-endian. */
function encode<T>(table: T, names: readonly (keyof T)[]): Uint8Array<ArrayBuffer> {
  const columns = names.map((name) => table[name] as Numbers);
  const length = columns[0]?.length ?? 0;
  const kinds = columns.map(kindFor);
  let size = aligned(4 + names.length);
  const starts = kinds.map((kind) => {
    const start = size;
    size = aligned(size + length * KINDS[kind]!.BYTES_PER_ELEMENT);
    return start;
  });
  const bytes = new Uint8Array(size);
  new Uint32Array(bytes.buffer, 0, 1)[0] = length;
  bytes.set(kinds, 4);
  columns.forEach((values, i) => {
    const array = new KINDS[kinds[i]!]!(bytes.buffer, starts[i], length);
    array.set(values);
  });
  return bytes;
}

function decode<T>(source: ArrayBuffer | Uint8Array, names: readonly (keyof T)[]): T {
  // Typed arrays can only be laid over bytes that begin at a multiple of 8.
  const isView = source instanceof Uint8Array;
  const bytes = !isView ? new Uint8Array(source) : source.byteOffset % ALIGN === 0 ? source : source.slice();
  const { buffer, byteOffset } = bytes;
  const length = new Uint32Array(buffer, byteOffset, 1)[0]!;
  let at = aligned(4 + names.length);
  const table: Partial<Record<keyof T, Numbers>> = {};
  names.forEach((name, i) => {
    const Kind = KINDS[bytes[4 + i]!]!;
    table[name] = new Kind(buffer as ArrayBuffer, byteOffset + at, length);
    at = aligned(at + length * Kind.BYTES_PER_ELEMENT);
  });
  return table as T;
}

/** A day's rollup as bytes to store. */
export function encodeRollup(rollup: DayRollup): Uint8Array<ArrayBuffer> {
  return encode(rollup, ROLLUP);
}

/** The rollup that {@link encodeRollup} wrote. */
export function decodeRollup(bytes: ArrayBuffer | Uint8Array): DayRollup {
  return decode(bytes, ROLLUP);
}

/** A span as bytes to store. */
export function encodeSpan(span: ItemSpan): Uint8Array<ArrayBuffer> {
  return encode(span, SPAN);
}

/** The span that {@link encodeSpan} wrote. */
export function decodeSpan(bytes: ArrayBuffer | Uint8Array): ItemSpan {
  return decode(bytes, SPAN);
}

/** A day's store sales as bytes to store. */
export function encodeStore(store: DayStore): Uint8Array<ArrayBuffer> {
  return encode(store, STORE);
}

/** The store sales that {@link encodeStore} wrote. */
export function decodeStore(bytes: ArrayBuffer | Uint8Array): DayStore {
  return decode(bytes, STORE);
}

/** A day of the term report as bytes to store. */
export function encodeTerms(terms: DayTerms): Uint8Array<ArrayBuffer> {
  return encode(terms, TERMS);
}

/** The terms that {@link encodeTerms} wrote. */
export function decodeTerms(bytes: ArrayBuffer | Uint8Array): DayTerms {
  return decode(bytes, TERMS);
}
