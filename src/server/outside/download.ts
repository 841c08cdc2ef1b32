import { createWriteStream } from "node:fs";
import { rm } from "node:fs/promises";
import { Transform } from "node:stream";
import { pipeline } from "node:stream/promises";
import { setTimeout as sleep } from "node:timers/promises";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { settings } from "../settings";
import { fetchSafely, PassingFailure, type Fetched } from "./fetch-safely";

const TRIES = 3;

export type Version = { etag?: string; lastModified?: string };

/** An address, and the Authorization header it is asked with. */
export interface Asked {
  url: string;
  login: string | null;
}

export interface Download {
  /** False when the other side says that nothing changed since `version`; then no file was written. */
  isNew: boolean;
  version: Version;
  bytes: number;
}

/**
 * Downloads a feed to a file: asks only for what changed, tries again after failures that may pass, and keeps the limits
 * of size and time.
 * @param progress told the bytes that have come so far and how many there will be
 * @throws FailureError with a sentence; no file is left behind
 */
export async function download(
  asked: Asked,
  file: string,
  version: Version,
  progress: (bytes: number, total: number | null) => Promise<void>,
): Promise<Download> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await tryDownload(asked, file, version, progress);
    } catch (error) {
      await rm(file, { force: true });
      if (!(error instanceof PassingFailure) || attempt === TRIES) throw error;
      await sleep(settings().HOTSHELF_RETRY_MS * attempt);
    }
  }
}

async function tryDownload(
  { url, login }: Asked,
  file: string,
  version: Version,
  progress: (bytes: number, total: number | null) => Promise<void>,
): Promise<Download> {
  const answer = await fetchSafely(url, {
    ...(login ? { authorization: login } : {}),
    ...(version.etag ? { "if-none-match": version.etag } : {}),
    ...(version.lastModified ? { "if-modified-since": version.lastModified } : {}),
  });
  if (answer.status === 304) {
    answer.body.destroy();
    if (!version.etag && !version.lastModified) {
      giveUp(
        "address-refused",
        `${new URL(answer.url).host} says that nothing has changed (304), though nothing of it was read yet.`,
        "Its cache may answer for it. Nothing was read; ask whoever runs it, or add something to the address such as ?v=1.",
      );
    }
    return { isNew: false, version, bytes: 0 };
  }
  checkStatus(answer);
  const { etag, "last-modified": lastModified } = answer.headers;
  const total = Number(answer.headers["content-length"]) || null;
  const bytes = await save(answer, file, (seen) => progress(seen, total));
  if (total !== null && bytes < total) {
    throw new PassingFailure({
      code: "address-cut-off",
      message: `The download from ${new URL(answer.url).host} stopped after ${bytes} of ${total} bytes.`,
      hint: "It is tried again at the next time set.",
    });
  }
  return { isNew: true, version: { ...(etag ? { etag } : {}), ...(lastModified ? { lastModified } : {}) }, bytes };
}

function checkStatus({ status, url, headers, body }: Fetched): void {
  const { host } = new URL(url);
  if (status >= 500 || status === 429) {
    body.destroy();
    throw new PassingFailure({
      code: "address-failing",
      message: `${host} answered ${status}, ${status === 429 ? "too many requests" : "a fault of its own"}.`,
      hint: "It is tried again at the next time set.",
    });
  }
  if (status !== 200) {
    body.destroy();
    const why = { 401: "a login is asked for", 403: "it is not allowed", 404: "there is nothing at this address" }[
      status
    ];
    giveUp(
      "address-refused",
      `${host} answered ${status}${why ? `: ${why}` : ""}.`,
      "Check the address and try again.",
    );
  }
  if (/^text\/html|^application\/xhtml/i.test(headers["content-type"] ?? "")) {
    body.destroy();
    giveUp(
      "feed-is-page",
      `${host} sent a web page, not a feed.`,
      "Perhaps it asks for a login. Give the feed's own address.",
    );
  }
  const encoding = headers["content-encoding"];
  if (encoding && !["identity", "gzip", "x-gzip"].includes(encoding)) {
    body.destroy();
    giveUp(
      "address-encoding",
      `${host} sent the feed packed as "${encoding}", which was not asked for.`,
      "Serve it plain or as gzip.",
    );
  }
}

async function save({ body, url }: Fetched, file: string, progress: (bytes: number) => Promise<void>): Promise<number> {
  const { HOTSHELF_MAX_UPLOAD_MB, HOTSHELF_FETCH_SECONDS } = settings();
  const most = HOTSHELF_MAX_UPLOAD_MB * 1024 * 1024;
  const until = Date.now() + HOTSHELF_FETCH_SECONDS * 1000;
  const { host } = new URL(url);
  let bytes = 0;
  const guard = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      bytes += chunk.length;
      if (bytes > most) {
        return done(
          new FailureError({
            code: "feed-too-large",
            message: `${host} sent more than ${HOTSHELF_MAX_UPLOAD_MB} MB and was cut off.`,
            hint: "Serve it compressed with gzip, or raise HOTSHELF_MAX_UPLOAD_MB.",
          }),
        );
      }
      if (Date.now() > until) {
        return done(
          new FailureError({
            code: "address-endless",
            message: `${host} was still sending after ${HOTSHELF_FETCH_SECONDS} seconds and was cut off.`,
            hint: "Check that the address gives a feed and not a stream without end, or raise HOTSHELF_FETCH_SECONDS.",
          }),
        );
      }
      progress(bytes).then(
        () => done(null, chunk),
        (error: Error) => done(error),
      );
    },
  });
  const deadline = setTimeout(() => body.destroy(new Error("too long")), HOTSHELF_FETCH_SECONDS * 1000 + 1000);
  try {
    await pipeline(body, guard, createWriteStream(file));
  } catch (error) {
    if (error instanceof FailureError || (error as Error).constructor.name === "Cancelled") throw error;
    throw new PassingFailure({
      code: "address-cut-off",
      message: `The download from ${host} broke off after ${bytes} bytes.`,
      hint: "It is tried again at the next time set.",
    });
  } finally {
    clearTimeout(deadline);
  }
  return bytes;
}
