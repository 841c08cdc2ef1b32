import { comparedWords, stem } from "@/core/channel/matching";
import { isBuyable } from "@/core/catalogue/field-changes";
import { cellText } from "@/core/kit/columns";
import type { Database } from "@/db/client";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
import { recentRows } from "../results/recent-rows";

/** An item as it is offered for a target. Money in mills, of the last 90 days. */
export interface SuggestedItem {
  id: string;
  title: string;
  image: string;
  price: number;
  orders: number;
  revenue: number;
}

/** Rows of the catalogue by the stems of their titles and categories. */
async function rowsByStem(db: Database): Promise<ReadonlyMap<string, number[]>> {
  const { columns, length, revision } = await loadCatalogue(db, ["title", "category"]);
  return remember(db, "rows by stem", [revision], () => {
    const byStem = new Map<string, number[]>();
    for (let row = 0; row < length; row++) {
      const text = ["title", "category"].map((name) => (columns[name] ? cellText(columns[name], row) : "")).join(" ");
      for (const word of new Set(comparedWords(text).map(stem))) {
        const list = byStem.get(word);
        if (list) list.push(row);
        else byStem.set(word, [row]);
      }
    }
    return byStem;
  });
}

/**
 * Items whose titles or categories hold most words of some texts, those that sold most first; sold-out ones are left out. An item
 * whose ID is given comes before them, whether it can be bought or not.
 */
export async function suggestItems(db: Database, texts: string[], limit = 30): Promise<SuggestedItem[]> {
  const byId = await itemsAsSuggested(
    db,
    texts.map((text) => text.trim()),
  );
  const byWords = await itemsByWords(db, texts, limit);
  const ids = new Set(byId.map(({ id }) => id));
  return [...byId, ...byWords.filter(({ id }) => !ids.has(id))].slice(0, Math.max(limit, byId.length));
}

/** Items by their IDs, in the order given; IDs that no item has are left out. */
export async function itemsAsSuggested(db: Database, ids: readonly string[]): Promise<SuggestedItem[]> {
  const rows = await rowsById(db);
  return asSuggested(
    db,
    [...new Set(ids)].flatMap((id) => rows.get(id) ?? []),
  );
}

async function itemsByWords(db: Database, texts: string[], limit: number): Promise<SuggestedItem[]> {
  const byStem = await rowsByStem(db);
  const hits = new Map<number, number>();
  for (const text of texts) {
    const own = new Map<number, number>();
    const words = [...new Set(comparedWords(text).map(stem))];
    for (const word of words) for (const row of byStem.get(word) ?? []) own.set(row, (own.get(row) ?? 0) + 1);
    for (const [row, found] of own) hits.set(row, Math.max(hits.get(row) ?? 0, found / words.length));
  }
  const { columns } = await loadCatalogue(db, ["availability"]);
  const rows = await recentRows(db);
  const revenue = (row: number) => rows?.revenue[row] ?? 0;
  const found = [...hits]
    .filter(([row]) => !columns["availability"] || isBuyable(cellText(columns["availability"], row)))
    .sort((a, b) => b[1] - a[1] || revenue(b[0]) - revenue(a[0]) || a[0] - b[0])
    .slice(0, limit);
  return asSuggested(
    db,
    found.map(([row]) => row),
  );
}

async function asSuggested(db: Database, found: readonly number[]): Promise<SuggestedItem[]> {
  const { columns } = await loadCatalogue(db, ["id", "title", "image", "price"]);
  const rows = await recentRows(db);
  const text = (name: string, row: number) => (columns[name] ? cellText(columns[name], row) : "");
  return found.map((row) => ({
    ...{ id: text("id", row), title: text("title", row), image: text("image", row) },
    price: columns["price"]?.kind === "number" ? columns["price"].values[row]! : 0,
    ...{ orders: rows?.orders[row] ?? 0, revenue: rows?.revenue[row] ?? 0 },
  }));
}
