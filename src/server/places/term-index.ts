import { indexAddresses, indexTerms, type TermIndex } from "@/core/exclusions/replay";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { placesVersion } from "../channel/places";
import { remember } from "../read/memo";
import type { PastSource, RecentPast } from "../results/past-terms";
import { placeTeller } from "./place-kinds";

/**
 * The past's terms to look words up in: a listing's page is found by its code and by no word in it. Made once for what it is of;
 * not again for each change of the basket, which hardly ever tells of a page that nobody knew.
 */
export async function pastIndex(db: Database, source: PastSource, { past, stamp }: RecentPast): Promise<TermIndex> {
  const { revision } = await loadCatalogue(db, []);
  const on = [...stamp, source, revision, await placesVersion(db)];
  return remember(
    db,
    "terms by word",
    on,
    async () => {
      if (source === "placement") return indexAddresses(past.labels);
      const tell = await placeTeller(db);
      return indexTerms(past.labels, (label) => tell(label) === "listing");
    },
    2,
  );
}
