import { plural } from "@/core/kit/format";
import { bandInputs, readDegrees } from "@/core/shelves/assign";
import { cutValue, spreadOf } from "@/core/shelves/cuts";
import { metricLabel } from "@/core/shelves/shelf-metrics";
import { shelvesOf } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { loadShelfInputs } from "./inputs";
import { findShelfSet } from "./sets";
import { viewShelfSet, type ShelfSetView } from "./view";

/** Who would move if a previewed set were kept: by place in it, and altogether. Null where there is no such set yet. */
export async function movesTo(
  db: Database,
  view: ShelfSetView,
): Promise<{ moved: number; byPlace: { came: number; left: number }[] } | null> {
  const { definition, shelfOf } = view;
  if (!(await findShelfSet(db, definition.key))) return null;
  const now = await viewShelfSet(db, definition.key);
  if (!now.ok) return null;
  const placeOf = new Map(shelvesOf(definition).map(({ key }, place) => [key, place]));
  const nowAt = now.value.shelves.map(({ key }) => placeOf.get(key) ?? -1);
  const byPlace = shelvesOf(definition).map(() => ({ came: 0, left: 0 }));
  let moved = 0;
  shelfOf.forEach((place, row) => {
    const before = nowAt[now.value.shelfOf[row]!]!;
    if (before === place) return;
    moved++;
    byPlace[place]!.came++;
    if (before >= 0) byPlace[before]!.left++;
  });
  return { moved, byPlace };
}

/** Where the cuts of a set fall today, and what can't be told apart by them. */
export async function cutsOf(
  db: Database,
  { definition, window }: ShelfSetView,
): Promise<{ at: (number | null)[]; warnings: string[] }> {
  const inputs = await loadShelfInputs(db, definition, window);
  const read = readDegrees(definition, inputs);
  const warnings: string[] = [];
  const told = new Set<string>();
  const at = definition.shelves.map((shelf) => {
    if (shelf.kind !== "band") return null;
    const counted = bandInputs(shelf, read, inputs);
    if (!told.has(shelf.metric)) {
      told.add(shelf.metric);
      const { known, least, most } = spreadOf(counted.values);
      const label = metricLabel(shelf.metric);
      const whose = shelf.evidence ? "no item of which enough is known has one" : "no item has one";
      if (known === 0) warnings.push(`${label}: ${whose}, so nothing comes to these shelves.`);
      else if (known === 1) warnings.push(`${label}: only one item has one.`);
      else if (least === most)
        warnings.push(
          `${label} is the same for all ${plural(known, "item")} that have it: there is nothing to divide.`,
        );
      else if (shelf.metric === "paid" && most < least * 1.5) {
        warnings.push(
          "Prices hardly differ: the dearest item costs less than half as much again as the cheapest, so a split by price hardly pays.",
        );
      }
    }
    return shelf.cut ? cutValue(shelf.cut, counted) : null;
  });
  return { at, warnings };
}
