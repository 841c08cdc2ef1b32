import { z } from "zod";
import { comparedWords, stem } from "@/core/channel/matching";
import { cellText } from "@/core/kit/columns";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { worthsOf } from "@/core/bids/worths";
import { keywordPool, type PoolTerm } from "@/core/targets/keyword-pool";
import { ledgerKey, type LedgerEntry } from "@/core/targets/ledger";
import type { Database } from "@/db/client";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { knownPlaces, rateBook } from "../channel/places";
import { loadMoves } from "../moves/moves";
import { placeTeller } from "../places/place-kinds";
import type { WorkspaceInfo } from "../workspaces";
import { loadLedger } from "./ledger";

/** Items that a pool is made for at most. */
const MOST_ITEMS = 1_000;
const MOST_TERMS = 5_000;

export const poolSchema = z.object({
  /** A whole category path, or the beginning of one; or items by their IDs. */
  category: z.string().max(500).default(""),
  items: z.array(z.string().max(500)).max(MOST_ITEMS).default([]),
});

/** A candidate with what it did so far and where it stands. Money in mills. */
export interface KeywordLine extends PoolTerm {
  key: string;
  clicks: number;
  cost: number;
  orders: number;
  revenue: number;
  entry: LedgerEntry | null;
}

export interface KeywordPool {
  lines: KeywordLine[];
  /** Items that it is for, and how many of them were looked at. */
  items: number;
  looked: number;
  /** Categories of the catalogue with how many items each has. */
  categories: { name: string; items: number }[];
}

/** The pool of keywords of a category or of items: from the channel, from results, from titles; with use and results beside each. */
export async function viewPool(
  db: Database,
  info: WorkspaceInfo,
  asked: z.output<typeof poolSchema>,
): Promise<Outcome<KeywordPool>> {
  const { columns, length } = await loadCatalogue(db, ["title", "brand", "category"]);
  const text = (name: string, row: number) => (columns[name] ? cellText(columns[name], row) : "");
  const counts = new Map<string, number>();
  for (let row = 0; row < length; row++)
    counts.set(text("category", row), (counts.get(text("category", row)) ?? 0) + 1);
  const categories = [...counts]
    .map(([name, items]) => ({ name, items }))
    .sort((a, b) => b.items - a.items || (a.name < b.name ? -1 : 1));
  const rows: number[] = [];
  if (asked.items.length > 0) {
    const byId = await rowsById(db);
    const gone = asked.items.find((id) => !byId.has(id));
    if (gone !== undefined) return fail("pool-item-gone", `The catalogue has no item “${gone}”.`, "Leave it out.");
    rows.push(...asked.items.map((id) => byId.get(id)!));
  } else {
    const category = asked.category || (categories[0]?.name ?? "");
    for (let row = 0; row < length; row++) if (text("category", row) === category) rows.push(row);
  }
  const looked = rows.slice(0, MOST_ITEMS);
  const items = looked.map((row) => ({
    title: text("title", row),
    brand: text("brand", row),
    category: text("category", row),
  }));
  const own = new Set(items.map(({ category }) => category));
  const told = (await knownPlaces(db)).filter(({ category }) => own.has(category));
  const words = new Set(items.flatMap(({ title, brand, category }) => stemsOf(`${title} ${brand} ${category}`)));
  const seen = await seenTerms(db, info, new Set(rows), words);
  const pool = keywordPool(items, told, seen, await brandsOf(db));
  const book = await rateBook(db);
  const ledger = await loadLedger(db, info);
  const known = new Map(ledger.ok ? ledger.value.lines.map((line) => [line.key, line]) : []);
  const lines = pool.map((term): KeywordLine => {
    const key = ledgerKey("term", term.text);
    const line = known.get(key);
    const card = term.typical === null ? book.keyword(term.text, "exact") : null;
    // Whoever told of it: people searched so and clicked.
    if (line && line.clicks > 0 && !term.origins.includes("results")) term.origins.push("results");
    const { clicks = 0, cost = 0, orders = 0, revenue = 0, entry = null } = line ?? {};
    return {
      ...term,
      ...(card && { monthlyViews: card.monthlyViews, low: card.low, typical: card.typical, high: card.high }),
      ...{ key, clicks, cost, orders, revenue, entry },
    };
  });
  const byViews = (line: KeywordLine) => line.monthlyViews ?? -1;
  lines.sort((a, b) => b.relevance - a.relevance || byViews(b) - byViews(a) || (a.key < b.key ? -1 : 1));
  return ok({ lines: lines.slice(0, MOST_TERMS), items: rows.length, looked: looked.length, categories });
}

const stemsOf = (text: string) => comparedWords(text).map(stem);

/**
 * Terms of the past that mostly led to some rows, or whose every word one of them has: clicks of a campaign for everything are spread
 * over all that it shows, so that by them hardly a term leads to one category.
 */
async function seenTerms(
  db: Database,
  info: WorkspaceInfo,
  rows: ReadonlySet<number>,
  words: ReadonlySet<string>,
): Promise<string[]> {
  const moves = await loadMoves(db, info);
  if (!moves.ok) return [];
  const tell = await placeTeller(db);
  return [...worthsOf(moves.value.ground).places.values()].flatMap(({ place, clicksOf }) => {
    let [here, all] = [0, 0];
    for (const [row, clicks] of clicksOf) {
      all += clicks;
      if (rows.has(row)) here += clicks;
    }
    const isTheirs = (all > 0 && here / all >= 0.5) || stemsOf(place).every((word) => words.has(word));
    return isTheirs && tell(place) === "term" ? [place] : [];
  });
}

async function brandsOf(db: Database): Promise<ReadonlySet<string>> {
  const column = (await loadCatalogue(db, ["brand"])).columns["brand"];
  return new Set(column?.kind === "text" ? column.values.flatMap((brand) => comparedWords(brand)) : []);
}
