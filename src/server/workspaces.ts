import { existsSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { fail, FailureError, giveUp, ok, type Failure, type Outcome } from "@/core/kit/outcome";
import { isCurrency } from "@/core/kit/money-words";
import type { TaxRule } from "@/core/catalogue/margins";
import { MIDDLING, natureOf, natureSchema, type Nature } from "@/core/market/nature";
import { returnByChance, returnTiers } from "@/core/shelves/ready-made";
import { isNewerDatabase, migrateDatabase, openDatabase, type Database } from "@/db/client";
import { changeLog, shelfSets, workspace } from "@/db/schema";
import { log } from "./log";
import { changedMeanwhile } from "./meanwhile";
import { person } from "./person";
import { claimName, confirmName, releaseName, slugSchema, workspaceSlugs } from "./registry";
import { dataDir, settings } from "./settings";

export const newWorkspaceSchema = z.object({
  slug: slugSchema,
  name: z.string().trim().min(1, "Give it a name.").max(80),
  currency: z.string().refine(isCurrency, "an ISO currency code such as EUR"),
  timeZone: z.string().refine((zone) => {
    try {
      return Boolean(new Intl.DateTimeFormat("en", { timeZone: zone }));
    } catch {
      return false;
    }
  }, "an IANA time zone such as Europe/Berlin"),
  goal: z.number().positive().max(1000).default(3),
  /** Whether its test market is one of the many that a name stands for, or the one in the middle of them. */
  market: z.enum(["drawn", "middling"]).default("drawn"),
});

export type NewWorkspace = z.input<typeof newWorkspaceSchema>;

export interface WorkspaceInfo {
  slug: string;
  name: string;
  currency: string;
  timeZone: string;
  /** Goal return: sales per unit of cost. */
  goal: number;
  mostLoss: number;
  marketSeed: string;
  marketNature: Nature;
  tax: TaxRule;
}

function databaseUrl(slug: string): string {
  const pattern = settings().DATABASE_URL;
  return pattern ? pattern.replaceAll("{workspace}", slug) : `file:${path.join(dataDir(), `${slug}.db`)}`;
}

/** The file of a workspace's database; null where it lies on a server. */
export function databaseFile(slug: string): string | null {
  const url = databaseUrl(slug);
  return url.startsWith("file:") ? url.slice("file:".length) : null;
}

// Next may load this module several times; databases are kept once a process.
const store = globalThis as unknown as { __hotShelfDatabases?: Map<string, Promise<Database>> };

async function open(slug: string, isNew: boolean): Promise<Database> {
  if (!isNew && !settings().DATABASE_URL && !existsSync(path.join(dataDir(), `${slug}.db`))) {
    // Opened, it would be made anew and empty, and look as if everything had been lost.
    giveUp(
      "workspace-missing",
      `The database of the workspace "${slug}" is not in the data folder. Nothing was made in its place.`,
      `Put ${slug}.db back, from where it was moved to or from a back-up.`,
    );
  }
  try {
    const db = await openDatabase(databaseUrl(slug), settings().DATABASE_AUTH_TOKEN);
    if (await isNewerDatabase(db)) {
      giveUp(
        "workspace-newer",
        `The database of the workspace "${slug}" was written by a newer Hot Shelf. It was left as it is.`,
        "Start the newer version again, or put a back-up from before in its place.",
      );
    }
    await migrateDatabase(db);
    return db;
  } catch (error) {
    if (error instanceof FailureError) throw error;
    log.error({ err: error, slug }, "a workspace's database can't be opened");
    throw new FailureError(brokenBy(slug, String(error)));
  }
}

/** What is wrong with a workspace's database, from what the database said. */
function brokenBy(slug: string, said: string): Failure {
  const name = `The database of the workspace "${slug}"`;
  if (/SQLITE_FULL|ENOSPC/.test(said)) {
    return { code: "workspace-full", message: `${name} can't be written: the disk is full.`, hint: "Make room on it." };
  }
  if (/SQLITE_READONLY|SQLITE_CANTOPEN|EACCES|EROFS|EPERM/.test(said)) {
    return {
      code: "workspace-read-only",
      message: `${name} can't be opened for writing.`,
      hint: "Look at who owns the data folder and whether its disk can be written.",
    };
  }
  return {
    code: "workspace-broken",
    message: `${name} is damaged, or no database. It was left as it is, and all other workspaces go on.`,
    hint: `Put a back-up of ${slug}.db in its place.`,
  };
}

/**
 * The database of a workspace that exists; see {@link findWorkspace}.
 * @throws FailureError that says what is wrong with it and what to do
 */
export function databaseOf(slug: string, isNew = false): Promise<Database> {
  const databases = (store.__hotShelfDatabases ??= new Map());
  let found = databases.get(slug);
  if (!found) {
    found = open(slug, isNew);
    databases.set(slug, found);
    found.catch(() => databases.delete(slug));
  }
  return found;
}

/** Closes a workspace's database in this process. */
function forgetDatabase(slug: string): void {
  const opened = store.__hotShelfDatabases?.get(slug);
  store.__hotShelfDatabases?.delete(slug);
  opened?.then((db) => db.$client.close()).catch(() => {});
}

/** A workspace by its name, or null when there is none. @throws FailureError when it can't be opened */
export async function findWorkspace(slug: string): Promise<{ info: WorkspaceInfo; db: Database } | null> {
  if (!slugSchema.safeParse(slug).success || !(await workspaceSlugs()).includes(slug)) return null;
  const db = await databaseOf(slug);
  const [row] = await db.select().from(workspace);
  if (!row) return null;
  return { info: infoOf(slug, row), db };
}

function infoOf(slug: string, row: typeof workspace.$inferSelect): WorkspaceInfo {
  const { name, currency, timeZone, goal, mostLoss, marketSeed } = row;
  const market = { marketSeed, marketNature: row.marketNature ? natureSchema.parse(row.marketNature) : MIDDLING };
  return { slug, name, currency, timeZone, goal, mostLoss, ...market, tax: taxRuleOf(row) };
}

/** Which amounts of a workspace hold tax. */
export function taxRuleOf(row: typeof workspace.$inferSelect): TaxRule {
  return { rate: row.taxRate, price: row.pricesWithTax, cost: row.costsWithTax, fee: row.feesWithTax };
}

/** All workspaces: those that can be opened with their settings, the others with what is wrong with them. */
export async function lookAtWorkspaces(): Promise<{ sound: WorkspaceInfo[]; broken: (Failure & { slug: string })[] }> {
  const sound: WorkspaceInfo[] = [];
  const broken: (Failure & { slug: string })[] = [];
  for (const slug of await workspaceSlugs()) {
    try {
      const found = await findWorkspace(slug);
      if (found) sound.push(found.info);
    } catch (error) {
      const failure = error instanceof FailureError ? error.failure : brokenBy(slug, String(error));
      broken.push({ slug, ...failure });
    }
  }
  return { sound, broken };
}

/** All workspaces that can be opened, with their settings. */
export async function listWorkspaces(): Promise<WorkspaceInfo[]> {
  return (await lookAtWorkspaces()).sound;
}

/** Makes an empty workspace: its database, settings and the shelf sets it starts with. Its name is free again where that fails. */
export async function createWorkspace(input: NewWorkspace): Promise<Outcome<WorkspaceInfo>> {
  const given = newWorkspaceSchema.parse(input);
  const { slug } = given;
  if (!(await claimName(slug))) {
    return fail("workspace-exists", `There is a workspace "${slug}" already.`, "Choose another short name.");
  }
  const isFile = !settings().DATABASE_URL;
  if (isFile && existsSync(path.join(dataDir(), `${slug}.db`))) {
    await releaseName(slug, false);
    return fail(
      "workspace-file-exists",
      `A database file of the name "${slug}" lies in the data folder.`,
      "Move it away, or choose another short name.",
    );
  }
  try {
    const made = await fillWorkspace(given);
    await confirmName(slug);
    return ok(made);
  } catch (error) {
    forgetDatabase(slug);
    await releaseName(slug, isFile);
    throw error;
  }
}

async function fillWorkspace({ slug, name, currency, timeZone, goal, market }: z.infer<typeof newWorkspaceSchema>) {
  const db = await databaseOf(slug, true);
  const now = Date.now();
  await db.transaction(async (tx) => {
    const world = { marketSeed: slug, marketNature: market === "drawn" ? natureOf(slug) : null };
    const row = { id: 1, name, currency, timeZone, goal, mostLoss: 0.3, ...world, createdAt: now };
    await tx.insert(workspace).values(row);
    const sets = [returnByChance(goal), returnTiers(goal)];
    await tx.insert(shelfSets).values(sets.map((definition) => ({ key: definition.key, definition })));
    await tx.insert(changeLog).values({ at: now, who: person(), what: "Workspace made", why: "", place: "workspaces" });
  });
  const [made] = await db.select().from(workspace);
  return infoOf(slug, made!);
}

export const workspaceSettingsSchema = z.object({
  goal: z.number().positive().max(1000).optional(),
  mostLoss: z.number().min(0.01).max(1).optional(),
  /** Share of tax, such as 0.19. */
  taxRate: z.number().min(0).max(0.9).optional(),
  pricesWithTax: z.boolean().optional(),
  costsWithTax: z.boolean().optional(),
  feesWithTax: z.boolean().optional(),
  /** Whether somebody approves the basket before it is sent. */
  approval: z.boolean().optional(),
});

const percent = (share: number) => `${Math.round(share * 1000) / 10} %`;

/** What settings of a workspace say, as the change log tells it. */
const SETTING_WORDS: { [K in keyof z.infer<typeof workspaceSettingsSchema>]-?: (to: never) => string } = {
  goal: (to: number) => `goal return ${to}`,
  mostLoss: (to: number) => `a reading may lose ${percent(to)} of items at most`,
  taxRate: (to: number) => `tax ${percent(to)}`,
  pricesWithTax: (to: boolean) => `prices ${to ? "with" : "without"} tax`,
  costsWithTax: (to: boolean) => `costs ${to ? "with" : "without"} tax`,
  feesWithTax: (to: boolean) => `fees ${to ? "with" : "without"} tax`,
  approval: (to: boolean) => (to ? "the basket is approved before it is sent" : "the basket is sent without approval"),
};

function settingsInWords(given: z.infer<typeof workspaceSettingsSchema>): string {
  return Object.entries(given)
    .map(([name, to]) => SETTING_WORDS[name as keyof typeof SETTING_WORDS](to as never))
    .join(", ");
}

/**
 * Changes a workspace's goal or house rules.
 *
 * @param since the version that was seen of the settings that are given; left out, they are written over
 */
export async function changeWorkspace(
  db: Database,
  given: z.infer<typeof workspaceSettingsSchema>,
  since?: string,
): Promise<Outcome<object>> {
  const keys = Object.keys(given) as (keyof typeof given)[];
  if (keys.length === 0) return ok({});
  const [row] = await db.select().from(workspace);
  const stored = row ? Object.fromEntries(keys.map((key) => [key, row[key]])) : null;
  const seen = await changedMeanwhile(db, since, {
    what: "What these settings say",
    about: "settings",
    ...{ stored, given },
  });
  if (!seen.ok) return seen;
  await db.update(workspace).set(given);
  await noteChange(db, `Settings changed: ${settingsInWords(given)}`, "", "settings", "settings");
  return ok({});
}

/**
 * Writes a line into the change log.
 * @param about what it is about, as a kind and an ID, such as `planogram/store-best`; left out where it is nothing with an ID
 */
export async function noteChange(
  db: Pick<Database, "insert">,
  what: string,
  why: string,
  place: string,
  about = "",
): Promise<void> {
  await db.insert(changeLog).values({ at: Date.now(), who: person(), what, why, place, about });
}
