import { kindServed, placeKindOf, type TermOrListing } from "@/core/targets/place-kind";
import { TARGET_TYPES, type Target } from "@/core/account/records";
import type { Database } from "@/db/client";
import { readAccount } from "../account/state";
import { loadCatalogue } from "../catalogue/load";
import { knownPlaces, placesVersion } from "../channel/places";
import { remember } from "../read/memo";
import { loadCodes, resultsVersion } from "../results/load";
import { recentPast } from "../results/past-terms";
import { rowsById } from "../catalogue/item-rows";
import { traitValues } from "../results/traits";

/** Tells terms from pages of listings, by all that the workspace knows; null where somebody has to say. */
export type PlaceTeller = (text: string) => TermOrListing | null;

export async function placeTeller(db: Database): Promise<PlaceTeller> {
  const { planned, version } = await readAccount(db);
  const { revision } = await loadCatalogue(db, []);
  const stamp = [version, revision, await resultsVersion(db), await placesVersion(db)];
  return remember(db, "place kinds", stamp, async () => {
    const ids = await rowsById(db);
    const [listings, queries] = [new Set<string>(), new Set<string>()];
    for (const { kind, name } of await knownPlaces(db)) (kind === "listing" ? listings : queries).add(name);
    for (const { aim } of planned.all("listingTarget")) if (aim.by === "listing") listings.add(aim.listing);
    const [asTerm, asListing] = await servedPlaces(db, (key) => {
      const record = planned.get(key);
      return record && (TARGET_TYPES as readonly string[]).includes(record.type) ? (record as Target) : undefined;
    });
    return (text) =>
      placeKindOf(text, {
        isListing: (one) => listings.has(one) || ids.has(one),
        isQuery: (one) => queries.has(one),
        served: (one) => ({ asTerm: asTerm.has(one), asListing: asListing.has(one) }),
      });
  });
}

/** Places at which something served that reaches terms alone, and those where it reaches pages alone. */
async function servedPlaces(db: Database, targetOf: (key: string) => Target | undefined) {
  const found: [Set<string>, Set<string>] = [new Set(), new Set()];
  const recent = await recentPast(db, "term");
  if (!recent) return found;
  const { texts } = await loadCodes(db);
  const matchTypes = new Map<string, string>();
  for (const [code, value] of await traitValues(db, "matchType")) matchTypes.set(texts.get(code) ?? "", value);
  const { labels, term, target } = recent.past;
  const kinds = new Map<string, TermOrListing | null>();
  for (let line = 0; line < term.length; line++) {
    const key = target[line]!;
    let kind = kinds.get(key);
    if (kind === undefined) kinds.set(key, (kind = kindServed(targetOf(key), matchTypes.get(key))));
    if (kind) found[kind === "term" ? 0 : 1].add(labels[term[line]!]!);
  }
  return found;
}

/** What each of some texts is. */
export async function tellPlaces(
  db: Database,
  values: readonly string[],
): Promise<{ kinds: (TermOrListing | null)[] }> {
  const tell = await placeTeller(db);
  return { kinds: values.map((value) => tell(value.trim())) };
}
