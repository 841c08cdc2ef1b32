import { inArray } from "drizzle-orm";
import { z } from "zod";
import { plainAddress } from "@/core/exclusions/placements/address";
import { PLACEMENT_JUDGEMENTS } from "@/core/exclusions/placements/review";
import { SAFETY_WORDS } from "@/core/exclusions/placements/safety-lists";
import { plural } from "@/core/kit/format";
import { listEntries } from "@/core/kit/words";
import type { Database } from "@/db/client";
import { placementReviews, unsafeWords } from "@/db/schema";
import { bulkInsert } from "../../bulk";
import { noteChange, type WorkspaceInfo } from "../../workspaces";
import { loadMedia } from "./media";

/** Addresses that are judged at once. */
const MOST_AT_ONCE = 20_000;

export const judgeSchema = z.object({
  addresses: z.array(z.string().min(1).max(500)).min(1, "Nothing is chosen.").max(MOST_AT_ONCE),
  /** Null takes a judgement away. */
  judgement: z.enum(PLACEMENT_JUDGEMENTS).nullable(),
  note: z.string().trim().max(300).default(""),
});

export type PlacementReview = typeof placementReviews.$inferSelect;

export const readReviews = (db: Database): Promise<PlacementReview[]> => db.select().from(placementReviews);

/** What was judged, and what was judged of the same placements before. */
export interface Judged {
  judged: number;
  before: { address: string; judgement: PlacementReview["judgement"] | null; note: string }[];
}

/** Keeps what somebody judged of placements, in place of what was judged before. Returns the judgements before, to put back. */
export async function judgePlacements(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  { addresses, judgement, note }: z.output<typeof judgeSchema>,
): Promise<Judged> {
  const wanted = [...new Set(addresses.map(plainAddress))];
  const media = await loadMedia(db, info);
  const shown = new Map(media?.placements.map(({ address, sums }) => [address, sums.impressions / media.days]));
  const had = new Map(
    (await db.select().from(placementReviews).where(inArray(placementReviews.address, wanted))).map((row) => [
      row.address,
      row,
    ]),
  );
  const at = Date.now();
  const tx = await db.$client.transaction("write");
  try {
    await tx.execute({
      sql: "DELETE FROM placement_reviews WHERE address IN (SELECT value FROM json_each(?))",
      args: [JSON.stringify(wanted)],
    });
    if (judgement !== null) {
      await bulkInsert(
        tx,
        placementReviews,
        ["address", "judgement", "note", "who", "at", "impressionsADay"],
        wanted.map((address) => [address, judgement, note, who, at, Math.round(shown.get(address) ?? 0)]),
      );
    }
    await tx.commit();
  } finally {
    tx.close();
  }
  const what = judgement ? `${plural(wanted.length, "placement")} judged: ${judgement}` : "Judgement taken away";
  await noteChange(db, what, note, "exclusions");
  return {
    judged: wanted.length,
    before: wanted.map((address) => ({
      address,
      judgement: had.get(address)?.judgement ?? null,
      note: had.get(address)?.note ?? "",
    })),
  };
}

/** Words of placements that are not fit for the shop's ads: one's own list, or the lists that ship. */
export async function safetyWords(db: Database): Promise<{ words: string[]; isOwn: boolean; stamp: string }> {
  const [row] = await db.select().from(unsafeWords);
  if (row) return { words: row.words, isOwn: true, stamp: String(row.at) };
  const words = [...new Set(Object.values(SAFETY_WORDS).flat())].sort((a, b) => a.localeCompare(b));
  return { words, isOwn: false, stamp: "shipped" };
}

export const safetySchema = z.object({
  /** One's own list, as lines or with commas; null goes back to the lists that ship. */
  words: z.string().max(100_000).nullable(),
});

/** Keeps a list of one's own, or goes back to those that ship. */
export async function setSafetyWords(db: Database, who: string, { words }: z.output<typeof safetySchema>) {
  await db.delete(unsafeWords);
  if (words !== null) {
    const list = [...new Set(listEntries(words.toLowerCase()))];
    await db.insert(unsafeWords).values({ id: 1, words: list, who, at: Date.now() });
  }
  const now = await safetyWords(db);
  await noteChange(db, now.isOwn ? `Unsafe words: ${now.words.length}` : "Unsafe words as shipped", "", "exclusions");
  return { words: now.words, isOwn: now.isOwn };
}
