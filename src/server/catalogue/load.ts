import { eq } from "drizzle-orm";
import { OWN_PREFIX } from "@/core/catalogue/catalogue-columns";
import { isMade } from "@/core/catalogue/finish";
import { decodeColumn } from "@/core/kit/column-bytes";
import type { Column, Columns } from "@/core/kit/columns";
import { ownRecord } from "@/core/kit/own-record";
import type { Database } from "@/db/client";
import { feeds, revisions } from "@/db/schema";
import { recallLast, remember } from "../read/memo";
import { loadBytes } from "./revisions";

/** A catalogue revision as it is kept in memory: its columns are loaded when first asked for. */
interface Loaded {
  revision: number;
  length: number;
  /** Which revision's stored column serves each name. */
  stored: Record<string, number>;
  /** Names served by another stored column. */
  aliases: Record<string, string>;
  columns: Map<string, Column>;
}

const EMPTY: Loaded = { revision: 0, length: 0, stored: {}, aliases: {}, columns: new Map() };

const NAME = "catalogue";

async function current(db: Database): Promise<Loaded> {
  const [feed] = await db.select().from(feeds);
  const revision = feed?.currentRevision;
  if (!revision) return EMPTY;
  const before = await recallLast<Loaded>(db, NAME);
  return before?.revision === revision ? before : remember(db, NAME, [revision], () => open(db, revision, before));
}

async function open(db: Database, revision: number, kept: Loaded | null): Promise<Loaded> {
  const [row] = await db
    .select({ columns: revisions.columns, aliases: revisions.aliases })
    .from(revisions)
    .where(eq(revisions.id, revision));
  const { columns: stored, aliases } = row ?? { columns: null, aliases: null };
  const loaded: Loaded = {
    revision,
    length: 0,
    stored: ownRecord(stored ?? {}),
    aliases: ownRecord(aliases ?? {}),
    columns: new Map(),
  };
  // Columns that did not change since the last revision go on being used as they are.
  for (const [name, from] of Object.entries(loaded.stored)) {
    const column = kept?.stored[name] === from ? kept.columns.get(name) : undefined;
    if (column) loaded.columns.set(name, column);
  }
  await fill(db, loaded, ["itemNo"]);
  const itemNo = loaded.columns.get("itemNo");
  loaded.length = itemNo?.kind === "number" ? itemNo.values.length : 0;
  return loaded;
}

async function fill(db: Database, loaded: Loaded, names: string[]): Promise<void> {
  const wanted = names.filter((name) => !loaded.columns.has(name) && name in loaded.stored);
  // One at a time, so that other requests get their turn in between.
  for (const name of wanted) {
    const bytes = await loadBytes(db, loaded.stored[name]!, name);
    if (bytes) loaded.columns.set(name, decodeColumn(bytes));
  }
}

export interface Catalogue extends Columns {
  /** The revision in force; 0 before a first feed. */
  revision: number;
  /** All column names there are, loaded or not. */
  names: string[];
}

/** The stored column behind a name: its stand-in where it has one, or the feed's own where that is asked for. */
function storedName({ aliases }: Loaded, name: string): string {
  return name.startsWith(OWN_PREFIX) ? name.slice(OWN_PREFIX.length) : (aliases[name] ?? name);
}

/** All names that can be asked for. A name with a stand-in has its own value beside it. */
function allNames(loaded: Loaded): string[] {
  const own = Object.keys(loaded.aliases).map((name) => OWN_PREFIX + name);
  const served = new Set(Object.values(loaded.aliases).filter((name) => !name.startsWith("derived:")));
  return [...new Set([...Object.keys(loaded.stored), ...Object.keys(loaded.aliases), ...own])].filter(
    (name) => !served.has(name),
  );
}

/**
 * The catalogue in force with the named columns (all of them for `"all"`). Names it has no column for are left out.
 * Columns are shared and must not be written to.
 */
export async function loadCatalogue(db: Database, names: string[] | "all"): Promise<Catalogue> {
  const loaded = await current(db);
  const wanted = names === "all" ? allNames(loaded) : ["itemNo", ...names];
  await fill(
    db,
    loaded,
    wanted.map((name) => storedName(loaded, name)),
  );
  const columns: Record<string, Column> = ownRecord({});
  for (const name of wanted) {
    const column = loaded.columns.get(storedName(loaded, name));
    if (column) columns[name] = column;
  }
  return { revision: loaded.revision, length: loaded.length, columns, names: allNames(loaded) };
}

/** The columns as the feed has them, without stand-ins; for reading the next feed and for making stand-ins anew. */
export async function loadFeedColumns(db: Database, names: string[] | "all"): Promise<Columns> {
  const loaded = await current(db);
  const wanted = names === "all" ? Object.keys(loaded.stored).filter((name) => !isMade(name)) : names;
  await fill(db, loaded, wanted);
  const columns: Record<string, Column> = ownRecord({});
  for (const name of wanted) {
    const column = loaded.columns.get(name);
    if (column) columns[name] = column;
  }
  return { length: loaded.length, columns };
}
