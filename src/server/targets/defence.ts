import { recordName } from "@/core/account/names";
import { cellText } from "@/core/kit/columns";
import { ok, type Outcome } from "@/core/kit/outcome";
import { heldPlaces, type Held } from "@/core/targets/defence";
import { ledgerKey, type LedgerEntry } from "@/core/targets/ledger";
import type { Database } from "@/db/client";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { knownPlaces, rateBook } from "../channel/places";
import type { WorkspaceInfo } from "../workspaces";
import { loadLedger } from "./ledger";

/** A page or search of our own as a list shows it. Money in mills. */
export interface DefenceLine extends Held {
  key: string;
  /** Of a page: what it is of. */
  title: string;
  /** Mills a click where half of the auctions are won; null where nobody told. */
  typicalCpc: number | null;
  /** Where it stands in the ledger; null where nothing is aimed at it by name. */
  entry: LedgerEntry | null;
}

export interface DefenceView {
  lines: DefenceLine[];
  days: number;
}

/** Our own pages and searches with our brands: who looks there, how much of it we hold, what that costs, and what defends it. */
export async function viewDefence(db: Database, info: WorkspaceInfo): Promise<Outcome<DefenceView>> {
  const ledger = await loadLedger(db, info);
  if (!ledger.ok) return ledger;
  const { all, lines } = ledger.value;
  const { ground } = all;
  const told = await knownPlaces(db);
  const rows = await rowsById(db);
  const title = (await loadCatalogue(db, ["title"])).columns["title"];
  const book = await rateBook(db);
  const seen = lines.filter(({ clicks }) => clicks > 0);
  type Own = Pick<Held, "place" | "what" | "monthlyViews">;
  const places: Own[] = [
    ...told.flatMap(({ kind, name, role, monthlyViews }): Own[] => {
      if (kind === "listing" && (role === "own" || rows.has(name)))
        return [{ place: name, what: "page", monthlyViews }];
      return kind === "query" && ground.isOwnBrand(name) ? [{ place: name, what: "brand", monthlyViews }] : [];
    }),
    // What nobody told of and reports name: views are not known there.
    ...seen.flatMap(({ place, what }): Own[] => {
      if (what === "listing" && rows.has(place)) return [{ place, what: "page", monthlyViews: null }];
      return what === "term" && ground.isOwnBrand(place) ? [{ place, what: "brand", monthlyViews: null }] : [];
    }),
  ];
  const entries = new Map(lines.map(({ key, entry }) => [key, entry]));
  const nameOf = (key: string) => {
    const record = ground.account.get(key);
    return record ? recordName(ground.account, record) : key;
  };
  const held = heldPlaces(places, ground.places, ground.days).map((one): DefenceLine => {
    const key = ledgerKey(one.what === "page" ? "listing" : "term", one.place);
    const row = rows.get(one.place);
    return {
      ...{ ...one, key, campaigns: one.campaigns.map(nameOf), entry: entries.get(key) ?? null },
      title: one.what === "page" && row !== undefined && title ? cellText(title, row) : "",
      typicalCpc: (one.what === "page" ? book.listing(one.place) : book.keyword(one.place, "exact"))?.typical ?? null,
    };
  });
  held.sort((a, b) => (b.monthlyViews ?? -1) - (a.monthlyViews ?? -1) || (a.key < b.key ? -1 : 1));
  return ok({ lines: held, days: ground.days });
}
