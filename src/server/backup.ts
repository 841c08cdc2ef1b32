import { createHash } from "node:crypto";
import { createReadStream, existsSync } from "node:fs";
import { chmod, copyFile, mkdir, readdir, readFile, rename, rm, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import { createClient } from "@libsql/client";
import { z } from "zod";
import { giveUp } from "@/core/kit/outcome";
import { invitations, sessions, tokens } from "@/db/accounts/schema";
import { dataDir } from "./settings";
import { accounts, ACCOUNTS_FILE, closeAccounts } from "./installation";
import { addWorkspaces, slugSchema, workspaceSlugs } from "./registry";

/** What a back-up holds; written last, so that a folder without it is none. */
const manifestSchema = z.object({
  at: z.string(),
  // Their names become names of files.
  workspaces: z.array(z.object({ slug: slugSchema, bytes: z.int(), sha256: z.string() })),
  /** People's accounts, where anybody can sign in. */
  accounts: z.object({ bytes: z.int(), sha256: z.string() }).nullable().default(null),
  /** Of all the above; back-ups from before it was kept have none. */
  sha256: z.string().optional(),
});
export type Manifest = z.infer<typeof manifestSchema>;

const MANIFEST = "back-up.json";
const PREFIX = "back-up-";
/** What is backed up is for the account that runs the server, as what it was made from. */
const FOLDER_MODE = 0o700;
const FILE_MODE = 0o600;

/** What a manifest says, as its checksum is made of it. */
function checksumOf({ at, workspaces, accounts: people }: Omit<Manifest, "sha256">): string {
  const told = { at, workspaces: workspaces.map(({ slug, bytes, sha256: sum }) => [slug, bytes, sum]), people };
  return createHash("sha256").update(JSON.stringify(told)).digest("hex");
}

async function sha256(file: string): Promise<string> {
  const hash = createHash("sha256");
  for await (const chunk of createReadStream(file)) hash.update(chunk as Buffer);
  return hash.digest("hex");
}

/** Why a file is no whole database of a workspace, or of people's accounts, or null. */
async function faultOf(file: string, table: "workspace" | "people" = "workspace"): Promise<string | null> {
  const client = createClient({ url: `file:${file}` });
  try {
    const { rows } = await client.execute("PRAGMA integrity_check");
    if (String(rows[0]?.[0]) !== "ok") return "its pages do not fit together";
    const { rows: found } = await client.execute(`SELECT count(*) FROM ${table}`);
    return table === "people" || Number(found[0]?.[0]) === 1 ? null : "it holds no workspace";
  } catch {
    return table === "people" ? "it is no database of accounts" : "it is no database of a workspace";
  } finally {
    client.close();
  }
}

/**
 * Writes a copy of every workspace into a new folder of `into`, while the server may go on working: each copy is of one
 * moment, without what only lies beside the database file. Older back-ups beyond `keep` go.
 * @returns the folder
 * @throws FailureError when a copy does not hold together; then nothing older goes
 */
export async function backUp(into: string, keep: number, now = new Date()): Promise<string> {
  const at = now.toISOString();
  const folder = path.join(into, `${PREFIX}${at.slice(0, 19).replaceAll(":", "-")}`);
  await mkdir(folder, { recursive: true, mode: FOLDER_MODE });
  const workspaces: Manifest["workspaces"] = [];
  for (const slug of await workspaceSlugs()) {
    const from = path.join(dataDir(), `${slug}.db`);
    if (!existsSync(from))
      giveUp("backup-missing", `The database of the workspace "${slug}" is not in the data folder.`);
    const to = path.join(folder, `${slug}.db`);
    workspaces.push({ slug, ...(await copyWhole(from, to, "workspace")) });
  }
  const file = path.join(dataDir(), ACCOUNTS_FILE);
  const people = existsSync(file) ? await copyWhole(file, path.join(folder, ACCOUNTS_FILE), "people") : null;
  const told = { at, workspaces, accounts: people };
  const manifest = JSON.stringify({ ...told, sha256: checksumOf(told) } satisfies Manifest, null, 2);
  await writeFile(path.join(folder, MANIFEST), manifest, { mode: FILE_MODE });
  await removeOld(into, keep);
  return folder;
}

/** Copies a database as it is at one moment, and looks whether the copy holds together. @throws FailureError when not */
async function copyWhole(from: string, to: string, table: "workspace" | "people") {
  const client = createClient({ url: `file:${from}` });
  try {
    await client.execute({ sql: "VACUUM INTO ?", args: [to] });
  } finally {
    client.close();
  }
  await chmod(to, FILE_MODE);
  if (table === "workspace") await leaveOutReady(to);
  const fault = await faultOf(to, table);
  if (fault) {
    const name = path.basename(to);
    giveUp("backup-broken", `The copy of ${name} can't be used: ${fault}. Nothing older was removed.`);
  }
  return { bytes: (await stat(to)).size, sha256: await sha256(to) };
}

/** Takes out of a copy what is only stored to be quicker: at 100,000 items it is the larger part, and is worked out again. */
async function leaveOutReady(file: string): Promise<void> {
  const client = createClient({ url: `file:${file}` });
  try {
    const { rows } = await client.execute("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = 'ready'");
    if (rows.length === 0) return;
    const { rowsAffected } = await client.execute("DELETE FROM ready");
    if (rowsAffected > 0) await client.execute("VACUUM");
  } finally {
    client.close();
  }
}

async function removeOld(into: string, keep: number): Promise<void> {
  const all: string[] = [];
  for (const name of await readdir(into)) {
    if (name.startsWith(PREFIX) && existsSync(path.join(into, name, MANIFEST))) all.push(name);
  }
  // Their names are their times.
  for (const name of all.sort().slice(0, Math.max(0, all.length - keep))) {
    await rm(path.join(into, name), { recursive: true });
  }
}

/** Reads a back-up and checks that it is whole. @throws FailureError that says what is wrong with it */
export async function checkBackUp(folder: string): Promise<Manifest> {
  let manifest: Manifest;
  try {
    manifest = manifestSchema.parse(JSON.parse(await readFile(path.join(folder, MANIFEST), "utf8")));
  } catch {
    giveUp("backup-none", `${folder} is no whole back-up: it has no ${MANIFEST} that can be read.`);
  }
  if (manifest.sha256 !== undefined && manifest.sha256 !== checksumOf(manifest)) {
    giveUp("backup-changed", `${MANIFEST} is not as it was written. Nothing was changed.`);
  }
  for (const { slug, sha256: wanted } of manifest.workspaces) {
    await checkCopy(folder, `${slug}.db`, wanted, "workspace");
  }
  if (manifest.accounts) await checkCopy(folder, ACCOUNTS_FILE, manifest.accounts.sha256, "people");
  return manifest;
}

async function checkCopy(folder: string, name: string, wanted: string, table: "workspace" | "people"): Promise<void> {
  const file = path.join(folder, name);
  if (!existsSync(file)) giveUp("backup-missing", `The back-up lacks ${name}. Nothing was changed.`);
  if ((await sha256(file)) !== wanted) {
    giveUp("backup-changed", `${name} is not as it was backed up. Nothing was changed.`);
  }
  const fault = await faultOf(file, table);
  if (fault) giveUp("backup-broken", `${name} can't be used: ${fault}. Nothing was changed.`);
}

/** Moves a database with what lies beside it aside, and puts the back-up's in its place. */
async function replace(name: string, folder: string, aside: string): Promise<void> {
  for (const ending of ["", "-wal", "-shm"]) {
    const file = path.join(dataDir(), `${name}${ending}`);
    if (existsSync(file)) await rename(file, path.join(aside, `${name}${ending}`));
  }
  await copyFile(path.join(folder, name), path.join(dataDir(), name));
  await chmod(path.join(dataDir(), name), FILE_MODE);
}

/** What is put back: some workspaces, or all, and with all of them people and their roles, unless those stay as they are. */
export interface Wanted {
  /** The workspaces; null for all. */
  only: string[] | null;
  keepPeople?: boolean;
}

const takesPeople = ({ accounts: people }: Manifest, { only, keepPeople = false }: Wanted) =>
  people !== null && only === null && !keepPeople;

/** What putting a back-up back changes in who may come in and do what, a sentence each. */
export async function roleChanges(folder: string, wanted: Wanted): Promise<string[]> {
  if (!takesPeople(await checkBackUp(folder), wanted)) return [];
  const now = await rolesIn(path.join(dataDir(), ACCOUNTS_FILE));
  const then = await rolesIn(path.join(folder, ACCOUNTS_FILE));
  const changes: string[] = [];
  for (const key of new Set([...now.keys(), ...then.keys()])) {
    const [before, after] = [now.get(key) ?? "nothing", then.get(key) ?? "nothing"];
    if (before !== after) changes.push(`${key}: ${before} now, ${after} then`);
  }
  return changes.sort();
}

/** Who may do what, by person and workspace. */
async function rolesIn(file: string): Promise<Map<string, string>> {
  const held = new Map<string, string>();
  if (!existsSync(file)) return held;
  const client = createClient({ url: `file:${file}` });
  try {
    const { rows: founders } = await client.execute("SELECT name, email FROM people WHERE is_founder");
    for (const { name, email } of founders) held.set(`${String(name)} <${String(email)}> everywhere`, "founder");
    const { rows } = await client.execute(
      "SELECT p.name, p.email, r.workspace, r.role FROM roles r JOIN people p ON p.id = r.person",
    );
    for (const { name, email, workspace, role } of rows) {
      held.set(`${String(name)} <${String(email)}> in ${String(workspace)}`, String(role));
    }
    return held;
  } catch (error) {
    // A database of accounts that can't be read is one that the back-up's takes the place of.
    if (file.startsWith(dataDir())) return held;
    throw error;
  } finally {
    client.close();
  }
}

/**
 * Puts the workspaces of a back-up in place of those of the data folder, and with all of them people's accounts, of whom
 * everybody signs in anew: a back-up knows nothing of who signed out since, or of which key was revoked. What was there is
 * moved aside, and workspaces that the back-up does not have stay. Nothing may work on the folder meanwhile; see the command.
 * @returns where the databases that were there are now
 */
export async function restore(folder: string, asked: Wanted, now = new Date()): Promise<string> {
  const manifest = await checkBackUp(folder);
  const { only } = asked;
  const wanted = manifest.workspaces.filter(({ slug }) => only === null || only.includes(slug));
  const lacking = only?.find((slug) => !manifest.workspaces.some((one) => one.slug === slug));
  if (lacking) giveUp("backup-lacks", `The back-up has no workspace "${lacking}". Nothing was changed.`);
  const aside = path.join(dataDir(), `before-restore-${now.toISOString().slice(0, 19).replaceAll(":", "-")}`);
  await mkdir(aside, { recursive: true, mode: FOLDER_MODE });
  const known = await workspaceSlugs();
  for (const { slug } of wanted) await replace(`${slug}.db`, folder, aside);
  if (takesPeople(manifest, asked)) {
    await closeAccounts();
    await replace(ACCOUNTS_FILE, folder, aside);
    const db = await accounts();
    for (const opened of [sessions, tokens, invitations]) await db.delete(opened);
  }
  await addWorkspaces([...new Set([...known, ...wanted.map(({ slug }) => slug)])]);
  return aside;
}
