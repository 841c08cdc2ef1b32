import { z } from "zod";
import { exportProfileSchema } from "@/core/dispatch/export-profile";
import { fail, ok } from "@/core/kit/outcome";
import { keepProfile, listProfiles, profileFile, removeProfile } from "../../dispatch/export-profiles";
import { profileLeavesOut } from "../../dispatch/channel-view";
import { inWorkspace, type BoundEndpoint } from "../endpoint";
import { page } from "./shared";

/** Operations on export profiles: how a structure is written out for other places. */
export const exportEndpoints: BoundEndpoint[] = [
  inWorkspace(
    { ...({ method: "GET", role: "viewer", path: "export-profiles" } as const), summary: "Export profiles." },
    async ({ db }) => ok(await listProfiles(db)),
  ),
  inWorkspace(
    {
      ...({ method: "PUT", role: "editor", path: "export-profiles" } as const),
      summary: "Keep an export profile.",
      body: exportProfileSchema,
    },
    async ({ db, body }) => keepProfile(db, body),
  ),
  inWorkspace(
    {
      ...({ method: "DELETE", role: "editor", path: "export-profiles/{profile}" } as const),
      summary: "Take an export profile away.",
    },
    async ({ db, path }) => removeProfile(db, path["profile"]!),
  ),
  inWorkspace(
    {
      ...({ method: "GET", role: "viewer", path: "structure/export", heavy: true } as const),
      summary: "The account's structure, basket included, as a kept profile writes it.",
      query: z.object({ profile: z.string().min(1).max(40) }),
    },
    async ({ db, info, query }) => {
      const found = (await listProfiles(db)).find(({ key }) => key === query.profile);
      return found
        ? profileFile(db, info, found)
        : fail("profile-unknown", `There is no export profile "${query.profile}".`);
    },
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "structure/export", heavy: true } as const),
      summary: "The same as a profile that is not kept would write it.",
      body: exportProfileSchema,
    },
    async ({ db, info, body }) => profileFile(db, info, body),
  ),
  inWorkspace(
    {
      ...({ method: "POST", role: "viewer", path: "structure/export/left-out", heavy: true } as const),
      summary: "What of the structure such a profile has no column for, record by record.",
      query: page,
      body: exportProfileSchema,
    },
    async ({ db, body, query: { offset, limit } }) => {
      const all = await profileLeavesOut(db, body);
      return ok({ total: all.length, records: all.slice(offset, offset + limit) });
    },
  ),
];
