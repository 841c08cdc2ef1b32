import { randomUUID } from "node:crypto";
import { createWriteStream, existsSync } from "node:fs";
import { mkdir, readdir, rm, stat } from "node:fs/promises";
import path from "node:path";
import { Readable, Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { ReadableStream } from "node:stream/web";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { dataDir, settings } from "../settings";

function uploadDir(slug: string): string {
  return path.join(dataDir(), "uploads", slug);
}

/** Uploads that nobody took in are kept this long. */
const KEPT_MS = 2 * 24 * 3600 * 1000;

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

/** A new name for an upload, with its folder made. Uploads left lying for two days go. */
export async function newUpload(slug: string): Promise<{ upload: string; file: string }> {
  await mkdir(uploadDir(slug), { recursive: true });
  for (const name of await readdir(uploadDir(slug))) {
    const file = path.join(uploadDir(slug), name);
    const found = await stat(file).catch(() => null);
    if (found && Date.now() - found.mtimeMs > KEPT_MS) await rm(file, { force: true });
  }
  const upload = randomUUID();
  return { upload, file: uploadFile(slug, upload) };
}

/** Stores a raw body under a new name, within the size limit. @throws FailureError when it is too large or empty */
export async function storeUpload(slug: string, body: ReadableStream<Uint8Array> | null): Promise<string> {
  if (!body) giveUp("feed-empty", "No file came with the request.", "Send the feed file as the body.");
  const { upload, file } = await newUpload(slug);
  const most = settings().HOTSHELF_MAX_UPLOAD_MB * 1024 * 1024;
  let seen = 0;
  const guard = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      seen += chunk.length;
      const failure = {
        code: "upload-too-large",
        message: `The file is larger than ${settings().HOTSHELF_MAX_UPLOAD_MB} MB.`,
        hint: "Compress it with gzip, or raise HOTSHELF_MAX_UPLOAD_MB.",
      };
      done(seen > most ? new FailureError(failure) : null, chunk);
    },
  });
  try {
    await pipeline(Readable.fromWeb(body), guard, createWriteStream(file));
  } catch (error) {
    await rm(file, { force: true });
    throw error;
  }
  return upload;
}
