import { request as httpRequest, type ClientRequest, type IncomingMessage } from "node:http";
import { Readable } from "node:stream";
import { setTimeout as sleep } from "node:timers/promises";
import { findEndpoint, handleApi } from "../api/handle";
import { log } from "../log";
import { endCounter, isHeldUp } from "./held-up";

/** How long a request waits for a counter that is being opened again, in ms. */
const MOST_WAIT = 10_000;
const LOOK_EVERY = 50;

/** Requests under way at each counter, by its socket. */
const underWay = new Map<string, number>();

/** The counters' sockets: the first is for quick requests, the others for what takes long. Empty without counters. */
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

/** Answers an API request: at a counter where there are any, so that the web process stays free, else here. */
export async function answerApi(request: Request): Promise<Response> {
  const { pathname, search } = new URL(request.url);
  const path = pathname.slice("/api/v1/".length);
  const sockets = counters();
  if (sockets.length === 0) return handleApi(request, path);
  const socket = chooseCounter(sockets, isHeavy(request.method, path));
  underWay.set(socket, (underWay.get(socket) ?? 0) + 1);
  try {
    return await forwardPatiently(request, socket, pathname + search);
  } catch (error) {
    // Whoever asked has gone; nobody reads the answer, and nothing went wrong.
    if (request.signal.aborted) {
      void endAbandoned(socket, path);
      return new Response(null, { status: 499 });
    }
    log.error({ err: error, path }, "a counter did not answer");
    const failure = {
      code: "counter-lost",
      message: "The work on this request was broken off. What it had not finished was not done.",
      hint: "Try again in a moment.",
    };
    return Response.json({ error: failure }, { status: 503 });
  } finally {
    underWay.set(socket, (underWay.get(socket) ?? 1) - 1);
  }
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

/** Forwards a request; one that only reads is asked once more where its counter ended on the way. */
async function forwardPatiently(request: Request, socket: string, path: string): Promise<Response> {
  try {
    return await forward(request, socket, path);
  } catch (error) {
    const isReading = request.method === "GET" || request.method === "HEAD";
    if (!isReading || request.signal.aborted) throw error;
    return forward(request, socket, path);
  }
}

async function forward(request: Request, socket: string, path: string): Promise<Response> {
  const incoming = await send(request, socket, path);
  const headers = new Headers();
  for (const [name, value] of Object.entries(incoming.headers)) {
    if (name === "set-cookie") for (const cookie of value ?? []) headers.append(name, cookie);
    else if (value !== undefined && name !== "connection" && name !== "keep-alive" && name !== "transfer-encoding") {
      headers.set(name, Array.isArray(value) ? value.join(", ") : value);
    }
  }
  const body = incoming.statusCode === 204 ? null : (Readable.toWeb(incoming) as ReadableStream<Uint8Array>);
  return new Response(body, { status: incoming.statusCode ?? 502, headers });
}

/** Sends a request once the counter is open. Nothing is sent twice: what broke off after it began is not tried again. */
async function send(request: Request, socket: string, path: string): Promise<IncomingMessage> {
  const connected = await connect(request, socket, path);
  return new Promise((resolve, reject) => {
    connected.on("response", resolve);
    connected.on("error", reject);
    request.signal.addEventListener("abort", () => connected.destroy());
    if (request.body) {
      Readable.fromWeb(request.body as Parameters<typeof Readable.fromWeb>[0])
        .on("error", (error) => connected.destroy(error))
        .pipe(connected);
    } else connected.end();
  });
}

async function connect(request: Request, socket: string, path: string): Promise<ClientRequest> {
  for (const until = Date.now() + MOST_WAIT; ;) {
    const made = httpRequest({
      socketPath: socket,
      path,
      method: request.method,
      headers: Object.fromEntries(request.headers),
    });
    const opened = await new Promise<true | NodeJS.ErrnoException>((resolve) => {
      made.once("error", resolve);
      made.once("socket", (channel) => {
        if (!channel.connecting) resolve(true);
        else channel.once("connect", () => resolve(true));
      });
    });
    if (opened === true) {
      made.removeAllListeners("error");
      return made;
    }
    if (!["ENOENT", "ECONNREFUSED"].includes(opened.code ?? "") || Date.now() > until) throw opened;
    await sleep(LOOK_EVERY);
  }
}
