import { drizzle } from "drizzle-orm/libsql";
import { MIDDLING } from "@/core/market/nature";
import { loadEvidence } from "@/server/evidence/items";
import { loadWindow } from "@/server/results/load";
import { sliceSchema } from "@/server/across/results/slice-query";
import { viewSlice } from "@/server/across/results/slice";
import type { WorkspaceInfo } from "@/server/workspaces";
import type { Database } from "@/db/client";
import * as schema from "@/db/schema";
import { figure, timed, type Figure } from "./measure";

/** Tables of results over the 90 days that the shelf bench has stored: loaded first, then divided and sorted otherwise. */
export async function benchResults(db: Database, label: string, first: number, days: number): Promise<Figure[]> {
  const info = { slug: "bench", currency: "EUR", goal: 3, marketSeed: "b", marketNature: MIDDLING } as WorkspaceInfo;
  const ask = async (on: Database, asked: object) => {
    const outcome = await viewSlice(on, info, sliceSchema.parse({ days, limit: 500, compare: "none", ...asked }));
    if (!outcome.ok) throw new Error(outcome.error.message);
    return outcome.value;
  };
  // What is kept hangs on the database object: a new one over the same connection begins with nothing.
  const cold = await timed(3, () => ask(drizzle(db.$client, { schema }) as Database, { level: "campaign" }));
  await ask(db, { level: "item" });
  await ask(db, { level: "field:brand" });
  const split = await timed(7, () => ask(db, { level: "field:brand", split: "field:category2" }));
  const sort = await timed(7, () => ask(db, { level: "item", sort: "-roas" }));
  const window = { from: first, to: first + days - 1 };
  const results = await loadWindow(db, window);
  // Another stamp each time, for which nothing is kept.
  let copy = 0;
  const evidence = await timed(5, () => loadEvidence(db, { ...results, stamp: [...results.stamp, copy++] }));
  return [
    figure("results over 90 days, first load", label, cold, "", null, "within 1500 ms"),
    figure("results, another split", label, split, "", null, "within 100 ms"),
    figure("results by item, another sort", label, sort, "", null, "within 100 ms"),
    figure("evidence of all items", label, evidence, "", null, "within 1000 ms"),
  ];
}
