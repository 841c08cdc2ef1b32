import { cellText, type Columns } from "../../kit/columns";
import type { Aim } from "../../targets/aims";
import type { Planogram } from "../planogram";

/** Pages aimed at in one ad group. */
const MOST_PAGES = 1000;
/** What stands between the steps of a category's path. */
const STEP = " > ";

/** Columns of the catalogue that {@link pagesOf} reads. */
export const PAGE_COLUMNS = ["id", "category", "price"];

/** What a planned listing campaign aims at in an ad group that shows these rows: its own items' pages, or windows of their categories. */
export function pagesOf(
  { aim, dearerFrom, ratingTo }: NonNullable<Planogram["pages"]>,
  { columns }: Columns,
  rows: number[],
): Aim[] {
  if (aim === "own") {
    const { id } = columns;
    return id ? rows.slice(0, MOST_PAGES).map((row) => ({ what: "listing", listing: cellText(id, row) })) : [];
  }
  const { category, price } = columns;
  if (!category) return [];
  const middle = price?.kind === "number" ? middleOf(rows.map((row) => price.values[row]!)) : null;
  const priceFrom = dearerFrom !== null && middle !== null ? Math.round(middle * dearerFrom) : null;
  return categoriesOver(rows.map((row) => cellText(category, row))).map((above) => ({
    what: "window",
    window: { by: "category", category: above, priceFrom, priceTo: null, ratingFrom: null, ratingTo, reviewsTo: null },
  }));
}

/** The categories that hold all of these: the deepest they share, or where they share none, the top one of each. */
export function categoriesOver(categories: string[]): string[] {
  const known = [...new Set(categories)].filter((category) => category !== "");
  if (known.length === 0) return [];
  const paths = known.map((category) => category.split(STEP));
  const [first] = paths as [string[], ...string[][]];
  let shared = 0;
  while (shared < first.length && paths.every((path) => path[shared] === first[shared])) shared++;
  if (shared > 0) return [first.slice(0, shared).join(STEP)];
  return [...new Set(paths.map(([top]) => top!))].sort();
}

/** The value that half of them lie below, mills; null where there is none above zero. */
function middleOf(prices: number[]): number | null {
  const known = prices.filter((price) => price > 0).sort((a, b) => a - b);
  return known.length === 0 ? null : known[Math.floor((known.length - 1) / 2)]!;
}
