import { z } from "zod";
import { ok } from "@/core/kit/outcome";
import { assetsOf, listAssetGroups, lookAtAssets, lookAtAssetsSchema } from "../../assets/asset-groups";
import { findPicture, keepPicture, listPictures } from "../../assets/pictures";
import { resultDays } from "../../results/load";
import { windowOfDays } from "../../results/window";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { days } from "./shared";

/** Operations on asset groups and their pictures. */
export const assetEndpoints: BoundEndpoint[] = [
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "asset-groups", heavy: true } as const),
      summary: "Asset groups, basket included: items, how many get an ad, what is missing, overlap, results.",
      query: days,
    },
    async ({ db, info, query }) =>
      ok(await listAssetGroups(db, info, (await resultDays(db)) ? await windowOfDays(db, query.days) : null)),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "asset-groups/assets" } as const),
      summary: "The assets of one asset group; null where it has none yet.",
      query: z.object({ adGroup: z.string().min(1).max(600) }),
    },
    async ({ db, query }) => assetsOf(db, query.adGroup),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "asset-groups/look", heavy: true } as const),
      summary: "How assets stand over the items of a group or a planogram, line by line, before they are kept.",
      body: lookAtAssetsSchema,
    },
    async ({ db, info, body }) => lookAtAssets(db, info, body),
  ),
  inWorkspace(
    { ...({ method: "GET", role: "viewer", path: "pictures" } as const), summary: "Uploaded pictures for ads." },
    async ({ db }) => ok(await listPictures(db)),
  ),
  inWorkspace(
    { ...({ method: "GET", role: "viewer", path: "pictures/{picture}" } as const), summary: "An uploaded picture." },
    async ({ db, path }) => {
      const found = await findPicture(db, path["picture"]!);
      if (!found.ok) return found;
      const { name, type, content } = found.value;
      return { file: new Blob([new Uint8Array(content)]).stream(), name, contentType: type };
    },
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "editor", path: "pictures", rawBody: true, status: 201 } as const),
      summary: "Keep a picture for ads (raw body: PNG, JPEG or WebP).",
      query: z.object({ name: z.string().trim().min(1).max(200).default("picture") }),
    },
    async ({ db, who, query, raw }) => keepPicture(db, who, query.name, raw),
  ),
];
