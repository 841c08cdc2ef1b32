import { categoryTree, type CategoryNode } from "@/core/catalogue/category-tree";
import { CATEGORY_LEVELS, categoryColumn } from "@/core/kit/categories";
import type { Window } from "@/core/kit/days";
import { sumsOfRow, totalOf } from "@/core/results/window-sums";
import type { Sums } from "@/core/kit/metrics";
import type { Database } from "@/db/client";
import { rememberReady } from "../../read/ready";
import { loadWindow } from "../../results/load";
import { loadCatalogue } from "../../catalogue/load";

/** The category tree with items and results of a window; every level's sums are those of its items. */
export async function loadCategories(
  db: Database,
  window: Window,
): Promise<{ nodes: CategoryNode[]; total: Sums; items: number }> {
  const levels = Array.from({ length: CATEGORY_LEVELS }, (_, i) => categoryColumn(i + 1));
  const catalogue = await loadCatalogue(db, levels);
  const results = await loadWindow(db, window);
  const nodes = await rememberReady(db, "categories", results.stamp, () =>
    categoryTree(catalogue, (row) => sumsOfRow(results.rows, row)),
  );
  return { nodes, total: totalOf(results.rows), items: catalogue.length };
}
