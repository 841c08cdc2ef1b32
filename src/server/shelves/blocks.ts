import { cellText } from "@/core/kit/columns";
import { shelfSetOf } from "@/core/account/records/labels";
import { columnLabel } from "@/core/catalogue/catalogue-columns";
import type { Heat } from "@/core/evidence/heat";
import { formatDay } from "@/core/kit/days";
import type { Sums } from "@/core/kit/metrics";
import { ok, type Outcome } from "@/core/kit/outcome";
import type { ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import type { WorkspaceInfo } from "../workspaces";
import { cutsOf, movesTo } from "./preview";
import { loadHeat } from "../evidence/items";
import { viewShelfSet, type ShelfFigures, type ShelfSetView } from "./view";
import { wentOn, type WentOn } from "./went-on";

/** An item as a block on its shelf: width by spend, height by sales. Money in mills. */
export interface Block {
  id: string;
  title: string;
  cost: number;
  revenue: number;
  orders: number;
  clicks: number;
  /** How it does against its goal in the set's window. */
  heat: Heat;
}

/** A shelf of a page, with what would come to it and leave it where the page is a preview. */
interface PageShelf extends ShelfFigures {
  blocks: Block[];
  more: number;
  moves: { came: number; left: number } | null;
  /** Where its cut falls, in the metric's own unit; null without a cut by value. */
  cutAt: number | null;
}

export interface ShelfSetPage {
  definition: ShelfSet;
  computedAt: number | null;
  from: string | null;
  to: string | null;
  goal: number;
  total: Sums;
  items: number;
  shelves: PageShelf[];
  /** Items that would stand elsewhere than they do now, where the page is a preview of a set that there is. */
  moved: number | null;
  held: ShelfSetView["held"];
  /** Of the set on an earlier day: what has left the catalogue since, and what came. */
  since: ShelfSetView["since"];
  missing: string[];
  warnings: string[];
  /** Of a set by raw return, what its shelves of earlier days went on to do. */
  wentOn: WentOn | null;
}

/** What a field or set that is gone was called. */
function nameOf(name: string): string {
  const set = shelfSetOf(name);
  return set === null ? columnLabel(name) : `the shelves of ${set}`;
}

/** Blocks drawn one by one on a shelf; the rest is told as a number. */
const MOST_BLOCKS = 60;

/** A shelf set as its page shows it: figures, and the items that take the most money on each shelf. */
export async function shelfBlocks(
  db: Database,
  info: WorkspaceInfo,
  key: string,
  definition?: ShelfSet,
  on?: number,
): Promise<Outcome<ShelfSetPage>> {
  const found = await viewShelfSet(db, key, definition, on);
  if (!found.ok) return found;
  const view = found.value;
  const heat = view.results ? await loadHeat(db, view.results, view.definition.goal) : [];
  const moves = definition ? await movesTo(db, view) : null;
  const cuts = await cutsOf(db, view);
  const { columns } = await loadCatalogue(db, ["id", "title"]);
  const rowsOf: number[][] = view.shelves.map(() => []);
  const cost = view.results?.rows.cost;
  const revenue = view.results?.rows.revenue;
  view.shelfOf.forEach((shelf, row) => {
    if (cost && (cost[row]! > 0 || (revenue?.[row] ?? 0) > 0)) rowsOf[shelf]!.push(row);
  });
  const shelves = view.shelves.map((shelf, i) => {
    const rows = rowsOf[i]!;
    rows.sort((a, b) => cost![b]! - cost![a]! || a - b);
    const blocks = rows.slice(0, MOST_BLOCKS).map((row) => ({
      id: cellText(columns["id"]!, row),
      title: cellText(columns["title"]!, row),
      cost: view.results!.rows.cost[row]!,
      revenue: view.results!.rows.revenue[row]!,
      orders: view.results!.rows.orders[row]!,
      clicks: view.results!.rows.clicks[row]!,
      heat: heat[row] ?? "unread",
    }));
    const at = { moves: moves?.byPlace[i] ?? null, cutAt: cuts.at[i] ?? null };
    return { ...shelf, ...at, blocks, more: shelf.items - blocks.length };
  });
  return ok({
    definition: view.definition,
    computedAt: view.computedAt,
    from: view.window ? formatDay(view.window.from) : null,
    to: view.window ? formatDay(view.window.to) : null,
    goal: info.goal,
    total: view.total,
    items: view.shelfOf.length,
    shelves,
    ...{
      moved: moves?.moved ?? null,
      held: view.held,
      since: view.since,
      missing: view.missing.map(nameOf),
      warnings: cuts.warnings,
    },
    wentOn: await wentOn(db, view.definition, view.results),
  });
}
