import type { Account } from "../account/account";
import { comparedWords, matches } from "../channel/matching";
import type { Surface, World } from "./world-types";

/** Where nothing of ours may show, by place: the scopes that negatives, or asset groups' own choice, keep out of it, "" for everywhere. */
export function blockedSurfaces(world: World, source: Account): Map<number, Set<string>> {
  const blocked = new Map<number, Set<string>>();
  const negatives = source.all("negative");
  // Asset groups that leave own-brand terms to others.
  const modest = source.all("assets").filter(({ ownBrand }) => !ownBrand);
  if (negatives.length === 0 && modest.length === 0) return blocked;
  const block = (surface: Surface, scope: string | null) => {
    const scopes = blocked.get(surface.id) ?? new Set<string>();
    blocked.set(surface.id, scopes.add(scope ?? ""));
  };
  for (const { adGroup } of modest) {
    for (const surface of world.surfaces) if (surface.queryClass === "own-brand") block(surface, adGroup);
  }
  if (negatives.length === 0) return blocked;
  const words = new Map(
    world.surfaces.filter(({ kind }) => kind === "query").map((surface) => [surface, comparedWords(surface.label)]),
  );
  for (const { what, match, value, scope } of negatives) {
    if (what === "term") {
      const own = comparedWords(value);
      for (const [surface, query] of words) if (matches(own, query, match)) block(surface, scope);
      continue;
    }
    for (const surface of world.surfaces) {
      if (what === "placement" ? surface.kind !== "placement" : surface.listing === null) continue;
      if ((surface.listing?.id ?? surface.label) === value) block(surface, scope);
    }
  }
  return blocked;
}
