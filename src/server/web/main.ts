import { readFileSync } from "node:fs";
import { createServer, type IncomingMessage, type RequestListener, type Server } from "node:http";
import { createServer as createSecureServer } from "node:https";
import next from "next";
import { log } from "../log";
import { isSignInOn, settings } from "../settings";
import { founderLink, hasPeople } from "../sign-in/people";
import { exposureFault, isSecure } from "../exposure";
import { turnedAway, vouchFor } from "./gate";

/** Ended so when it is set up wrongly: trying again would not help. */
const WRONG_SETUP = 78;
/** The longest that the head of a request, and a whole one, may take to arrive, ms. An upload is a request. */
const MOST_HEAD = 20_000;
const MOST_REQUEST = 20 * 60_000;

const fault = exposureFault();
if (fault) {
  console.error(fault);
  process.exit(WRONG_SETUP);
}

const { HOST, PORT, HOTSHELF_TLS_CERT, HOTSHELF_TLS_KEY } = settings();
const isDev = process.argv.includes("--dev");
const app = next({ dev: isDev, hostname: HOST, port: PORT });
await app.prepare();
const pages = app.getRequestHandler();

const knockOf = ({ method = "GET", url = "/", headers, socket }: IncomingMessage) => ({
  ...{ method, url, headers },
  remote: socket.remoteAddress ?? "",
});

const listener: RequestListener = (incoming, outgoing) => {
  const knock = knockOf(incoming);
  if (isSecure()) outgoing.setHeader("strict-transport-security", "max-age=31536000");
  const refused = turnedAway(knock);
  if (refused) {
    const type = { "content-type": "application/json", "x-content-type-options": "nosniff", connection: "close" };
    outgoing.writeHead(refused.status, type).end(JSON.stringify({ error: refused.failure }));
    return;
  }
  vouchFor(knock);
  pages(incoming, outgoing).catch((error: unknown) => {
    log.error({ err: error }, "a page broke");
    outgoing.destroy();
  });
};

/** The server, over TLS where there is a certificate; one that can't be read is a wrong set-up, said in a sentence. */
function open(): Server {
  if (!HOTSHELF_TLS_CERT) return createServer(listener);
  try {
    const pair = { cert: readFileSync(HOTSHELF_TLS_CERT), key: readFileSync(HOTSHELF_TLS_KEY!) };
    return createSecureServer(pair, listener);
  } catch (error) {
    console.error(`The certificate or its key can't be used: ${(error as Error).message}. It was not started.`);
    return process.exit(WRONG_SETUP);
  }
}

const server = open();
server.headersTimeout = MOST_HEAD;
server.requestTimeout = MOST_REQUEST;
const upgrade = app.getUpgradeHandler();
server.on("upgrade", (incoming, socket, head) => {
  // Only the development server has anything to say there.
  if (isDev && !turnedAway(knockOf(incoming))) void upgrade(incoming, socket, head);
  else socket.destroy();
});
server.on("error", (error: NodeJS.ErrnoException) => {
  console.error(error.code === "EADDRINUSE" ? `Something else answers on port ${PORT} already.` : String(error));
  process.exit(1);
});
server.listen(PORT, HOST, () => void welcome());
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => process.exit(0));

/** Tells whoever starts the server how the first person comes in. */
async function welcome(): Promise<void> {
  if (!isSignInOn() || (await hasPeople())) return;
  const origin = `${isSecure() ? "https" : "http"}://${HOST}:${PORT}`;
  const link = `${origin}/welcome/${await founderLink()}`;
  console.log(`\nNobody can sign in yet. Whoever opens this link within an hour sets Hot Shelf up:\n${link}\n`);
}
