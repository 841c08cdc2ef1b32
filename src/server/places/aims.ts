import type { ListingRole } from "@/core/channel/place";
import { asText } from "@/core/kit/columns";
import { aimTold, type AimTold } from "@/core/targets/aim-told";
import { brandFinder } from "@/core/targets/own-brands";
import type { Database } from "@/db/client";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { knownPlaces } from "../channel/places";
import { placeTeller } from "./place-kinds";

/** Tells what a term or page was aimed at, by all that the workspace knows. */
export async function aimTeller(db: Database): Promise<(place: string) => AimTold | undefined> {
  const { brand } = (await loadCatalogue(db, ["brand"])).columns;
  const ids = await rowsById(db);
  const roles = new Map<string, ListingRole>();
  for (const { kind, name, role } of await knownPlaces(db)) if (kind === "listing") roles.set(name, role);
  const hints = {
    kindOf: await placeTeller(db),
    isOwnBrand: brandFinder(brand ? asText(brand).values : []),
    roleOf: (listing: string) => roles.get(listing),
    isOwnPage: (listing: string) => ids.has(listing),
  };
  return (place) => aimTold(place, hints);
}
