import { settings, LOOPBACK } from "./settings";

/** Whether browsers reach this server over TLS: its own, or that of a trusted proxy in front. */
export function isSecure(): boolean {
  const { HOTSHELF_TLS_CERT, HOTSHELF_TLS_KEY, HOTSHELF_TRUSTED_PROXY } = settings();
  return Boolean(HOTSHELF_TLS_CERT && HOTSHELF_TLS_KEY) || HOTSHELF_TRUSTED_PROXY.size > 0;
}

/** Why the server must not start as it is set up, or null. */
export function exposureFault(): string | null {
  const { HOST, HOTSHELF_TLS_CERT, HOTSHELF_TLS_KEY } = settings();
  if (Boolean(HOTSHELF_TLS_CERT) !== Boolean(HOTSHELF_TLS_KEY)) {
    return "HOTSHELF_TLS_CERT and HOTSHELF_TLS_KEY go together; one of them is missing.";
  }
  if (LOOPBACK.test(HOST.toLowerCase()) || isSecure()) return null;
  return [
    `HOST is ${HOST}, so others could reach this server, and passwords would cross the network in plain text.`,
    "Give it a certificate (HOTSHELF_TLS_CERT and HOTSHELF_TLS_KEY), or name the proxy in front of it that speaks TLS",
    "(HOTSHELF_TRUSTED_PROXY), or leave HOST at 127.0.0.1. It was not started.",
  ].join("\n");
}
