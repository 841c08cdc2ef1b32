import type { TextColumn } from "../kit/columns";
import { type SUM_KEYS } from "../kit/metrics";
import { emptyRowSums, type RowSums } from "../results/window-sums";
import { NEVER_SEEN, onlyRead } from "./assign";
import { bandDegrees } from "./cuts";
import { JUST } from "./degrees";
import { shelfFigures, type ShelfSums } from "./figures";
import type { BandShelf, ShelfSet } from "./shelf-set";

/**
 * What a screen needs to cut a set anew by itself while a cut is dragged: the sums of every item, the values of each band's
 * metric, and which items the other shelves match. A row a catalogue item.
 */
export interface LiveSet {
  length: number;
  sums: RowSums;
  family: Uint32Array;
  price: Float64Array;
  /** How surely enough is known of each item, for bands that ask: degrees of `readDegrees`. */
  read: Uint8Array;
  /** Where each item stands now, by place in the set as it was sent; 255 for a shelf that is gone from it or no set yet. */
  now: Uint8Array;
  /** Values by metric. */
  metrics: Record<string, Float64Array>;
  /** Which items match each shelf that is no band, by shelf key. */
  masks: Record<string, Uint8Array>;
}

/**
 * A set with the numbers and names of its cuts left out, for what a screen needs hangs on the rest alone: it is the same
 * however cuts are dragged. Sound wherever the set is; in the place of cuts stand numbers that every metric takes.
 */
export function withoutCuts(set: ShelfSet): ShelfSet {
  const shelves = set.shelves.map((shelf, place) => {
    if (shelf.kind !== "band" || shelf.cut?.by !== "value") return { ...shelf, name: shelf.key };
    // Rising or falling with the place, as cuts of one metric have to.
    const at = (place + 1) / (set.shelves.length + 1);
    return { ...shelf, name: shelf.key, cut: { ...shelf.cut, at: shelf.side === "below" ? at : 1 - at } };
  });
  return { ...set, name: set.key, shelves };
}

const MEASURES = ["clicks", "cost", "orders", "revenue", "storeRevenue"] as const satisfies (keyof RowSums)[];

/** Each part begins at a whole multiple of this many bytes. */
const STEP = 8;
const padded = (size: number) => Math.ceil(size / STEP) * STEP;

type Part = [name: string, kind: "f64" | "u32" | "u8"];
const KINDS = { f64: Float64Array, u32: Uint32Array, u8: Uint8Array } as const;

/** A live set as bytes: the length of a JSON list of parts, that list, then the parts one after another. */
export function encodeLive(live: LiveSet): Uint8Array<ArrayBuffer> {
  const parts: [...Part, ArrayBufferView][] = [
    ...MEASURES.map((key): [...Part, ArrayBufferView] => [`sum ${key}`, "f64", live.sums[key]]),
    ["price", "f64", live.price],
    ...Object.entries(live.metrics).map(([name, values]): [...Part, ArrayBufferView] => [
      `metric ${name}`,
      "f64",
      values,
    ]),
    ["family", "u32", live.family],
    ["read", "u8", live.read],
    ["now", "u8", live.now],
    ...Object.entries(live.masks).map(([key, mask]): [...Part, ArrayBufferView] => [`mask ${key}`, "u8", mask]),
  ];
  const head = new TextEncoder().encode(
    JSON.stringify({ length: live.length, parts: parts.map(([name, kind]) => [name, kind]) }),
  );
  const start = padded(4 + head.length);
  const bytes = new Uint8Array(start + parts.reduce((sum, [, , view]) => sum + padded(view.byteLength), 0));
  new DataView(bytes.buffer).setUint32(0, head.length, true);
  bytes.set(head, 4);
  let at = start;
  for (const [, , view] of parts) {
    bytes.set(new Uint8Array(view.buffer, view.byteOffset, view.byteLength), at);
    at += padded(view.byteLength);
  }
  return bytes;
}

export function decodeLive(buffer: ArrayBuffer): LiveSet {
  const size = new DataView(buffer).getUint32(0, true);
  const { length, parts } = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, size))) as {
    length: number;
    parts: Part[];
  };
  const live: LiveSet = {
    ...{ length, sums: emptyRowSums(length), metrics: {}, masks: {} },
    ...{
      family: new Uint32Array(length),
      price: new Float64Array(length),
      read: new Uint8Array(length),
      now: new Uint8Array(length),
    },
  };
  let at = padded(4 + size);
  for (const [name, kind] of parts) {
    const values = new KINDS[kind](buffer, at, length);
    at += padded(values.byteLength);
    const [what, key = ""] = [name.split(" ")[0]!, name.slice(name.indexOf(" ") + 1)];
    if (what === "sum") live.sums[key as (typeof SUM_KEYS)[number]] = values as Float64Array;
    else if (what === "metric") live.metrics[key] = values as Float64Array;
    else if (what === "mask") live.masks[key] = values as Uint8Array;
    else (live[what as "family"] as unknown) = values;
  }
  return live;
}

/** A band's values: none where too little is known to count. */
function countedValues(band: BandShelf, live: LiveSet): Float64Array {
  const values = live.metrics[band.metric] ?? new Float64Array(live.length).fill(NaN);
  return band.evidence ? onlyRead(values, live.read) : values;
}

/** Where every item of a live set stands under some cuts: first match wins, the last shelf takes what is left. */
export function cutLive(set: ShelfSet, live: LiveSet): Uint8Array {
  const { cost, revenue } = live.sums;
  const shelf = new Uint8Array(live.length).fill(set.shelves.length);
  // From the last to the first, so that the first match stands in the end.
  for (let at = set.shelves.length - 1; at >= 0; at--) {
    const one = set.shelves[at]!;
    const least = one.kind === "band" ? JUST : 1;
    const hits =
      one.kind === "band"
        ? bandDegrees(one.side, one.cut, { values: countedValues(one, live), cost, revenue }, 0)
        : (live.masks[one.key] ?? new Uint8Array(live.length));
    for (let row = 0; row < hits.length; row++) if (hits[row]! >= least) shelf[row] = at;
  }
  return shelf;
}

export interface LiveFigures {
  shelves: (ShelfSums & { came: number; left: number })[];
  moved: number;
}

/** The figures of every shelf under some cuts, and who would come and leave. */
export function liveFigures(set: ShelfSet, live: LiveSet): LiveFigures {
  const shelf = cutLive(set, live);
  const count = set.shelves.length + 1;
  let most = 0;
  for (const code of live.family) if (code > most) most = code;
  // Figures only look at how many families there are, not at what they are called.
  const family: TextColumn = { kind: "text", codes: live.family, values: new Array<string>(most + 1) };
  const came = new Uint32Array(count);
  const left = new Uint32Array(count);
  let moved = 0;
  for (let row = 0; row < shelf.length; row++) {
    const [before, after] = [live.now[row]!, shelf[row]!];
    if (before === after || before === NEVER_SEEN) continue;
    moved++;
    came[after] = came[after]! + 1;
    left[before] = left[before]! + 1;
  }
  const figures = shelfFigures(live.sums, shelf, count, family, live.price);
  return { shelves: figures.map((one, at) => ({ ...one, came: came[at]!, left: left[at]! })), moved };
}
