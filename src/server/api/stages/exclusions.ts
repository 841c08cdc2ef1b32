import { csv } from "../../files/answers";
import { z } from "zod";
import { keepNegatives, negativesSchema, previewNegatives } from "../../exclusions/negatives";
import { ok } from "@/core/kit/outcome";
import { keptOut } from "../../exclusions/kept-out";
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
      ...({ method: "POST", role: "viewer", path: "negatives/preview", heavy: true } as const),
      summary: "What negatives would have stopped over the last 90 days, and which own keywords they would silence.",
      body: negativesSchema,
    },
    async ({ db, body }) => previewNegatives(db, body),
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
