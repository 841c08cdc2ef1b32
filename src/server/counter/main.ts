import { createServer, type IncomingMessage, type ServerResponse } from "node:http";
import { rm } from "node:fs/promises";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { handleApi } from "../api/handle";
import { PREFIX } from "../api/prefix";
import { log } from "../log";
import { listenForEnd } from "./held-up";
import { lengthOf } from "./pass-headers";

/**
 * A counter: a process that answers API requests for the web server, over a socket file of this machine. Whatever takes
 * long here holds up nobody at the other counters, and never a page.
 */
const socket = process.argv[2];
if (!socket) throw new Error("a counter needs the path of its socket");

async function answer(incoming: IncomingMessage, outgoing: ServerResponse): Promise<void> {
  const gone = new AbortController();
  outgoing.on("close", () => gone.abort());
  const host = incoming.headers.host ?? "localhost";
  const headers = new Headers();
  for (const [name, value] of Object.entries(incoming.headers)) {
    if (value !== undefined) headers.set(name, Array.isArray(value) ? value.join(", ") : value);
  }
  const hasBody = lengthOf(incoming) !== 0;
  const url = `http://${host}${incoming.url ?? ""}`;
  const init = { method: incoming.method, headers, signal: gone.signal, duplex: "half" };
  const request = new Request(url, { ...init, ...(hasBody ? { body: Readable.toWeb(incoming) } : {}) } as RequestInit);
  const response = await handleApi(request, new URL(url).pathname.slice(PREFIX.length));
  // Of cookies there may be several, each a header of its own.
  const cookies = response.headers.getSetCookie();
  const told = { ...Object.fromEntries(response.headers), ...(cookies.length > 0 ? { "set-cookie": cookies } : {}) };
  outgoing.writeHead(response.status, told);
  if (response.body && incoming.method !== "HEAD") {
    await pipeline(Readable.fromWeb(response.body as Parameters<typeof Readable.fromWeb>[0]), outgoing);
  } else outgoing.end();
}

await rm(socket, { force: true });
listenForEnd(socket);
const server = createServer((incoming, outgoing) => {
  answer(incoming, outgoing).catch((error: unknown) => {
    // Who asked has gone, or the answer broke off on its way; there is nobody left to tell.
    log.debug({ err: error }, "a request broke off");
    outgoing.destroy();
  });
});
server.requestTimeout = 0;
// One request a connection: whatever follows it there is nobody's.
server.maxRequestsPerSocket = 1;
server.listen(socket);
const stop = () => process.exit(0);
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, stop);
// When the start script goes, its pipe closes and so does the counter.
process.stdin.on("end", stop).resume();
