import { rowIndex } from "../results/window-sums";
import { NEVER_SEEN, WHY, type Assigned } from "./assign";

/**
 * Items that changed shelf in one recompute, as columns. Shelves by their codes, which stay when shelves are put in another
 * order; `NEVER_SEEN` stands for not in the catalogue (before it came, or after it left).
 */
export interface Moves {
  item: Uint32Array;
  from: Uint8Array;
  to: Uint8Array;
  why: Uint8Array;
  /** The set's main metric at that time; NaN where it has none. */
  value: Float32Array;
}

/** Bytes a move takes: item number, two codes, the reason, the value. */
const SIZE = 11;

/** Moves as bytes, column after column. */
export function encodeMoves({ item, from, to, why, value }: Moves): Uint8Array {
  const count = item.length;
  const bytes = new Uint8Array(count * SIZE);
  new Uint32Array(bytes.buffer, 0, count).set(item);
  new Float32Array(bytes.buffer, count * 4, count).set(value);
  bytes.set(from, count * 8);
  bytes.set(to, count * 9);
  bytes.set(why, count * 10);
  return bytes;
}

export function decodeMoves(stored: Uint8Array): Moves {
  // A copy of its own, since typed arrays need their first byte at a whole place.
  const bytes = new Uint8Array(stored);
  const count = bytes.length / SIZE;
  return {
    item: new Uint32Array(bytes.buffer, 0, count),
    value: new Float32Array(bytes.buffer, count * 4, count),
    from: bytes.subarray(count * 8, count * 9),
    to: bytes.subarray(count * 9, count * 10),
    why: bytes.subarray(count * 10, count * 11),
  };
}

/** A membership by item number: what a set keeps between recomputes. */
export interface Members {
  item: ArrayLike<number>;
  /** Codes of shelves. */
  shelf: ArrayLike<number>;
}

/** Whether two memberships are of the same items in the same order, as they mostly are: then there is nothing to look up. */
export function sameItems(a: ArrayLike<number>, b: ArrayLike<number>): boolean {
  if (a.length !== b.length) return false;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

/**
 * What changed between two memberships.
 * @param before the membership as it was kept
 * @param after that of the items in the catalogue now, with why each stands where it does
 * @param value the set's main metric of each row now, or null
 * @param why overrides the reasons, as for a set that was edited
 */
export function movesBetween(
  before: Members,
  after: Members & { why: ArrayLike<number> },
  value: ArrayLike<number> | null,
  why: number | null = null,
): Moves {
  const stood = new Uint8Array(after.item.length).fill(NEVER_SEEN);
  const gone: [number, number][] = [];
  const isSame = sameItems(before.item, after.item);
  if (isSame) stood.set(Uint8Array.from(before.shelf));
  const index = isSame ? new Int32Array(0) : rowIndex(after.item);
  for (let i = isSame ? before.item.length : 0; i < before.item.length; i++) {
    const no = before.item[i]!;
    const row = no < index.length ? index[no]! : -1;
    if (row >= 0) stood[row] = before.shelf[i]!;
    else if (before.shelf[i] !== NEVER_SEEN) gone.push([no, before.shelf[i]!]);
  }
  const rows: number[] = [];
  for (let row = 0; row < stood.length; row++) if (stood[row] !== after.shelf[row]) rows.push(row);
  const count = rows.length + gone.length;
  const moves: Moves = {
    item: new Uint32Array(count),
    from: new Uint8Array(count).fill(NEVER_SEEN),
    to: new Uint8Array(count).fill(NEVER_SEEN),
    why: new Uint8Array(count).fill(WHY.left),
    value: new Float32Array(count).fill(NaN),
  };
  rows.forEach((row, at) => {
    moves.item[at] = after.item[row]!;
    moves.from[at] = stood[row]!;
    moves.to[at] = after.shelf[row]!;
    moves.why[at] = stood[row] === NEVER_SEEN ? WHY.arrived : (why ?? after.why[row]!);
    moves.value[at] = value?.[row] ?? NaN;
  });
  gone.forEach(([no, code], i) => {
    moves.item[rows.length + i] = no;
    moves.from[rows.length + i] = code;
  });
  return moves;
}

/** Where every item stood before some moves, taken back latest first. `shelf` by item number, written to in place. */
export function takeBack(shelf: Map<number, number>, moves: Moves): void {
  for (let at = 0; at < moves.item.length; at++) {
    if (moves.from[at] === NEVER_SEEN) shelf.delete(moves.item[at]!);
    else shelf.set(moves.item[at]!, moves.from[at]!);
  }
}

/** Moves of several recomputes as one: each item from where it first was to where it last came; those that came back are left out. */
export function joinMoves(all: Moves[]): Moves {
  const first = new Map<number, number>();
  const last = new Map<number, [to: number, why: number, value: number]>();
  for (const { item, from, to, why, value } of all) {
    for (let at = 0; at < item.length; at++) {
      if (!first.has(item[at]!)) first.set(item[at]!, from[at]!);
      last.set(item[at]!, [to[at]!, why[at]!, value[at]!]);
    }
  }
  const kept = [...last].filter(([no, [to]]) => first.get(no) !== to);
  return {
    item: Uint32Array.from(kept, ([no]) => no),
    from: Uint8Array.from(kept, ([no]) => first.get(no)!),
    to: Uint8Array.from(kept, ([, [to]]) => to),
    why: Uint8Array.from(kept, ([, [, why]]) => why),
    value: Float32Array.from(kept, ([, [, , value]]) => value),
  };
}

/** Why an item moved, in words. @param bound what it went past: the cut, or the least that must be known to be read */
export function whyWords(why: number, patience: number, bound = "the cut"): string {
  switch (why) {
    case WHY.clear:
      return `clearly past ${bound}`;
    case WHY.patience:
      return `${patience} days in a row past ${bound}`;
    case WHY.edited:
      return "the set was changed";
    case WHY.arrived:
      return "first seen";
    case WHY.left:
      return "left the catalogue";
    default:
      return "";
  }
}

/**
 * Codes that stay with shelves, by their keys: those known keep theirs, new ones get the next free. Where a set has had more
 * shelves in its life than there are codes, those of shelves that are gone are given out again.
 */
export function codesFor(keys: string[], known: Readonly<Record<string, number>>): Record<string, number> {
  const fresh = keys.filter((key) => !Object.hasOwn(known, key));
  const isFull = Object.keys(known).length + fresh.length > MOST_CODES;
  const codes = Object.fromEntries(Object.entries(known).filter(([key]) => !isFull || keys.includes(key)));
  const used = new Set(Object.values(codes));
  let code = 0;
  for (const key of fresh) {
    while (used.has(code)) code++;
    codes[key] = code;
    used.add(code);
  }
  return codes;
}

/** Codes a set can ever give out; above it stand marks. */
export const MOST_CODES = 250;

/** A memory's shelves by code. */
export function byCode(assigned: Pick<Assigned, "shelf">, codeOfPlace: number[]): Uint8Array {
  return assigned.shelf.map((place) => (place === NEVER_SEEN ? NEVER_SEEN : codeOfPlace[place]!));
}
