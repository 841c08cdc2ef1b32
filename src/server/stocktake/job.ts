import { eq } from "drizzle-orm";
import { z } from "zod";
import { daySchema } from "@/core/kit/day-schema";
import { dayAt, formatDay, parseDay } from "@/core/kit/days";
import { plural } from "@/core/kit/format";
import { giveUp } from "@/core/kit/outcome";
import { CHAPTER_KEYS, makeChapter } from "@/core/stocktake/chapters";
import { findFaults } from "@/core/stocktake/faults";
import type { Database } from "@/db/client";
import { stocktakeChapters, stocktakes } from "@/db/schema";
import type { JobContext, JobHandler } from "../jobs/work";
import { noteChange } from "../workspaces";
import { loadMaterial } from "./material";

export const takeStockSchema = z
  .object({
    /** First and last day; left out for the last ninety with results. */
    from: daySchema.optional(),
    to: daySchema.optional(),
    name: z.string().trim().max(120).default(""),
  })
  .refine(({ from, to }) => (from === undefined) === (to === undefined), "Say the first and the last day, or neither.");

async function run(
  { db, info, id: job, who, progress }: JobContext,
  raw: unknown,
): Promise<{ stocktake: number; findings: number }> {
  const asked = takeStockSchema.parse(raw);
  const window = asked.from && asked.to ? { from: parseDay(asked.from), to: parseDay(asked.to) } : null;
  const loaded = await loadMaterial(db, info, window, (done, of) => progress(done, of, "parts"));
  if (!loaded.ok) giveUp(loaded.error.code, loaded.error.message, loaded.error.hint);
  const { material, before } = loaded.value;
  const findings = findFaults(material);
  const at = Date.now();
  const name = asked.name || `Stocktake of ${formatDay(dayAt(at, info.timeZone))}`;
  const [made] = await db
    .insert(stocktakes)
    .values({ job, at, who, name, remarks: {} })
    .returning({ id: stocktakes.id });
  const stocktake = made!.id;
  for (const key of CHAPTER_KEYS) {
    await db.insert(stocktakeChapters).values({ stocktake, key, made: makeChapter(key, material) });
  }
  const { from, to, days, currency, goal, missing, total } = material;
  await db.transaction(async (tx) => {
    await tx
      .update(stocktakes)
      .set({ head: { from, to, days, currency, goal, missing, total, before, findings } })
      .where(eq(stocktakes.id, stocktake));
    await noteChange(
      tx,
      `Stock taken: ${plural(findings.length, "finding")}`,
      "",
      "stocktake",
      `stocktake/${stocktake}`,
    );
  });
  return { stocktake, findings: findings.length };
}

/** Takes away what a broken off job had begun. */
async function rollBack({ db, id: job }: { db: Database; id: string }): Promise<void> {
  const begun = await db.select({ id: stocktakes.id }).from(stocktakes).where(eq(stocktakes.job, job));
  for (const { id } of begun) {
    await db.delete(stocktakeChapters).where(eq(stocktakeChapters.stocktake, id));
    await db.delete(stocktakes).where(eq(stocktakes.id, id));
  }
}

/** Takes stock: reads all that is known, finds what is wrong, and keeps it as it was on that day. */
export const stocktakeJob: JobHandler = { run, rollBack };
