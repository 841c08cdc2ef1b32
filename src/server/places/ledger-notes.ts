import { inArray, sql } from "drizzle-orm";
import { dayAt, formatDay } from "@/core/kit/days";
import { ledgerKey, type LedgerNote } from "@/core/targets/ledger";
import type { TermOrListing } from "@/core/targets/place-kind";
import type { Database } from "@/db/client";
import { ledgerNotes } from "@/db/schema";
import { bulkInsert } from "../bulk";
import type { WorkspaceInfo } from "../workspaces";

/** A term or listing by what it is called. */
export interface NamedPlace {
  what: TermOrListing;
  text: string;
}

/** Changes with every note. */
export async function notesStamp(db: Database): Promise<string> {
  const [row] = await db.select({ count: sql<number>`count(*)`, last: sql<number>`max(at)` }).from(ledgerNotes);
  return `${row?.count ?? 0}/${row?.last ?? 0}`;
}

/** All notes, with the day they were made in the workspace's time zone. */
export async function readNotes(db: Database, { timeZone }: Pick<WorkspaceInfo, "timeZone">): Promise<LedgerNote[]> {
  const rows = await db.select().from(ledgerNotes);
  return rows.map(({ what, text, state, reason, who, at }) => ({
    ...{ what, text, state, reason, who },
    day: formatDay(dayAt(at, timeZone)),
  }));
}

/** Keeps a note of terms and listings, in place of those that were made of them before. */
export async function keepNotes(
  db: Database,
  who: string,
  places: readonly NamedPlace[],
  { state, reason }: Pick<LedgerNote, "state" | "reason">,
): Promise<number> {
  const at = Date.now();
  const rows = [...new Map(places.map((place) => [ledgerKey(place.what, place.text), place])).entries()];
  const tx = await db.$client.transaction("write");
  try {
    await tx.execute({
      sql: "DELETE FROM ledger_notes WHERE key IN (SELECT value FROM json_each(?))",
      args: [JSON.stringify(rows.map(([key]) => key))],
    });
    await bulkInsert(
      tx,
      ledgerNotes,
      ["key", "what", "text", "state", "reason", "who", "at"],
      rows.map(([key, { what, text }]) => [key, what, text.trim(), state, reason, who, at]),
    );
    await tx.commit();
  } finally {
    tx.close();
  }
  return rows.length;
}

/** Takes notes away. Returns how many there were. */
export async function forgetNotes(db: Database, places: readonly NamedPlace[]): Promise<number> {
  const keys = places.map(({ what, text }) => ledgerKey(what, text));
  const gone = await db.delete(ledgerNotes).where(inArray(ledgerNotes.key, keys)).returning({ key: ledgerNotes.key });
  return gone.length;
}
