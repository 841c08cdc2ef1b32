import { createHash } from "node:crypto";
import { desc, eq } from "drizzle-orm";
import { imageSize } from "image-size";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { pictures } from "@/db/schema";

/** An uploaded picture without its content. */
export interface PictureInfo {
  id: string;
  name: string;
  width: number;
  height: number;
  at: number;
}

/** Types that are taken, by what the file itself says it is. */
const TYPES: Record<string, string> = { png: "image/png", jpg: "image/jpeg", webp: "image/webp" };

/** Characters of the content's hash that name it. */
const ID_LENGTH = 24;

/** Reads a body whole, or says that it is larger than a picture may be. */
async function readWhole(body: ReadableStream<Uint8Array>, most: number): Promise<Buffer | null> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  const reader = body.getReader();
  for (let next = await reader.read(); !next.done; next = await reader.read()) {
    size += next.value.byteLength;
    if (size > most) {
      await reader.cancel();
      return null;
    }
    chunks.push(next.value);
  }
  return Buffer.concat(chunks);
}

/** What a file's own bytes say of its form and size; null where it is no picture that is known. */
function lookAt(content: Buffer): { type: string; width: number; height: number } | null {
  try {
    const { type, width, height } = imageSize(content);
    const known = TYPES[type ?? ""];
    return known ? { type: known, width, height } : null;
  } catch {
    return null;
  }
}

/** Keeps a picture for ads (PNG, JPEG or WebP), once however often it is uploaded. */
export async function keepPicture(
  db: Database,
  who: string,
  name: string,
  body: ReadableStream<Uint8Array> | null,
): Promise<Outcome<PictureInfo>> {
  const { pictureBytes, pictureSide } = CHANNEL_LIMITS;
  const content = body && (await readWhole(body, pictureBytes));
  if (body && !content) {
    return fail(
      "picture-too-large",
      `“${name}” is larger than the ${pictureBytes / 1_000_000} MB that the channel takes.`,
      "Save it smaller and upload it again.",
    );
  }
  const found = content && lookAt(content);
  if (!content || !found) {
    return fail("picture-unreadable", `“${name}” is no PNG, JPEG or WebP picture.`, "Save it as one of these.");
  }
  const { type, width, height } = found;
  if (width < pictureSide || height < pictureSide) {
    return fail(
      "picture-small",
      `“${name}” measures ${width} × ${height} pixels; the channel takes ${pictureSide} × ${pictureSide} and up.`,
      "Upload a larger one.",
    );
  }
  const id = createHash("sha256").update(content).digest("hex").slice(0, ID_LENGTH);
  const at = Date.now();
  await db.insert(pictures).values({ id, name, type, width, height, content, who, at }).onConflictDoNothing();
  return ok({ id, name, width, height, at });
}

/** All uploaded pictures, newest first. */
export async function listPictures(db: Database): Promise<PictureInfo[]> {
  const { id, name, width, height, at } = pictures;
  return db.select({ id, name, width, height, at }).from(pictures).orderBy(desc(pictures.at));
}

/** A picture as it was uploaded. */
export async function findPicture(
  db: Database,
  id: string,
): Promise<Outcome<{ name: string; type: string; content: Buffer }>> {
  const { name, type, content } = pictures;
  const [found] = await db.select({ name, type, content }).from(pictures).where(eq(pictures.id, id));
  return found ? ok(found) : fail("picture-unknown", "That picture is not there any more.", "Upload it again.");
}
