import { createHash } from "node:crypto";
import { createReadStream, existsSync } from "node:fs";
import { copyFile, mkdir, readdir, readFile, rename, rm, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import { createClient } from "@libsql/client";
import { z } from "zod";
import { giveUp } from "@/core/kit/outcome";
import { dataDir } from "./settings";
import { ACCOUNTS_FILE, workspaceSlugs } from "./workspaces";

/** What a back-up holds; written last, so that a folder without it is none. */
const manifestSchema = z.object({
  at: z.string(),
  workspaces: z.array(z.object({ slug: z.string(), bytes: z.int(), sha256: z.string() })),
  /** People's accounts, where anybody can sign in. */
  accounts: z.object({ bytes: z.int(), sha256: z.string() }).nullable().default(null),
});
export type Manifest = z.infer<typeof manifestSchema>;

const MANIFEST = "back-up.json";
const PREFIX = "back-up-";

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
  await mkdir(folder, { recursive: true });
  const workspaces: Manifest["workspaces"] = [];
  for (const slug of await workspaceSlugs()) {
    const from = path.join(dataDir(), `${slug}.db`);
    if (!existsSync(from))
      giveUp("backup-missing", `The database of the workspace "${slug}" is not in the data folder.`);
    const to = path.join(folder, `${slug}.db`);
    workspaces.push({ slug, ...(await copyWhole(from, to, "workspace")) });
  }
  const people = path.join(dataDir(), ACCOUNTS_FILE);
  const accounts = existsSync(people) ? await copyWhole(people, path.join(folder, ACCOUNTS_FILE), "people") : null;
  await writeFile(
    path.join(folder, MANIFEST),
    JSON.stringify({ at, workspaces, accounts } satisfies Manifest, null, 2),
  );
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
  const fault = await faultOf(to, table);
  if (fault) {
    const name = path.basename(to);
    giveUp("backup-broken", `The copy of ${name} can't be used: ${fault}. Nothing older was removed.`);
  }
  return { bytes: (await stat(to)).size, sha256: await sha256(to) };
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
}

/**
 * Puts the workspaces of a back-up in place of those of the data folder, and with all of them people's accounts. What was there is
 * moved aside, and workspaces that the back-up does not have stay. Nothing may work on the folder meanwhile; see the command.
 * @param only the workspaces to put back; null for all
 * @returns where the databases that were there are now
 */
export async function restore(folder: string, only: string[] | null, now = new Date()): Promise<string> {
  const { workspaces, accounts } = await checkBackUp(folder);
  const wanted = workspaces.filter(({ slug }) => only === null || only.includes(slug));
  const lacking = only?.find((slug) => !workspaces.some((one) => one.slug === slug));
  if (lacking) giveUp("backup-lacks", `The back-up has no workspace "${lacking}". Nothing was changed.`);
  const aside = path.join(dataDir(), `before-restore-${now.toISOString().slice(0, 19).replaceAll(":", "-")}`);
  await mkdir(aside, { recursive: true });
  const known = await workspaceSlugs();
  for (const { slug } of wanted) await replace(`${slug}.db`, folder, aside);
  if (accounts && only === null) await replace(ACCOUNTS_FILE, folder, aside);
  const slugs = [...new Set([...known, ...wanted.map(({ slug }) => slug)])];
  await writeFile(path.join(dataDir(), "workspaces.json"), JSON.stringify(slugs));
  return aside;
}
