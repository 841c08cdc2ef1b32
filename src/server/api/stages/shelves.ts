import { csv } from "../../files/answers";
import { z } from "zod";
import { cellText } from "@/core/kit/columns";
import { daySchema } from "@/core/kit/day-schema";
import { parseDay } from "@/core/kit/days";
import { ok } from "@/core/kit/outcome";
import { READY_MADE } from "@/core/shelves/ready-made";
import { shelfSetSchema } from "@/core/shelves/shelf-set";
import { loadCatalogue } from "../../catalogue/load";
import { sinceSchema } from "../../meanwhile";
import { shelfBlocks } from "../../shelves/blocks";
import { recomputeShelfSet } from "../../shelves/compute";
import { distribution, distributionSchema } from "../../shelves/distribution";
import { movements, movementsSchema } from "../../shelves/history";
import { keepShelf, keepShelfSchema } from "../../shelves/keep";
import {
  fetchLabels,
  LABEL_FORMATS,
  labelColumnsSchema,
  labelFile,
  labelSettings,
  renewLabelToken,
  setLabelColumns,
} from "../../shelves/labels";
import { liveSet } from "../../shelves/live";
import { overlapSchema, shelfOverlap } from "../../shelves/overlap";
import { listPicks, pickListSchema, putPicks } from "../../shelves/picks";
import {
  listShelfSets,
  orderShelfSets,
  removeShelfSet,
  restoreShelfSet,
  saveShelfSet,
  setOrderSchema,
} from "../../shelves/sets";
import { viewShelfSet } from "../../shelves/view";
import { inWorkspace, type BoundEndpoint } from "../endpoint";

const formatSchema = z.object({ format: z.enum(LABEL_FORMATS).default("csv") });
const onSchema = z.object({ on: daySchema.optional() });

