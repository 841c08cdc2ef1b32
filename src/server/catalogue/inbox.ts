import { mkdir, readdir, stat } from "node:fs/promises";
import path from "node:path";
import { inboxDir, settings } from "../settings";

export interface InboxFile {
  name: string;
  file: string;
  size: number;
  /** Changes when the file does. */
  mark: string;
}

/** Whether a file's name fits a pattern in which `*` stands for anything, in any case. Takes time in step with the name's length times the pattern's, whatever they hold. */
export function fitsPattern(name: string, pattern: string): boolean {
  const text = name.toLowerCase();
  const [first, ...rest] = pattern.toLowerCase().split("*") as [string, ...string[]];
  if (rest.length === 0) return text === first;
  const last = rest.pop()!;
  if (!text.startsWith(first)) return false;
  // The earliest place for each part leaves the most room for those after it, so nothing need be tried again.
  let at = first.length;
  for (const part of rest) {
    const found = text.indexOf(part, at);
    if (found < 0) return false;
    at = found + part.length;
  }
  return text.length - last.length >= at && text.endsWith(last);
}

/** What a file is known again by: name, size and when it was written; null when it is gone. */
export async function markOf(file: string): Promise<string | null> {
  const found = await stat(file).catch(() => null);
  return found && `${path.basename(file)}/${found.size}/${Math.round(found.mtimeMs)}`;
}

/**
 * The newest whole file in a workspace's watched folder that fits, or null. A file counts as whole when nothing has been
 * written to it for a while; tools that copy can give it an older day, but not hide when they last touched it. The folder
 * is made when it is not there.
 */
export async function newestInInbox(slug: string, pattern: string, now = Date.now()): Promise<InboxFile | null> {
  const folder = inboxDir(slug);
  await mkdir(folder, { recursive: true });
  let newest: (InboxFile & { at: number }) | null = null;
  for (const entry of await readdir(folder, { withFileTypes: true })) {
    // Links are left alone: they could lead out of the folder.
    if (!entry.isFile() || !fitsPattern(entry.name, pattern)) continue;
    const file = path.join(folder, entry.name);
    const found = await stat(file).catch(() => null);
    const touched = found ? Math.max(found.mtimeMs, found.ctimeMs) : 0;
    if (!found || found.size === 0 || now - touched < settings().HOTSHELF_STILL_SECONDS * 1000) continue;
    if (newest && found.mtimeMs <= newest.at) continue;
    const mark = `${entry.name}/${found.size}/${Math.round(found.mtimeMs)}`;
    newest = { name: entry.name, file, size: found.size, mark, at: found.mtimeMs };
  }
  return newest;
}
