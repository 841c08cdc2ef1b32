import { readdir, readFile, rename, rm } from "node:fs/promises";
import path from "node:path";
import { and, asc, eq, isNull, lt } from "drizzle-orm";
import { z } from "zod";
import { registry } from "@/db/accounts/schema";
import { accounts, OWN_FILES } from "./installation";
import { log } from "./log";
import { dataDir } from "./settings";

/** First parts of API addresses that are no workspace. */
const OWN_PATHS = new Set(["me", "session", "invitations", "health", "ready", "workspaces"]);

/** The short name of a workspace: that of its file, and part of every address of it. */
export const slugSchema = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]{0,39}$/, "lower-case letters, digits and hyphens, at most 40")
  .refine((slug) => !OWN_FILES.has(`${slug}.db`) && !OWN_PATHS.has(slug), "a name that Hot Shelf needs itself");

/** Where the list stood before it had a database. */
const OLD_LIST = "workspaces.json";
/** A workspace that is being made for longer than this, ms, was given up half-way. */
const MOST_MAKING = 60_000;

/** The names of all workspaces, in the order they were made. Where the list can't be read, their databases tell. */
export async function workspaceSlugs(): Promise<string[]> {
  try {
    const known = await listed();
    return known.length > 0 ? known : await takeOldList();
  } catch (error) {
    log.error({ err: error }, "the list of workspaces can't be read");
    return slugsOfFiles();
  }
}

async function listed(): Promise<string[]> {
  const db = await accounts();
  const rows = await db.select().from(registry).where(isNull(registry.makingSince)).orderBy(asc(registry.position));
  return rows.map(({ slug }) => slug);
}

/** Takes over the list of an installation that kept it in a file. */
async function takeOldList(): Promise<string[]> {
  let text: string;
  try {
    text = await readFile(path.join(dataDir(), OLD_LIST), "utf8");
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === "ENOENT") return [];
    throw error;
  }
  let slugs: string[];
  try {
    slugs = z.array(slugSchema).parse(JSON.parse(text));
  } catch {
    slugs = await slugsOfFiles();
  }
  await addWorkspaces(slugs);
  return listed();
}

async function slugsOfFiles(): Promise<string[]> {
  const files = await readdir(dataDir()).catch(() => []);
  const names = files.filter((name) => name.endsWith(".db") && !OWN_FILES.has(name)).map((name) => name.slice(0, -3));
  return names.filter((name) => slugSchema.safeParse(name).success).sort();
}

/** Puts workspaces that are there on the list, where they do not stand on it. */
export async function addWorkspaces(slugs: string[]): Promise<void> {
  if (slugs.length === 0) return;
  const db = await accounts();
  const rows = slugs.map((slug) => ({ slug, makingSince: null }));
  await db
    .insert(registry)
    .values(rows)
    .onConflictDoUpdate({ target: registry.slug, set: { makingSince: null } });
}

/**
 * Makes sure that nobody else makes a workspace of this name. A file that an earlier try left is moved aside: that it was
 * begun by that try is not known.
 * @returns whether the name was free
 */
export async function claimName(slug: string, now = Date.now()): Promise<boolean> {
  await workspaceSlugs();
  const db = await accounts();
  const added = await db.insert(registry).values({ slug, makingSince: now }).onConflictDoNothing().returning();
  if (added.length > 0) return true;
  const taken = await db
    .update(registry)
    .set({ makingSince: now })
    .where(and(eq(registry.slug, slug), lt(registry.makingSince, now - MOST_MAKING)))
    .returning();
  if (taken.length === 0) return false;
  await moveAside(slug, now);
  return true;
}

/** Lists a workspace that was claimed and is made. */
export async function confirmName(slug: string): Promise<void> {
  await (await accounts()).update(registry).set({ makingSince: null }).where(eq(registry.slug, slug));
}

/** Gives a name that was claimed free again, with what was made of it. @param hasFile whether a file of ours was begun */
export async function releaseName(slug: string, hasFile: boolean): Promise<void> {
  await (await accounts()).delete(registry).where(eq(registry.slug, slug));
  // What can't be removed is found, and said, by whoever takes the name next.
  if (hasFile) await removeFiles(slug).catch((error: unknown) => log.warn({ err: error }, "a half-made file stays"));
}

async function moveAside(slug: string, now: number): Promise<void> {
  for (const ending of ["", "-wal", "-shm"]) {
    const file = path.join(dataDir(), `${slug}.db${ending}`);
    await rename(file, `${file}.aside-${now}`).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== "ENOENT") throw error;
    });
  }
}

async function removeFiles(slug: string): Promise<void> {
  for (const ending of ["", "-wal", "-shm"]) await rm(path.join(dataDir(), `${slug}.db${ending}`), { force: true });
}
