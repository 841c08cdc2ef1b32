import { cellText } from "@/core/kit/columns";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { listShelfSets, recomputeShelfSet, saveShelfSet, viewShelfSet } from "../../shelves/shelves";
import { loadCatalogue } from "../../catalogue/load";
import { ok } from "@/core/kit/outcome";
import { shelfBlocks } from "../../shelves/blocks";
import { shelfSetSchema } from "@/core/shelves/shelf-set";
import { sinceSchema } from "../../meanwhile";
import { csv } from "./shared";

/** Operations of the shelves stage. */
export const shelfEndpoints: BoundEndpoint[] = [
  inWorkspace({ method: "GET", path: "shelf-sets", heavy: true, summary: "Shelf sets." }, async ({ db }) =>
    ok(await listShelfSets(db)),
  ),
  inWorkspace(
    {
      method: "PUT",
      path: "shelf-sets",
      heavy: true,
      summary: "Keep a shelf set, new or changed, and compute it.",
      query: sinceSchema,
      body: shelfSetSchema,
    },
    async ({ db, query, body }) => {
      const saved = await saveShelfSet(db, body, query.since);
      if (!saved.ok) return saved;
      const computed = await recomputeShelfSet(db, body.key);
      return ok({ key: body.key, computed: computed.ok ? computed.value : null });
    },
  ),
  inWorkspace(
    {
      method: "POST",
      path: "shelf-sets/preview",
      heavy: true,
      summary: "What a definition would make of the latest results.",
      body: shelfSetSchema,
    },
    async ({ db, info, body }) => shelfBlocks(db, info, body.key, body),
  ),
  inWorkspace(
    { method: "POST", path: "shelf-sets/{set}/recompute", heavy: true, summary: "Recompute from the latest results." },
    async ({ db, path }) => recomputeShelfSet(db, path["set"]!),
  ),
  inWorkspace(
    {
      method: "GET",
      path: "shelf-sets/{set}",
      heavy: true,
      summary: "A set's shelves with items, spend, sales, shares, gap and return.",
    },
    async ({ db, info, path }) => shelfBlocks(db, info, path["set"]!),
  ),
  inWorkspace(
    {
      method: "GET",
      path: "shelf-sets/{set}/labels.csv",
      heavy: true,
      summary: "The shelf of every item, keyed by item ID.",
    },
    async ({ db, path }) => {
      const view = await viewShelfSet(db, path["set"]!);
      if (!view.ok) return view;
      const { columns } = await loadCatalogue(db, ["id"]);
      const rows = Array.from(view.value.shelfOf, (shelf, row) => [
        cellText(columns["id"]!, row),
        view.value.shelves[shelf]!.name,
      ]);
      return csv(`${path["set"]}-labels.csv`, ["id", view.value.definition.key], rows);
    },
  ),
];
