import { randomUUID } from "node:crypto";
import { createWriteStream, existsSync } from "node:fs";
import { mkdir, readdir, rm, stat } from "node:fs/promises";
import path from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream } from "node:stream/web";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { dataDir, settings } from "../settings";
import { freeBytes, storageFailure } from "../disk";

function uploadDir(slug: string): string {
  return path.join(dataDir(), "uploads", slug);
}

const MB = 1024 * 1024;
/** Uploads that nobody took in are kept this long. */
const KEPT_MS = 2 * 24 * 3600 * 1000;
/** Room that an upload must leave on the disk, so that the databases beside it can go on writing. */
const LEAST_FREE = 200 * MB;

/** The file of an upload. */
export function uploadFile(slug: string, upload: string): string {
  return path.join(uploadDir(slug), `${upload}.feed`);
}

/** The file of an upload that must still be there. @throws FailureError when it is not */
export function knownUpload(slug: string, upload: string): string {
  const file = uploadFile(slug, upload);
  if (!existsSync(file)) giveUp("upload-gone", "That upload is no longer there.", "Upload the file again.");
  return file;
}

/** Removes uploads left lying for two days. @returns the bytes of the others */
async function tidy(slug: string): Promise<number> {
  await mkdir(uploadDir(slug), { recursive: true });
  let bytes = 0;
  for (const name of await readdir(uploadDir(slug))) {
    const file = path.join(uploadDir(slug), name);
    const found = await stat(file).catch(() => null);
    if (found && Date.now() - found.mtimeMs > KEPT_MS) await rm(file, { force: true });
    else bytes += found?.size ?? 0;
  }
  return bytes;
}

/** A new name for an upload, with its folder made. @throws FailureError when the workspace or the disk has no room for one */
export async function newUpload(slug: string): Promise<{ upload: string; file: string; room: number }> {
  const quota = settings().HOTSHELF_UPLOADS_MB * MB;
  const room = quota - (await tidy(slug));
  if (room <= 0) throw new FailureError(overQuota());
  if ((await freeBytes()) < LEAST_FREE) {
    giveUp(
      "disk-full",
      "There is no room for this file on the server's disk. Nothing was changed.",
      "Whoever runs the server can make room in the data folder; then try again.",
    );
  }
  const upload = randomUUID();
  return { upload, file: uploadFile(slug, upload), room };
}

function overQuota() {
  return {
    code: "upload-quota-too-large",
    message: `Files that were uploaded and not read in yet fill the ${settings().HOTSHELF_UPLOADS_MB} MB that this workspace has for them.`,
    hint: "Read them in; those left lying go after two days. HOTSHELF_UPLOADS_MB gives more room.",
  };
}

/** Stores a raw body under a new name, within the limits. @throws FailureError when it is too large or empty; nothing is left then */
export async function storeUpload(slug: string, body: ReadableStream<Uint8Array> | null): Promise<string> {
  if (!body) giveUp("feed-empty", "No file came with the request.", "Send the feed file as the body.");
  const { upload, file, room } = await newUpload(slug);
  const most = settings().HOTSHELF_MAX_UPLOAD_MB * MB;
  let seen = 0;
  const guard = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      seen += chunk.length;
      const tooLarge = {
        code: "upload-too-large",
        message: `The file is larger than ${settings().HOTSHELF_MAX_UPLOAD_MB} MB.`,
        hint: "Compress it with gzip, or raise HOTSHELF_MAX_UPLOAD_MB.",
      };
      const failure = seen > most ? tooLarge : seen > room ? overQuota() : null;
      done(failure && new FailureError(failure), chunk);
    },
  });
  try {
    await pipeline(Readable.fromWeb(body), guard, createWriteStream(file));
  } catch (error) {
    await rm(file, { force: true });
    const noRoom = storageFailure(error);
    throw noRoom ? new FailureError(noRoom) : error;
  }
  return upload;
}

/**
 * Stores a raw body and looks at it at once; a file that is refused is gone at once too.
 * @param isKept whether the file is needed after the first look
 */
export async function takeUpload<T>(
  slug: string,
  body: unknown,
  look: (upload: string) => Promise<T>,
  isKept: boolean,
): Promise<T> {
  const upload = await storeUpload(slug, body as ReadableStream<Uint8Array> | null);
  let isWanted = false;
  try {
    const found = await look(upload);
    isWanted = isKept;
    return found;
  } finally {
    if (!isWanted) await rm(uploadFile(slug, upload), { force: true });
  }
}
