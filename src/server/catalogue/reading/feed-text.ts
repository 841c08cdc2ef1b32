import { isUtf8 } from "node:buffer";
import { createReadStream, createWriteStream } from "node:fs";
import { open, stat } from "node:fs/promises";
import { Transform, type Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { createGunzip } from "node:zlib";
import { countBesideLetters, isCentralEuropean } from "@/core/catalogue/central-europe";
import { detectEncoding, isGzip, type Encoding } from "@/core/catalogue/detect";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { settings } from "../../settings";

/** Bytes read at a time; also how finely progress is known. */
const CHUNK = 1024 * 1024;
/** Text compresses some 5 to 30 times. Beyond this ratio (once it matters) a gzip file is a bomb, not a feed. */
const MOST_INFLATION = 250;
const INFLATION_MATTERS = 20 * 1024 * 1024;

export interface FeedText {
  encoding: Encoding;
  compressed: boolean;
  /** Bytes of text after decompression. */
  bytes: number;
  /** Opens the decoded text anew. */
  read(): AsyncIterable<string>;
}

/** The raw bytes of a feed file, decompressed where it is gzip, within the size limits. */
function feedBytes(file: string, compressed: boolean, fileBytes: number): Readable {
  const source = createReadStream(file, { highWaterMark: CHUNK });
  if (!compressed) return source;
  const most = settings().HOTSHELF_MAX_FEED_MB * 1024 * 1024;
  let seen = 0;
  const guard = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      seen += chunk.length;
      if (seen > INFLATION_MATTERS && seen > fileBytes * MOST_INFLATION) {
        done(
          new FailureError({
            code: "feed-gzip-bomb",
            message: `The gzip file blows up to more than ${MOST_INFLATION} times its size, which no feed does. It was not read further.`,
            hint: "Upload the feed without compression, or compress it again.",
          }),
        );
      } else if (seen > most) done(tooLarge());
      else done(null, chunk);
    },
  });
  const gunzip = createGunzip({ chunkSize: CHUNK });
  source.on("error", (error) => guard.destroy(error));
  gunzip.on("error", () =>
    guard.destroy(
      new FailureError({
        code: "feed-gzip-broken",
        message: "The gzip file is broken or cut off. Nothing was taken in.",
        hint: "Fetch it again; a download that stopped early looks like this.",
      }),
    ),
  );
  return source.pipe(gunzip).pipe(guard);
}

function tooLarge(): FailureError {
  return new FailureError({
    code: "feed-too-large",
    message: `The feed is larger than ${settings().HOTSHELF_MAX_FEED_MB} MB.`,
    hint: "Split it, leave long columns out, or raise HOTSHELF_MAX_FEED_MB.",
  });
}

/**
 * Unpacks a gzip file within the limits.
 * @param how "look" stops after the first piece and writes nothing
 * @returns the first bytes of what is inside
 */
export async function gunzipToFile(file: string, fileBytes: number, to: string, how: "look" | "all") {
  const bytes = feedBytes(file, true, fileBytes);
  if (how === "all") {
    await pipeline(bytes, createWriteStream(to));
    return { head: Buffer.alloc(0) };
  }
  for await (const chunk of bytes as AsyncIterable<Buffer>) return { head: chunk };
  return giveUp("feed-empty", "The gzip file holds nothing.", "Export the feed again and upload it.");
}

/**
 * Looks at a feed file and makes it readable as text: gzip and encoding are found out, and UTF-8 is checked to the
 * last byte before anything is taken in; a feed that is not UTF-8 is read as Windows-1250 where its letters say so, else
 * as Latin-1 (Windows-1252).
 * @param wanted the encoding that a person chose instead
 * @throws FailureError when it is empty, another kind of file, broken or too large
 */
export async function openFeedText(file: string, wanted: Encoding | null = null): Promise<FeedText> {
  const { size } = await stat(file);
  if (size === 0) giveUp("feed-empty", "The file is empty.", "Export the feed again and upload it.");
  const handle = await open(file);
  const head = Buffer.alloc(Math.min(size, 65_536));
  await handle.read(head, 0, head.length, 0);
  await handle.close();
  const compressed = isGzip(head);
  let encoding: Encoding | undefined;
  let bytes = 0;
  let strict: Utf8Check | undefined;
  for await (const chunk of feedBytes(file, compressed, size) as AsyncIterable<Buffer>) {
    if (encoding === undefined) {
      const found = detectEncoding(chunk);
      if (!found.ok) throw new FailureError(found.error);
      encoding = wanted ?? found.value;
      if (encoding === "utf-8" && wanted === null) strict = new Utf8Check();
    }
    bytes += chunk.length;
    if (bytes > settings().HOTSHELF_MAX_FEED_MB * 1024 * 1024) throw tooLarge();
    strict?.add(chunk);
  }
  if (strict && !strict.holds()) {
    const counts = new Float64Array(256);
    for await (const chunk of feedBytes(file, compressed, size)) countBesideLetters(chunk as Buffer, counts);
    encoding = isCentralEuropean(counts) ? "windows-1250" : "windows-1252";
  }
  if (encoding === undefined) giveUp("feed-empty", "The file is empty.", "Export the feed again and upload it.");
  const found: Encoding = encoding;
  return {
    encoding: found,
    compressed,
    bytes,
    async *read() {
      const decoder = new TextDecoder(found);
      for await (const chunk of feedBytes(file, compressed, size) as AsyncIterable<Buffer>) {
        const text = decoder.decode(chunk, { stream: true });
        if (text !== "") yield text;
      }
      const rest = decoder.decode();
      if (rest !== "") yield rest;
    },
  };
}

/** Checks whether bytes that come in pieces are UTF-8; a character cut by a piece's end is carried over to the next. */
class Utf8Check {
  private rest: Buffer = Buffer.alloc(0);
  private isValid = true;

  add(chunk: Buffer): void {
    if (!this.isValid) return;
    const bytes = this.rest.length > 0 ? Buffer.concat([this.rest, chunk]) : chunk;
    let end = bytes.length;
    // At most three bytes at the end can belong to a character that goes on.
    for (let back = 1; back <= Math.min(3, bytes.length); back++) {
      const byte = bytes[bytes.length - back]!;
      if (byte >= 0xc0) {
        const length = byte >= 0xf0 ? 4 : byte >= 0xe0 ? 3 : 2;
        if (length > back) end = bytes.length - back;
        break;
      }
      if (byte < 0x80) break;
    }
    this.isValid = isUtf8(bytes.subarray(0, end));
    this.rest = Buffer.from(bytes.subarray(end));
  }

  holds(): boolean {
    return this.isValid && isUtf8(this.rest);
  }
}
