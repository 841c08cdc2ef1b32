import { pageWork } from "@/core/bid-desk/page-work";
import { FIELDS } from "@/core/catalogue/fields";
import { ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { loadMoves } from "../moves/moves";
import { remember } from "../read/memo";
import type { WorkspaceInfo } from "../workspaces";

/** What a page is made of, as far as a feed tells it. */
const CONTENT = ["title", "description", "image", "brand", "color", "size"] as const;

/** An item whose page needs work. Money in mills. */
export interface PageWorkLine {
  id: string;
  title: string;
  category: string;
  clicks: number;
  orders: number;
  usual: number;
  chance: number;
  /** A month; null where costs are not known. */
  lost: number | null;
  missing: string[];
  thin: string[];
}

const MONTH = 30;

/** Items that convert below their kind on good traffic, those that lose most first, with what their pages lack beside their kind. */
export async function viewPageWork(db: Database, info: WorkspaceInfo): Promise<Outcome<PageWorkLine[]>> {
  const all = await loadMoves(db, info);
  if (!all.ok) return all;
  const { ground, stamp } = all.value;
  return ok(
    await remember(db, "page work", [stamp], async () => {
      const { columns, length } = await loadCatalogue(db, [...CONTENT]);
      const { columns: more } = await loadCatalogue(db, ["category"]);
      const category = more["category"];
      const label = (key: string) => FIELDS.find((field) => field.key === key)?.label.toLowerCase() ?? key;
      const content = Object.fromEntries(
        CONTENT.flatMap((name) => (columns[name] ? [[label(name), columns[name]]] : [])),
      );
      return pageWork(ground, { columns: content, length }).map(({ row, lost, ...one }): PageWorkLine => ({
        ...one,
        ...{ id: ground.idOf(row), title: ground.titleOf(row) },
        category: category?.kind === "text" ? category.values[category.codes[row]!]! : "",
        lost: Number.isFinite(lost) ? MONTH * lost : null,
      }));
    }),
  );
}
