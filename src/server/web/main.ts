import { readFileSync } from "node:fs";
import { createSecureContext } from "node:tls";
import next from "next";
import { isSignInOn, settings } from "../settings";
import { askCounter } from "../counter/ask-own";
import { offerToPages } from "../counter/for-pages";
import { founderLink, hasPeople } from "../sign-in/people";
import { exposureFault, isSecure } from "../exposure";
import { createEntry, type EntrySettings } from "./entry";

/** Ended so when it is set up wrongly: trying again would not help. */
const WRONG_SETUP = 78;

const fault = exposureFault();
if (fault) {
  console.error(fault);
  process.exit(WRONG_SETUP);
}

const { HOST, PORT, HOTSHELF_TLS_CERT, HOTSHELF_TLS_KEY } = settings();
const isDev = process.argv.includes("--dev");
offerToPages(askCounter);
const app = next({ dev: isDev, hostname: HOST, port: PORT });
await app.prepare();
const server = createEntry({
  pages: app.getRequestHandler(),
  ...(HOTSHELF_TLS_CERT ? { tls: readPair(HOTSHELF_TLS_CERT, HOTSHELF_TLS_KEY!) } : {}),
  // Only the development server has anything to say there.
  ...(isDev ? { upgrade: app.getUpgradeHandler() as EntrySettings["upgrade"] & {} } : {}),
});
server.on("error", (error: NodeJS.ErrnoException) => {
  console.error(error.code === "EADDRINUSE" ? `Something else answers on port ${PORT} already.` : String(error));
  process.exit(WRONG_SETUP);
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

/** The certificate and its key; one that can't be used is a wrong set-up, said in a sentence. */
function readPair(certFile: string, keyFile: string): { cert: Buffer; key: Buffer } {
  try {
    const pair = { cert: readFileSync(certFile), key: readFileSync(keyFile) };
    createSecureContext(pair);
    return pair;
  } catch (error) {
    console.error(`The certificate or its key can't be used: ${(error as Error).message}. It was not started.`);
    return process.exit(WRONG_SETUP);
  }
}
