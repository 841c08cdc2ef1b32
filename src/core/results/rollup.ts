/**
 * A day's ad results by campaign, ad group and item, as columns of one length: the rollup that screens sum over.
 * `campaign` and `adGroup` are codes of keys, `item` is the item number. Money in mills.
 */
export interface DayRollup {
  campaign: Uint32Array;
  adGroup: Uint32Array;
  item: Uint32Array;
  impressions: Float64Array;
  clicks: Float64Array;
  cost: Float64Array;
  orders: Float64Array;
  units: Float64Array;
  revenue: Float64Array;
}

/** A day's store sales by item, with or without an ad. Money in mills. */
export interface DayStore {
  item: Uint32Array;
  orders: Float64Array;
  units: Float64Array;
  revenue: Float64Array;
}

const KEYS = ["campaign", "adGroup", "item"] as const;
const MEASURES = ["impressions", "clicks", "cost", "orders", "units", "revenue"] as const;
const STORE_KEYS = ["item"] as const;
const STORE_MEASURES = ["orders", "units", "revenue"] as const;

type Table = Record<string, Uint32Array | Float64Array>;

/** Row count first, then the measures (8-byte aligned), then the keys; little-endian. */
function encode(table: Table, keys: readonly string[], measures: readonly string[]): Uint8Array<ArrayBuffer> {
  const length = table[keys[0] as string]!.length;
  const bytes = new Uint8Array(8 + length * (8 * measures.length + 4 * keys.length));
  new Uint32Array(bytes.buffer, 0, 1)[0] = length;
  let at = 8;
  for (const name of measures) {
    new Float64Array(bytes.buffer, at, length).set(table[name]!);
    at += length * 8;
  }
  for (const name of keys) {
    new Uint32Array(bytes.buffer, at, length).set(table[name]!);
    at += length * 4;
  }
  return bytes;
}

function decode(source: ArrayBuffer | Uint8Array, keys: readonly string[], measures: readonly string[]): Table {
  const buffer = source instanceof Uint8Array ? source.slice().buffer : source;
  const length = new Uint32Array(buffer, 0, 1)[0] as number;
  const table: Table = {};
  let at = 8;
  for (const name of measures) {
    table[name] = new Float64Array(buffer, at, length);
    at += length * 8;
  }
  for (const name of keys) {
    table[name] = new Uint32Array(buffer, at, length);
    at += length * 4;
  }
  return table;
}

/** A day's rollup as bytes to store. */
export function encodeRollup(rollup: DayRollup): Uint8Array<ArrayBuffer> {
  return encode(rollup as unknown as Table, KEYS, MEASURES);
}

/** The rollup that {@link encodeRollup} wrote. */
export function decodeRollup(bytes: ArrayBuffer | Uint8Array): DayRollup {
  return decode(bytes, KEYS, MEASURES) as unknown as DayRollup;
}

/** A day's store sales as bytes to store. */
export function encodeStore(store: DayStore): Uint8Array<ArrayBuffer> {
  return encode(store as unknown as Table, STORE_KEYS, STORE_MEASURES);
}

/** The store sales that {@link encodeStore} wrote. */
export function decodeStore(bytes: ArrayBuffer | Uint8Array): DayStore {
  return decode(bytes, STORE_KEYS, STORE_MEASURES) as unknown as DayStore;
}
