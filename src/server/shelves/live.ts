import { paidPrices } from "@/core/catalogue/margins";
import { asText } from "@/core/kit/columns";
import { ok, type Outcome } from "@/core/kit/outcome";
import { NEVER_SEEN, readDegrees, shelfDegrees } from "@/core/shelves/assign";
import { JUST } from "@/core/shelves/degrees";
import { encodeLive, type LiveSet } from "@/core/shelves/live";
import { shelvesOf, type ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { loadWindow } from "../results/load";
import { loadShelfInputs, windowOf } from "./inputs";
import { findShelfSet } from "./sets";
import { viewShelfSet } from "./view";

/** What a screen needs to cut a set anew by itself, as bytes. */
export async function liveSet(db: Database, set: ShelfSet): Promise<Outcome<Uint8Array<ArrayBuffer>>> {
  const window = await windowOf(db, set);
  const inputs = await loadShelfInputs(db, set, window);
  const sums = window ? (await loadWindow(db, window)).rows : inputs.sums;
  const catalogue = await loadCatalogue(db, ["price", "salePrice", "family"]);
  const degrees = shelfDegrees(set, inputs);
  const live: LiveSet = {
    ...{ length: inputs.numbers.length, sums, price: paidPrices(catalogue) },
    family: catalogue.columns["family"]
      ? asText(catalogue.columns["family"]).codes
      : new Uint32Array(inputs.numbers.length),
    read: readDegrees(set, inputs),
    now: await placesNow(db, set, inputs.numbers.length),
    ...{ metrics: {}, masks: {} },
  };
  set.shelves.forEach((shelf, at) => {
    if (shelf.kind === "band") {
      const column = inputs.column(shelf.metric);
      if (column?.kind === "number") live.metrics[shelf.metric] = column.values;
    } else live.masks[shelf.key] = degrees[at]!.map((degree) => (degree >= JUST ? 1 : 0));
  });
  return ok(encodeLive(live));
}

/** Where each row stands now, by its place in a set that is being edited. */
async function placesNow(db: Database, set: ShelfSet, length: number): Promise<Uint8Array> {
  const none = new Uint8Array(length).fill(NEVER_SEEN);
  if (!(await findShelfSet(db, set.key))) return none;
  const view = await viewShelfSet(db, set.key);
  if (!view.ok) return none;
  const placeOf = new Map(shelvesOf(set).map(({ key }, place) => [key, place]));
  const places = view.value.shelves.map(({ key }) => placeOf.get(key) ?? NEVER_SEEN);
  return view.value.shelfOf.map((place) => places[place]!);
}
