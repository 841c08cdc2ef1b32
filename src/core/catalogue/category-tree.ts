import type { Columns } from "../kit/columns";
import { addSums, noSums, type Sums } from "../kit/metrics";
import { CATEGORY_LEVELS, categoryColumn } from "../kit/categories";

/** A category with everything below it. */
export interface CategoryNode {
  /** Its levels from the top. */
  path: string[];
  items: number;
  /** Items that go on to a deeper level; the others end here. */
  deeper: number;
  children: number;
  sums: Sums;
}

/**
 * The categories of a catalogue as a tree laid flat, each before its children, the largest first.
 * @param sumsOf results of a row
 * @returns nodes with the items without any category last, under an empty path
 */
export function categoryTree(table: Columns, sumsOf: (row: number) => Sums): CategoryNode[] {
  interface Inner extends CategoryNode {
    inner: Map<string, Inner>;
  }
  const made = (path: string[]): Inner => ({
    ...{ path, items: 0, deeper: 0, children: 0, sums: noSums(), inner: new Map() },
  });
  const root = made([]);
  const none = made([]);
  const columns = Array.from({ length: CATEGORY_LEVELS }, (_, i) => table.columns[categoryColumn(i + 1)]);
  for (let row = 0; row < table.length; row++) {
    const sums = sumsOf(row);
    let at = root;
    let depth = 0;
    for (; depth < CATEGORY_LEVELS; depth++) {
      const column = columns[depth];
      const name = column?.kind === "text" ? column.values[column.codes[row]!]! : "";
      if (name === "") break;
      if (depth > 0) at.deeper++;
      let next = at.inner.get(name);
      if (!next) at.inner.set(name, (next = made([...at.path, name])));
      next.items++;
      addSums(next.sums, sums);
      at = next;
    }
    if (depth === 0) {
      none.items++;
      addSums(none.sums, sums);
    }
  }
  const flat: CategoryNode[] = [];
  const walk = (node: Inner) => {
    const children = [...node.inner.values()].sort((a, b) => b.items - a.items || (a.path < b.path ? -1 : 1));
    for (const child of children) {
      const { inner, ...shown } = child;
      flat.push({ ...shown, children: inner.size });
      walk(child);
    }
  };
  walk(root);
  if (none.items > 0) {
    const { inner: _inner, ...shown } = none;
    flat.push(shown);
  }
  return flat;
}
