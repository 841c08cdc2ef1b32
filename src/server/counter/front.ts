import type { IncomingMessage, ServerResponse } from "node:http";
import { connect, type Socket } from "node:net";
import { PassThrough } from "node:stream";
import { pipeline } from "node:stream/promises";
import { setTimeout as sleep } from "node:timers/promises";
import { Client, type Dispatcher } from "undici";
import { findEndpoint } from "../api/handle";
import { PREFIX } from "../api/prefix";
import { log } from "../log";
import { endCounter, isHeldUp } from "./held-up";
import { headersOf, lengthOf, passable } from "./pass-headers";

/** How long a request waits for a counter that is being opened again, in ms. */
const MOST_WAIT = 10_000;
const LOOK_EVERY = 50;

/** Requests under way at each counter, by its socket. */
const underWay = new Map<string, number>();

/** The counters' sockets: the first is for quick requests, the others for what takes long. */
function counters(): string[] {
  return (process.env["HOTSHELF_COUNTERS"] ?? "").split(",").filter((socket) => socket !== "");
}

/** Whether a request takes long; one whose address can't be read is refused at once. */
function isHeavy(method: string, path: string): boolean {
  try {
    return findEndpoint(method, path)?.endpoint.heavy ?? false;
  } catch {
    return false;
  }
}

/**
 * Passes an API request on to a counter and its answer back, so that the web process stays free. Each has a connection of
 * its own, which ends with it: whatever one request leaves there, no other one is read from it.
 */
export async function passOn(incoming: IncomingMessage, outgoing: ServerResponse): Promise<void> {
  const method = incoming.method ?? "GET";
  const path = new URL(incoming.url ?? "/", "http://here").pathname.slice(PREFIX.length);
  const gone = new AbortController();
  outgoing.on("close", () => gone.abort());
  await atCounter(method, path, async (socket) => {
    try {
      await askPatiently({ incoming, outgoing, method, socket, signal: gone.signal });
    } catch (error) {
      // Whoever asked has gone; nobody reads the answer, and nothing went wrong.
      if (outgoing.closed && !outgoing.writableFinished) void endAbandoned(socket, path);
      else lost(outgoing, error, path);
    }
  });
}

/** Does something at the counter that a request belongs to, which counts as busy with it meanwhile. @param path below the prefix */
export async function atCounter<T>(method: string, path: string, work: (socket: string) => Promise<T>): Promise<T> {
  const socket = chooseCounter(counters(), isHeavy(method, path));
  underWay.set(socket, (underWay.get(socket) ?? 0) + 1);
  try {
    return await work(socket);
  } finally {
    underWay.set(socket, (underWay.get(socket) ?? 1) - 1);
  }
}

/** Says that a counter did not answer; where its answer has begun, that breaks off. */
function lost(outgoing: ServerResponse, error: unknown, path: string): void {
  log.error({ err: error, path }, "a counter did not answer");
  if (outgoing.headersSent) {
    outgoing.destroy();
    return;
  }
  const failure = {
    code: "counter-lost",
    message: "The work on this request was broken off. What it had not finished was not done.",
    hint: "Try again in a moment.",
  };
  outgoing.writeHead(503, { "content-type": "application/json", connection: "close" });
  outgoing.end(JSON.stringify({ error: failure }));
}

/** Quick requests go to the first counter; heavy ones to the least busy of the others, the first of these when all are free. */
function chooseCounter(sockets: string[], isHeavy: boolean): string {
  const [quick, ...heavy] = sockets as [string, ...string[]];
  if (!isHeavy || heavy.length === 0) return quick;
  return heavy.reduce((best, socket) => ((underWay.get(socket) ?? 0) < (underWay.get(best) ?? 0) ? socket : best));
}

/** A counter that works on for somebody who has gone is let do so for so long, ms: most work ends before. */
const ABANDONED_GRACE = 3000;
/** What it holds up may be the work of others who still wait; so they are given so long, ms. */
const OTHERS_GRACE = 20_000;
const LOOK_AGAIN = 1000;
/** Counters that are being watched for abandoned work. */
const watched = new Set<string>();

/** Ends a counter that nobody waits for and that is held up; one that others wait at only when it stays so. */
async function endAbandoned(socket: string, path: string): Promise<void> {
  if (watched.has(socket)) return;
  watched.add(socket);
  try {
    await sleep(ABANDONED_GRACE);
    for (const until = performance.now() + OTHERS_GRACE; await isHeldUp(socket); await sleep(LOOK_AGAIN)) {
      if ((underWay.get(socket) ?? 0) > 0 && performance.now() < until) continue;
      if (await endCounter(socket)) log.warn({ path }, "a counter held up by abandoned work was ended");
      return;
    }
  } finally {
    watched.delete(socket);
  }
}

interface Asked {
  incoming: IncomingMessage;
  outgoing: ServerResponse;
  method: string;
  socket: string;
  signal: AbortSignal;
}

/** Asks a counter; one that only reads is asked once more where its counter ended on the way. */
async function askPatiently(asked: Asked): Promise<void> {
  try {
    await ask(asked);
  } catch (error) {
    const isReading = asked.method === "GET" || asked.method === "HEAD";
    if (!isReading || asked.signal.aborted || asked.outgoing.headersSent) throw error;
    await ask(asked);
  }
}

/** A connection to a counter for one request. */
export function clientOf(socket: string, signal: AbortSignal): Client {
  return new Client("http://counter", {
    connect: (_options, done) =>
      void open(socket, signal).then(
        (opened) => done(null, opened),
        (error: Error) => done(error, null),
      ),
    // One request a connection.
    pipelining: 0,
    headersTimeout: 0,
    bodyTimeout: 0,
  });
}

async function ask({ incoming, outgoing, method, socket, signal }: Asked): Promise<void> {
  const odd = new AbortController();
  const client = clientOf(socket, signal);
  try {
    const answered = await client.request({
      path: incoming.url ?? "/",
      method: method as Dispatcher.HttpMethod,
      headers: headersOf(incoming),
      body: bodyOf(incoming),
      signal: AbortSignal.any([signal, odd.signal]),
      // A counter says nothing before its answer. One that does is not to be trusted with it.
      onInfo: () => odd.abort(new Error("a counter sent something before its answer")),
    });
    // What was not taken of the request has no one to read it; the connection that still carries it ends.
    if (!incoming.complete) outgoing.setHeader("connection", "close");
    outgoing.writeHead(answered.statusCode, passable(answered.headers));
    await pipeline(answered.body, outgoing);
  } finally {
    // Unread bytes of the request or the answer end with it.
    client.destroy().catch(() => {});
  }
}

/** The body of a request, apart from its connection, which goes on when a counter wants no more of it; null where there is none. */
function bodyOf(incoming: IncomingMessage): PassThrough | null {
  const length = lengthOf(incoming);
  if (length === 0) return null;
  return incoming.pipe(new PassThrough());
}

/** A connection to a counter, once it is open. */
async function open(path: string, signal: AbortSignal): Promise<Socket> {
  for (const until = Date.now() + MOST_WAIT; ; await sleep(LOOK_EVERY, undefined, { signal })) {
    const made = connect(path);
    const opened = await new Promise<true | NodeJS.ErrnoException>((resolve) => {
      made.once("error", resolve);
      made.once("connect", () => resolve(true));
    });
    if (opened === true) {
      made.removeAllListeners("error");
      return made;
    }
    if (!["ENOENT", "ECONNREFUSED"].includes(opened.code ?? "") || Date.now() > until) throw opened;
  }
}
