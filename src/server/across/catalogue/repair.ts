import { eq } from "drizzle-orm";
import { FAULTS } from "@/core/catalogue/faults";
import { AVAILABILITIES, foldWord } from "@/core/catalogue/availability";
import { columnsOfSource, mappingSchema } from "@/core/catalogue/mapping";
import { ok, type Outcome } from "@/core/kit/outcome";
import { z } from "zod";
import type { Database } from "@/db/client";
import { feeds, workspace } from "@/db/schema";
import { noteChange } from "../../workspaces";
import { startFinish } from "../../catalogue/finish";
import { inForce } from "../../catalogue/revisions";

/** Availability words of the last reading that were not understood, with how many items have each. */
export async function unknownAvailability(db: Database): Promise<{ word: string; items: number }[]> {
  const now = await inForce(db);
  if (!now?.reading.headings) return [];
  const mapping = mappingSchema.parse(now.feed.mapping);
  const [column] = columnsOfSource(mapping.columns.availability);
  const at = column === undefined ? -1 : now.reading.headings.indexOf(column);
  if (at < 0) return [];
  const bit = 1 << FAULTS.findIndex(({ code }) => code === "availability-unknown");
  const { rows } = await db.$client.execute({
    sql: "SELECT cells ->> CAST(?1 AS INTEGER) AS word, count(*) AS items FROM items WHERE to_rev IS NULL AND warnings & ?2 <> 0 GROUP BY word ORDER BY items DESC LIMIT 50",
    args: [at, bit],
  });
  return rows.map((row) => ({ word: String(row[0] ?? ""), items: Number(row[1]) }));
}

export const teachSchema = z.object({ words: z.record(z.string().max(200), z.enum(AVAILABILITIES)) });

/** Keeps what availability words of this shop mean; it holds from the next reading on. */
export async function teachAvailability(db: Database, words: z.infer<typeof teachSchema>["words"]): Promise<void> {
  const now = await inForce(db);
  if (!now) return;
  const mapping = mappingSchema.parse(now.feed.mapping);
  for (const [word, meaning] of Object.entries(words)) mapping.availability[foldWord(word)] = meaning;
  // The version goes too, so that the next fetch reads the feed even when it has not changed.
  await db.update(feeds).set({ mapping, version: null }).where(eq(feeds.key, now.feed.key));
  await noteChange(db, `Availability words learned: ${Object.keys(words).join(", ")}`, "", "catalogue");
}

/** Takes proposed families as families, or leaves them again. */
export async function takeFamilies(db: Database, take: boolean): Promise<Outcome<{ job: string | null }>> {
  await db.update(workspace).set({ proposedFamilies: take });
  await noteChange(db, take ? "Proposed families taken" : "Proposed families left", "", "catalogue");
  return ok({ job: await startFinish(db) });
}
