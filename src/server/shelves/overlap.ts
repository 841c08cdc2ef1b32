import { z } from "zod";
import { ok, type Outcome } from "@/core/kit/outcome";
import { emptyRowSums } from "@/core/results/window-sums";
import { overlap, type OverlapCell } from "@/core/shelves/figures";
import type { Database } from "@/db/client";
import { viewShelfSet } from "./view";

export const overlapSchema = z.object({ first: z.string().max(40), second: z.string().max(40) });

export interface Overlap {
  /** Days of the first set's window, which the figures are of. */
  days: number;
  rows: { key: string; name: string; value: string }[];
  columns: { key: string; name: string; value: string }[];
  /** `cells[row][column]`; money in mills. */
  cells: OverlapCell[][];
}

/** Two sets laid over each other, with the results of the first one's window. */
export async function shelfOverlap(
  db: Database,
  { first, second }: z.infer<typeof overlapSchema>,
): Promise<Outcome<Overlap>> {
  const [a, b] = [await viewShelfSet(db, first), await viewShelfSet(db, second)];
  if (!a.ok) return a;
  if (!b.ok) return b;
  const plain = (view: typeof a.value) => view.shelves.map(({ key, name, value }) => ({ key, name, value }));
  const side = ({ shelfOf, shelves }: typeof a.value) => ({ shelf: shelfOf, count: shelves.length });
  return ok({
    days: a.value.definition.windowDays,
    ...{ rows: plain(a.value), columns: plain(b.value) },
    cells: overlap(side(a.value), side(b.value), a.value.results?.rows ?? emptyRowSums(a.value.shelfOf.length)),
  });
}
