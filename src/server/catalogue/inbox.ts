import { mkdir, readdir, stat } from "node:fs/promises";
import path from "node:path";
import { inboxDir } from "../settings";

/** A file that was written within this time may still be growing. */
const SETTLE_MS = 2000;

export interface InboxFile {
  name: string;
  file: string;
  size: number;
  /** Changes when the file does. */
  mark: string;
}

/** Whether a file's name fits a pattern in which `*` stands for anything. */
export function fitsPattern(name: string, pattern: string): boolean {
  const parts = pattern.split("*").map((part) => part.replace(/[.+?^${}()|[\]\\]/g, "\\$&"));
  return new RegExp(`^${parts.join(".*")}$`, "i").test(name);
}

/** The newest whole file in a workspace's watched folder that fits, or null. The folder is made when it is not there. */
export async function newestInInbox(slug: string, pattern: string, now = Date.now()): Promise<InboxFile | null> {
  const folder = inboxDir(slug);
  await mkdir(folder, { recursive: true });
  let newest: (InboxFile & { at: number }) | null = null;
  for (const entry of await readdir(folder, { withFileTypes: true })) {
    // Links are left alone: they could lead out of the folder.
    if (!entry.isFile() || !fitsPattern(entry.name, pattern)) continue;
    const file = path.join(folder, entry.name);
    const found = await stat(file).catch(() => null);
    if (!found || found.size === 0 || now - found.mtimeMs < SETTLE_MS) continue;
    if (newest && found.mtimeMs <= newest.at) continue;
    const mark = `${entry.name}/${found.size}/${Math.round(found.mtimeMs)}`;
    newest = { name: entry.name, file, size: found.size, mark, at: found.mtimeMs };
  }
  return newest;
}
