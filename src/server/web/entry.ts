import { createServer, type IncomingMessage, type RequestListener, type Server, type ServerResponse } from "node:http";
import { createServer as createSecureServer } from "node:https";
import type { Socket } from "node:net";
import compression from "compression";
import { passOn } from "../counter/front";
import { isSecure } from "../exposure";
import { log } from "../log";
import { API_ANSWER, EVERY_ANSWER } from "./answer-headers";
import { turnedAway, vouchFor } from "./gate";
import { GuardedSocket, rawAnswer } from "./guarded-socket";

/** The longest that the head of a request, and a whole one, may take to arrive, ms. An upload is a request. */
const MOST_HEAD = 20_000;
const MOST_REQUEST = 20 * 60_000;

/** Answered here and nowhere else: by it pages see that the server is there, however busy it is. */
const ALIVE = "/alive";
const API = /^\/api\/v1\//;

export interface EntrySettings {
  /** Answers what is not for the API. */
  pages: (incoming: IncomingMessage, outgoing: ServerResponse) => Promise<void>;
  /** The certificate and its key, where this server speaks TLS itself. */
  tls?: { cert: Buffer; key: Buffer };
  /** Answers wishes to speak something other than HTTP, as the development server's pages have. */
  upgrade?: (incoming: IncomingMessage, socket: GuardedSocket, head: Buffer) => Promise<void>;
}

const knockOf = ({ method = "GET", url = "/", headers, socket }: IncomingMessage) => ({
  ...{ method, url, headers },
  remote: socket.remoteAddress ?? "",
});

/**
 * The one way in: connections are watched byte by byte, requests that no page and no operation should see are turned away,
 * those for the API are passed on to a counter, and all others to the pages.
 */
export function createEntry({ pages, tls, upgrade }: EntrySettings): Server {
  const compress = compression();
  const listener: RequestListener = (incoming, outgoing) => {
    const knock = knockOf(incoming);
    noteAnswering(incoming, outgoing);
    if (isSecure()) outgoing.setHeader("strict-transport-security", "max-age=31536000");
    const refused = turnedAway(knock);
    if (refused) {
      const type = { "content-type": "application/json", "x-content-type-options": "nosniff", connection: "close" };
      outgoing.writeHead(refused.status, type).end(JSON.stringify({ error: refused.failure }));
      return;
    }
    if (knock.url === ALIVE) {
      outgoing.writeHead(204, { "cache-control": "no-store" }).end();
      return;
    }
    vouchFor(knock);
    const broke = (error: unknown) => {
      log.error({ err: error }, "a page broke");
      outgoing.destroy();
    };
    if (!API.test(knock.url)) {
      pages(incoming, outgoing).catch(broke);
      return;
    }
    for (const [name, value] of Object.entries({ ...EVERY_ANSWER, ...API_ANSWER })) outgoing.setHeader(name, value);
    compress(incoming as never, outgoing as never, () => void passOn(incoming, outgoing).catch(broke));
  };
  const reader = tls ? createSecureServer(tls, listener) : createServer(listener);
  reader.headersTimeout = MOST_HEAD;
  reader.requestTimeout = MOST_REQUEST;
  // Whoever asks first whether a body is wanted is told so only where the request itself is.
  reader.on("checkContinue", (incoming, outgoing) => {
    if (!turnedAway(knockOf(incoming))) outgoing.writeContinue();
    listener(incoming, outgoing);
  });
  reader.on("clientError", (error: NodeJS.ErrnoException, socket) => answerUnread(error, socket as GuardedSocket));
  reader.on("upgrade", (incoming, socket, head) => {
    if (upgrade && !turnedAway(knockOf(incoming))) void upgrade(incoming, socket as GuardedSocket, head);
    else socket.destroy();
  });
  watch(reader, tls ? "secureConnection" : "connection", upgrade !== undefined);
  return reader;
}

/** Puts a guard between every connection and what reads it. */
function watch(reader: Server, event: "connection" | "secureConnection", allowsUpgrade: boolean): void {
  const readers = reader.listeners(event) as ((socket: GuardedSocket) => void)[];
  reader.removeAllListeners(event);
  reader.on(event, (socket: Socket) => {
    socket.setNoDelay(true);
    const guarded = new GuardedSocket(socket, allowsUpgrade);
    for (const read of readers) read.call(reader, guarded);
  });
}

function noteAnswering(incoming: IncomingMessage, outgoing: ServerResponse): void {
  const socket = incoming.socket as unknown as GuardedSocket;
  socket.answering++;
  outgoing.once("close", () => socket.answering--);
}

const UNREAD: Record<string, { status: number; reason: string; message: string }> = {
  HPE_HEADER_OVERFLOW: { status: 431, reason: "Headers Too Large", message: "The head of the request is too large." },
  ERR_HTTP_REQUEST_TIMEOUT: { status: 408, reason: "Request Timeout", message: "The request did not arrive in time." },
};
const UNREADABLE = { status: 400, reason: "Bad Request", message: "The request can't be read." };

/** Answers what never became a request. */
function answerUnread(error: NodeJS.ErrnoException, socket: GuardedSocket): void {
  if (socket.writable && socket.answering === 0 && error.code !== "ECONNRESET") {
    const { status, reason, message } = UNREAD[error.code ?? ""] ?? UNREADABLE;
    socket.end(rawAnswer(status, reason, { code: "input-unread", message, hint: "Nothing was changed." }));
  } else socket.destroy();
}
