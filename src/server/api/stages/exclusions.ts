import { z } from "zod";
import { keepNegatives, negativesSchema, previewNegatives } from "../../exclusions/negatives";
import { inWorkspace, type BoundEndpoint } from "../endpoint";

const versionSchema = z.object({ version: z.coerce.number().int().min(0).optional() });

/** Operations of the exclusions stage. */
export const exclusionEndpoints: BoundEndpoint[] = [
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
