import { and, desc, eq } from "drizzle-orm";
import { z } from "zod";
import type { Database } from "@/db/client";
import { notes, savedViews } from "@/db/schema";
import { bulkInsert } from "../bulk";
import { person } from "../person";

export const noteSchema = z.object({
  kind: z.enum(["item", "family"]),
  key: z.string().min(1).max(500),
  text: z.string().trim().min(1, "Write something.").max(2000),
});

export type Note = typeof notes.$inferSelect;

/** Keeps what somebody knows about an item or a family. */
export async function addNote(db: Database, note: z.infer<typeof noteSchema>): Promise<Note> {
  const [row] = await db
    .insert(notes)
    .values({ ...note, at: Date.now(), who: person() })
    .returning();
  return row as Note;
}

/** Adds notes to many items at once. */
export async function addItemNotes(db: Database, lines: { id: string; text: string }[]): Promise<void> {
  const at = Date.now();
  const rows = lines.map(({ id, text }) => ["item", id, text, at, person()]);
  await bulkInsert(db.$client, notes, ["kind", "key", "text", "at", "who"], rows);
}

export async function removeNote(db: Database, id: number): Promise<void> {
  await db.delete(notes).where(eq(notes.id, id));
}

/** Notes on an item and on its family, newest first. */
export async function notesOn(db: Database, item: string, family: string): Promise<Note[]> {
  const own = await db
    .select()
    .from(notes)
    .where(and(eq(notes.kind, "item"), eq(notes.key, item)))
    .orderBy(desc(notes.at));
  if (family === "") return own;
  const shared = await db
    .select()
    .from(notes)
    .where(and(eq(notes.kind, "family"), eq(notes.key, family)))
    .orderBy(desc(notes.at));
  return [...own, ...shared];
}

/** The latest note of each item and family, for the item table. */
export async function latestNotes(
  db: Database,
): Promise<{ items: Map<string, string>; families: Map<string, string> }> {
  const found = { items: new Map<string, string>(), families: new Map<string, string>() };
  for (const { kind, key, text } of await db.select().from(notes).orderBy(notes.at)) {
    (kind === "item" ? found.items : found.families).set(key, text);
  }
  return found;
}

export const savedViewSchema = z.object({
  screen: z.enum(["catalogue", "results"]),
  name: z.string().trim().min(1, "Give the view a name.").max(60),
  state: z.record(z.string().max(40), z.string().max(20_000)),
});

export type SavedView = typeof savedViews.$inferSelect;

export async function listViews(db: Database, screen: string): Promise<SavedView[]> {
  return db.select().from(savedViews).where(eq(savedViews.screen, screen)).orderBy(savedViews.name);
}

/** Keeps a view under its name; a view of that name is replaced. */
export async function saveView(db: Database, view: z.infer<typeof savedViewSchema>): Promise<SavedView> {
  await db.delete(savedViews).where(and(eq(savedViews.screen, view.screen), eq(savedViews.name, view.name)));
  const [row] = await db.insert(savedViews).values(view).returning();
  return row as SavedView;
}

export async function removeView(db: Database, id: number): Promise<void> {
  await db.delete(savedViews).where(eq(savedViews.id, id));
}
