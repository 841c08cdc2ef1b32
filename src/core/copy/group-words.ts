import { comparedWords, stem } from "../channel/matching";
import { categoryLevels } from "../kit/categories";
import { cellText, type Column, type Columns } from "../kit/columns";
import { cleanedValue } from "./clean";
import { rowsOf, type Units } from "./units";

/** Names or words in a list that one reads at a glance. */
const MOST_LISTED = 3;
/** A word that more of an ad group's titles have tells none of them apart; one that fewer have is too particular. */
const MOST_SHARE = 0.7;
const LEAST_SHARE = 0.08;

/** The brands of an ad group's items, those with most items first: "Ottersby, Pelldew, Sunhatch"; "" where there is but one. */
export function brandsOf(units: Units, unit: number, brand: Column | undefined): string {
  if (!brand || isSingle(units, unit)) return "";
  const counts = new Map<string, number>();
  for (const row of rowsOf(units, unit)) {
    if (!units.sellable[row]) continue;
    const name = cleanedValue(cellText(brand, row));
    if (name !== "") counts.set(name, (counts.get(name) ?? 0) + 1);
  }
  return counts.size < 2 ? "" : mostCommon(counts).slice(0, MOST_LISTED).join(", ");
}

/** The words of titles that tell an ad group's items apart, most common first: "Spiral, flat, reinforced"; "" where there are less than two. */
export function stylesOf(units: Units, unit: number, { columns }: Columns): string {
  const { title, brand, category } = columns;
  if (!title || isSingle(units, unit)) return "";
  const counts = new Map<string, number>();
  let items = 0;
  for (const row of rowsOf(units, unit)) {
    if (!units.sellable[row]) continue;
    items++;
    const kind = category ? (categoryLevels(cellText(category, row)).at(-1) ?? "") : "";
    const known = new Set(comparedWords(`${kind} ${brand ? cellText(brand, row) : ""}`).map(stem));
    const words = new Set(comparedWords(cleanedValue(cellText(title, row))));
    for (const word of words) {
      if (word.length < 4 || /\d/.test(word) || known.has(stem(word))) continue;
      counts.set(word, (counts.get(word) ?? 0) + 1);
    }
  }
  for (const [word, count] of counts)
    if (count < 2 || count > items * MOST_SHARE || count < items * LEAST_SHARE) counts.delete(word);
  const found = mostCommon(counts).slice(0, MOST_LISTED);
  if (found.length < 2) return "";
  const listed = found.join(", ");
  return listed.charAt(0).toUpperCase() + listed.slice(1);
}

const isSingle = ({ start }: Units, unit: number) => start[unit + 1]! - start[unit]! < 2;

function mostCommon(counts: ReadonlyMap<string, number>): string[] {
  return [...counts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1)).map(([word]) => word);
}
