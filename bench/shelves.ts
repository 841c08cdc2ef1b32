import { drizzle } from "drizzle-orm/libsql";
import { assignShelves, blankMemory, shelfDegrees } from "@/core/shelves/assign";
import { decodeLive, liveFigures } from "@/core/shelves/live";
import { blankSet, READY_MADE, returnTiers } from "@/core/shelves/ready-made";
import type { BandShelf, ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import * as schema from "@/db/schema";
import { recomputeAll } from "@/server/shelves/compute";
import { loadShelfInputs, windowOf } from "@/server/shelves/inputs";
import { liveSet } from "@/server/shelves/live";
import { saveShelfSet } from "@/server/shelves/sets";
import { figure, timed, type Figure } from "./measure";

/** Twenty shelves of all kinds of cuts in one set. */
function twenty(): ShelfSet {
  const shelves = Array.from({ length: 20 }, (_, i): BandShelf => ({
    ...{ kind: "band", key: `b${i}`, name: `Band ${i}`, heat: null, goal: null, note: "", lookAgain: null },
    ...{
      metric: ["roas", "cost", "clicks", "revenue", "cvr"][i % 5]!,
      side: i % 2 ? "below" : "above",
      evidence: i % 3 === 0,
    },
    cut:
      i % 4 === 0
        ? { by: "quantile", q: 0.9 - i / 100, weight: i % 8 === 0 ? "items" : "cost" }
        : i % 4 === 1
          ? { by: "count", n: 10 + i }
          : i % 4 === 2
            ? { by: "middle", of: "median", times: 30 + i }
            : { by: "value", at: 0.01 * (i + 1) },
  }));
  return blankSet("twenty", "Twenty", 3, shelves);
}

/** Shelves beyond one set of tiers: many in one set, a cut that is dragged, and ten sets after a refresh. */
export async function benchShelves(db: Database, label: string): Promise<Figure[]> {
  const set = twenty();
  const inputs = await loadShelfInputs(db, set, await windowOf(db, set));
  const length = inputs.numbers.length;
  const many = await timed(9, () => assignShelves(shelfDegrees(set, inputs), blankMemory(length), set));
  const tiers = returnTiers(3);
  const made = await liveSet(db, tiers);
  if (!made.ok) throw new Error(made.error.message);
  const live = decodeLive(made.value.buffer);
  const drags: number[] = [];
  for (let i = 0; i < 100; i++) {
    const shelves = tiers.shelves.map((shelf, at) =>
      at === 0 && shelf.kind === "band" ? { ...shelf, cut: { by: "value" as const, at: 5 + i / 50 } } : shelf,
    );
    const began = performance.now();
    liveFigures({ ...tiers, shelves }, live);
    drags.push(performance.now() - began);
  }
  drags.sort((a, b) => a - b);
  for (const { make } of READY_MADE.slice(2, 10)) await saveShelfSet(db, make(3));
  await recomputeAll(db);
  const ten = await timed(3, async () => {
    // As after a refresh: nothing in memory, and every set has data it has not seen.
    await db.$client.execute("UPDATE shelf_sets SET stamp = 'before'");
    return recomputeAll(drizzle(db.$client, { schema }) as Database);
  });
  return [
    figure("20 shelves of one set, core", label, many, "", null, "under 100 ms"),
    figure(
      "a cut dragged, 95th percentile",
      label,
      drags[94]!,
      "",
      null,
      "within 50 ms",
      `median ${drags[49]!.toFixed(1)} ms`,
    ),
    figure("ten sets after a refresh", label, ten, "", null, "within 2 s"),
  ];
}
