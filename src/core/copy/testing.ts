import type { Units } from "./units";

/** For tests: every row an ad group of its own, and all can be bought. */
export function singleItems(count: number): Units {
  const rows = Uint32Array.from({ length: count }, (_, row) => row);
  const start = Uint32Array.from({ length: count + 1 }, (_, at) => at);
  return { count, node: Int32Array.from(rows), start, rows, sellable: new Uint8Array(count).fill(1) };
}

/** For tests: ad groups of rows that follow each other. @param sold rows that can't be bought */
export function groupsOf(sizes: number[], sold: number[] = []): Units {
  const start = new Uint32Array(sizes.length + 1);
  sizes.forEach((size, at) => (start[at + 1] = start[at]! + size));
  const length = start[sizes.length]!;
  const sellable = new Uint8Array(length).fill(1);
  for (const row of sold) sellable[row] = 0;
  return {
    ...{ count: sizes.length, node: Int32Array.from(sizes.keys()), start, sellable },
    rows: Uint32Array.from({ length }, (_, row) => row),
  };
}
