import type { IncomingHttpHeaders } from "node:http";
import type { Failure } from "@/core/kit/outcome";
import { isOwnHost } from "../api/own-host";
import { lengthOf } from "../counter/pass-headers";
import { LOOPBACK, settings } from "../settings";
import { FROM_HEADER } from "../sign-in/asker";

/** What is known of a request before anything of it is read. */
export interface Knock {
  method: string;
  url: string;
  headers: IncomingHttpHeaders;
  /** The address at the other end of the connection. */
  remote: string;
}

/** The address without the mark by which IPv4 is told within IPv6. */
const plain = (address: string) => address.replace(/^::ffff:/, "");

/** Whether a connection may carry passwords: over this server's own TLS, from a proxy that speaks it, or within this machine. */
function isTrusted(remote: string): boolean {
  const { HOTSHELF_TLS_CERT, HOTSHELF_TRUSTED_PROXY } = settings();
  if (HOTSHELF_TLS_CERT || HOTSHELF_TRUSTED_PROXY.size === 0) return true;
  return HOTSHELF_TRUSTED_PROXY.has(plain(remote)) || LOOPBACK.test(plain(remote));
}

const METHODS = new Set(["GET", "HEAD", "POST", "PUT", "DELETE", "PATCH", "OPTIONS"]);
/** Those whose body means nothing (RFC 9110, 9.3); one that comes all the same is taken for nobody's next request. */
const WITHOUT_BODY = new Set(["GET", "HEAD", "DELETE", "OPTIONS"]);
const MOST_URL = 16_000;
/** Parts of a path that stand for another path. */
const DOTS = /\/(?:\.|%2e){1,2}(?:\/|$)/i;

/** Why a request is not passed on to pages or API, with the status that says so; null where it is. */
export function turnedAway({ method, url, headers, remote }: Knock): { status: number; failure: Failure } | null {
  if (!isOwnHost(headers.host ?? null)) {
    const hint = "Whoever runs it can allow the name with HOTSHELF_ALLOWED_HOSTS.";
    const failure = { code: "host-foreign", message: "This server does not answer under that name.", hint };
    return { status: 421, failure };
  }
  if (!isTrusted(remote)) {
    const hint = "Ask at the address of the proxy that stands before it.";
    const failure = { code: "forbidden-plain", message: "Nobody is answered here without TLS.", hint };
    return { status: 403, failure };
  }
  if (!METHODS.has(method)) {
    return { status: 405, failure: { code: "method-unknown", message: `${method.slice(0, 20)} does nothing here.` } };
  }
  if (WITHOUT_BODY.has(method) && lengthOf({ headers }) !== 0) {
    const hint = "Nothing was done. Send it without a body.";
    return { status: 400, failure: { code: "input-body", message: `${method} takes no body here.`, hint } };
  }
  if (!url.startsWith("/") || DOTS.test(url.split("?")[0]!)) {
    const hint = "Write the path out, from the first slash on.";
    return { status: 400, failure: { code: "path-malformed", message: "The address is not a plain path.", hint } };
  }
  if (url.length > MOST_URL) {
    const hint = "Send long lists in the body.";
    return { status: 414, failure: { code: "path-too-long", message: "The address is too long.", hint } };
  }
  try {
    decodeURIComponent(url.split("?")[0]!);
  } catch {
    const message = "The address holds a percent sign that stands for no character.";
    return { status: 400, failure: { code: "path-malformed", message, hint: "Write a percent sign itself as %25." } };
  }
  return null;
}

/**
 * Makes the headers of a request say only what this server vouches for: where it came from, and nothing that a proxy would
 * say, unless it is one that is trusted.
 */
export function vouchFor({ headers, remote }: Knock): void {
  const isProxy = settings().HOTSHELF_TRUSTED_PROXY.has(plain(remote));
  // The last entry is what the proxy itself saw; those before it anybody can write.
  const told = isProxy
    ? String(headers["x-forwarded-for"] ?? "")
        .split(",")
        .at(-1)!
        .trim()
    : "";
  for (const name of Object.keys(headers)) {
    if (name.startsWith("x-forwarded-") || name === "forwarded" || name === "x-real-ip") delete headers[name];
  }
  headers[FROM_HEADER] = told || plain(remote);
}