/** Operations of the shelves stage: sets, lists, history, claims and labels. */
export const shelfEndpoints: BoundEndpoint[] = [
  inWorkspace(
    { method: "GET", role: "viewer", path: "shelf-sets", heavy: true, summary: "Shelf sets, in their order." },
    async ({ db }) => ok(await listShelfSets(db)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "shelf-sets/ready-made",
      summary: "Sets to start from, with when each helps and when it hurts.",
    },
    async ({ info }) => ok(READY_MADE.map(({ make, ...words }) => ({ ...words, definition: make(info.goal) }))),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "shelf-sets", heavy: true } as const),
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
      role: "editor",
      path: "shelf-sets/order",
      summary: "Put the sets into an order.",
      body: setOrderSchema,
    },
    async ({ db, body }) => orderShelfSets(db, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "shelf-sets/preview", heavy: true } as const),
      summary: "What a definition would make of the latest results, and who would move.",
      body: shelfSetSchema,
    },
    async ({ db, info, body }) => shelfBlocks(db, info, body.key, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "shelf-sets/live", heavy: true } as const),
      summary: "What a screen needs to cut a set anew by itself, as columns in bytes.",
      body: shelfSetSchema,
    },
    async ({ db, body }) => {
      const made = await liveSet(db, body);
      if (!made.ok) return made;
      const file = new Blob([made.value]).stream();
      return { file, name: "live.bin", contentType: "application/octet-stream" };
    },
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "shelf-sets/distribution", heavy: true } as const),
      summary: "How the items are spread over a metric.",
      body: distributionSchema,
    },
    async ({ db, body }) => distribution(db, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "shelf-sets/keep", heavy: true, bodyMb: 25 } as const),
      summary: "Keep a filter, a pick or a pasted list as a shelf.",
      body: keepShelfSchema,
    },
    async ({ db, info, body }) => keepShelf(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "shelf-sets/{set}/recompute", heavy: true } as const),
      summary: "Recompute from the latest results; with `accept`, also past the set's limit of moves.",
      query: z.object({ accept: z.enum(["true", "false"]).default("false") }),
    },
    async ({ db, path, query }) => recomputeShelfSet(db, path["set"]!, { accept: query.accept === "true" }),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "shelf-sets/{set}", heavy: true } as const),
      summary: "A set's shelves with items, spend, sales, shares, gap and return; on an earlier day if asked.",
      query: onSchema,
    },
    async ({ db, info, path, query }) =>
      shelfBlocks(db, info, path["set"]!, undefined, query.on === undefined ? undefined : parseDay(query.on)),
  ),
  inWorkspace(
    { method: "DELETE", role: "editor", path: "shelf-sets/{set}", summary: "Take a set away." },
    async ({ db, path }) => removeShelfSet(db, path["set"]!),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "shelf-sets/{set}/restore" } as const),
      summary: "Bring a set back that was taken away, with its lists and history.",
    },
    async ({ db, path }) => restoreShelfSet(db, path["set"]!),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "shelf-sets/{set}/moves", heavy: true } as const),
      summary: "What came to and left each shelf between two days, with why.",
      query: movementsSchema,
    },
    async ({ db, path, query }) => movements(db, path["set"]!, query),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "shelf-sets/{set}/moves.csv", heavy: true } as const),
      summary: "The same as a file.",
      query: movementsSchema,
    },
    async ({ db, path, query }) => {
      const found = await movements(db, path["set"]!, { ...query, limit: 500_000 });
      if (!found.ok) return found;
      const { moves, metric } = found.value;
      const rows = moves.map(({ id, title, from, to, why, value }) => [id, title, from, to, why, value]);
      return csv(`${path["set"]}-moves.csv`, ["id", "title", "from", "to", "why", metric?.label ?? "value"], rows);
    },
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "shelf-sets/{set}/shelves/{shelf}/picks",
      heavy: true,
      summary: "The items of a hand-picked shelf.",
    },
    async ({ db, path }) => ok(await listPicks(db, path["set"]!, path["shelf"]!)),
  ),
  inWorkspace(
    {
      ...({
        method: "POST",
        role: "editor",
        path: "shelf-sets/{set}/shelves/{shelf}/picks",
        heavy: true,
        bodyMb: 25,
      } as const),
      summary: "Put a list on a hand-picked shelf, or with `preview` say what that would do.",
      body: pickListSchema,
    },
    async ({ db, path, body }) => {
      const put = await putPicks(db, path["set"]!, path["shelf"]!, body);
      if (put.ok && !body.preview) await recomputeShelfSet(db, path["set"]!);
      return put;
    },
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "shelf-sets/{set}/labels.csv", heavy: true } as const),
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
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "shelf-overlap", heavy: true } as const),
      summary: "Two sets laid over each other: items, spend and sales of each cell.",
      query: overlapSchema,
    },
    async ({ db, query }) => shelfOverlap(db, query),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "labels",
      heavy: true,
      summary: "Which set writes which label column, and what changed since the feed was last fetched.",
    },
    async ({ db }) => ok(await labelSettings(db)),
  ),
  inWorkspace(
    {
      method: "PUT",
      role: "editor",
      path: "labels",
      heavy: true,
      summary: "Settle which sets go out as labels, and under which headings.",
      body: labelColumnsSchema,
    },
    async ({ db, body }) => setLabelColumns(db, body),
  ),
  inWorkspace(
    { method: "POST", role: "owner", path: "labels/renew", heavy: true, summary: "Give the label feed a new address." },
    async ({ db }) => ok(await renewLabelToken(db)),
  ),
  inWorkspace(
    {
      method: "GET",
      role: "viewer",
      path: "labels/file",
      heavy: true,
      summary: "The label feed as a file.",
      query: formatSchema,
    },
    async ({ db, query }) => labelFile(db, query.format),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "anyone", path: "label-feed/{token}/{format}", heavy: true } as const),
      summary: "The label feed at its address, for a channel to fetch: csv, tsv or xml.",
    },
    async ({ db, path }) => fetchLabels(db, path["token"]!, path["format"]!),
  ),
];
