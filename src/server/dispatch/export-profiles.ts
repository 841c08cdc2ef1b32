import { asc, eq } from "drizzle-orm";
import { exportProfileSchema, PLAIN_PROFILE, profileRows, type ExportProfile } from "@/core/dispatch/export-profile";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { exportProfiles } from "@/db/schema";
import { readAccount } from "../account/state";
import { csv, json, tsv, xlsx, type FileAnswer } from "../files/answers";
import { noteChange, type WorkspaceInfo } from "../workspaces";

/** All profiles, the plain one first. */
export async function listProfiles(db: Database): Promise<ExportProfile[]> {
  const rows = await db.select().from(exportProfiles).orderBy(asc(exportProfiles.savedAt));
  return [PLAIN_PROFILE, ...rows.map(({ definition }) => definition)];
}

/** Keeps a profile under its key. */
export async function keepProfile(db: Database, definition: ExportProfile): Promise<Outcome<ExportProfile>> {
  if (definition.key === PLAIN_PROFILE.key) {
    return fail("profile-plain", "The plain profile stays as it is.", "Keep yours under another name.");
  }
  const values = { definition, savedAt: Date.now() };
  await db
    .insert(exportProfiles)
    .values({ key: definition.key, ...values })
    .onConflictDoUpdate({ target: exportProfiles.key, set: { definition } });
  await noteChange(db, `Export profile "${definition.name}" saved`, "", "dispatch");
  return ok(definition);
}

/** Takes a profile away. */
export async function removeProfile(db: Database, key: string): Promise<Outcome<null>> {
  const gone = await db.delete(exportProfiles).where(eq(exportProfiles.key, key)).returning();
  if (gone.length === 0) return fail("profile-unknown", `There is no export profile "${key}".`);
  await noteChange(db, `Export profile "${gone[0]!.definition.name}" removed`, "", "dispatch");
  return ok(null);
}

/** The account with the basket on it as a profile writes it. */
export async function profileFile(db: Database, info: WorkspaceInfo, given: ExportProfile): Promise<FileAnswer> {
  const profile = exportProfileSchema.parse(given);
  const { live, planned } = await readAccount(db);
  const { headings, rows } = profileRows(planned, live, profile, info.currency);
  const name = `${profile.key}.${profile.format}`;
  const { decimal, delimiter } = profile;
  switch (profile.format) {
    case "xlsx":
      return xlsx(name, headings, rows, profile.name);
    case "json":
      return json(
        name,
        rows.map((row) => Object.fromEntries(headings.map((heading, at) => [heading, row[at] ?? null]))),
      );
    case "tsv":
      return tsv(name, headings, rows, decimal);
    case "csv":
      return csv(name, headings, rows, { delimiter, decimal });
  }
}
