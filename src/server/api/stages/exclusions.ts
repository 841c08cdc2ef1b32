import { csv } from "../../files/answers";
import { z } from "zod";
import { keepNegatives, negativesSchema, previewNegatives } from "../../exclusions/negatives";
import { ok } from "@/core/kit/outcome";
import { keptOut } from "../../exclusions/kept-out";
import { itemsStopped, itemsStoppedSchema } from "../../exclusions/items-stopped";
import { placementsFile } from "../../exclusions/placements/file";
import { matchAddresses, matchSchema } from "../../exclusions/placements/match";
import { placementsSchema, viewPlacements } from "../../exclusions/placements/placements";
import {
  judgePlacements,
  judgeSchema,
  safetySchema,
  safetyWords,
  setSafetyWords,
} from "../../exclusions/placements/reviews";
import { inWorkspace, type BoundEndpoint } from "../endpoint";

const versionSchema = z.object({ version: z.coerce.number().int().min(0).optional() });

/** Operations of the exclusions stage. */
export const exclusionEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "kept-out", heavy: true } as const),
      summary: "Exclusions and negatives with scope, reason, who, since when, and what they saved or cost.",
    },
    async ({ db, info }) => ok(await keptOut(db, info)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "kept-out.csv", heavy: true } as const),
      summary: "The same as a CSV file.",
    },
    async ({ db, info }) => {
      const { entries } = await keptOut(db, info);
      const headings = ["kind", "value", "match", "title", "where", "reason", "look_again", "since", "who"];
      const rows = entries.map(({ what, value, match, title, scopeName, reason, reviewOn, since, who }) => [
        ...[what, value, match, title, scopeName, reason, reviewOn, since, who],
      ]);
      return csv("kept-out.csv", headings, rows);
    },
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "exclusions/look", heavy: true, body: itemsStoppedSchema } as const),
      summary: "What items brought over the last 90 days that are to be excluded, and which of them pay.",
    },
    async ({ db, info, body }) => ok(await itemsStopped(db, info, body)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "placements", heavy: true, query: placementsSchema } as const),
      summary: "Placements with what they are worth, what they are sorted into, what was judged and what is kept out.",
    },
    async ({ db, info, query }) => ok(await viewPlacements(db, info, query)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "placements.csv", heavy: true, query: placementsSchema } as const),
      summary: "The same as a CSV file.",
    },
    async ({ db, info, query }) => placementsFile(await viewPlacements(db, info, { ...query, limit: 20_000 })),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "placements/match", heavy: true, body: matchSchema } as const),
      summary:
        "Which of some pasted lines are placements that ads were shown on, which are addresses, and which neither.",
    },
    async ({ db, info, body }) => ok(await matchAddresses(db, info, body.lines)),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "placements/judgements", heavy: true, body: judgeSchema } as const),
      summary: "Keep what was judged of placements: to be left, or doubtful; null takes a judgement away.",
    },
    async ({ db, info, who, body }) => ok(await judgePlacements(db, info, who, body)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "placements/unsafe-words" } as const),
      summary: "Words of placements that are not fit for the shop's ads.",
    },
    async ({ db }) => ok(await safetyWords(db)),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "placements/unsafe-words", body: safetySchema } as const),
      summary: "Keep a list of unsafe words of one's own; null goes back to those that ship.",
    },
    async ({ db, who, body }) => ok(await setSafetyWords(db, who, body)),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "negatives/preview", heavy: true } as const),
      summary: "What negatives would have stopped over the last 90 days, and which own keywords they would silence.",
      body: negativesSchema,
    },
    async ({ db, info, body }) => previewNegatives(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "negatives", heavy: true } as const),
      summary: "Put terms, listings or placements into the basket as negatives.",
      query: versionSchema,
      body: negativesSchema,
    },
    async ({ db, info, who, query, body }) => keepNegatives(db, who, query.version ?? null, body, info.currency),
  ),
];
