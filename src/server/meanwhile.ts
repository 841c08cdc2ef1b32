import { desc, eq } from "drizzle-orm";
import { z } from "zod";
import { sameValue } from "@/core/kit/diff";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { versionOf } from "@/core/kit/version-of";
import type { Database } from "@/db/client";
import { changeLog } from "@/db/schema";

/** The version of a definition that a person saw, sent along with a change; left out, the change is made in any case. */
export const sinceSchema = z.object({ since: z.string().max(40).optional() });

/** What is about to be kept, and what is kept now. */
export interface Kept {
  /** How it is called in a sentence, for example `The shelf set "Margins"`. */
  what: string;
  /** What lines of the change log call it. */
  about: string;
  stored: object | null;
  given: object;
}

/** Refuses a change of what somebody else changed since it was seen, and says who did, and in what the two differ. */
export async function changedMeanwhile(
  db: Pick<Database, "select">,
  since: string | undefined,
  { what, about, stored, given }: Kept,
): Promise<Outcome<null>> {
  if (since === undefined || versionOf(stored) === since || sameValue(stored, given)) return ok(null);
  const [last] = await db
    .select({ who: changeLog.who, at: changeLog.at })
    .from(changeLog)
    .where(eq(changeLog.about, about))
    .orderBy(desc(changeLog.id))
    .limit(1);
  const by = last && last.who !== "" ? ` by ${last.who}` : "";
  if (stored === null) {
    return fail(
      "changed-meanwhile",
      `${what} was removed meanwhile${by}. Nothing was kept.`,
      "Keep yours as it is here, or leave it.",
    );
  }
  const parts = [...new Set([...Object.keys(stored), ...Object.keys(given)])].filter(
    (key) => !sameValue((stored as Record<string, unknown>)[key], (given as Record<string, unknown>)[key]),
  );
  const differs = parts.map((key) => key.replace(/([A-Z])/g, (letter) => ` ${letter.toLowerCase()}`)).join(", ");
  return fail(
    "changed-meanwhile",
    `${what} was changed meanwhile${by}. Yours differs from it in: ${differs}. Nothing was kept.`,
    "Reload to see it as it is now, or keep yours in its place.",
  );
}
