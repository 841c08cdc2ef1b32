import type { IncomingHttpHeaders, IncomingMessage, OutgoingHttpHeaders } from "node:http";
import { FIRST_ASK } from "../read/first-asks";

/** Headers that are about a connection and not about what it carries (RFC 9110, 7.6.1); they end where it does. */
const OF_CONNECTION = new Set([
  "connection",
  "expect",
  "http2-settings",
  "keep-alive",
  "proxy-authenticate",
  "proxy-authorization",
  "proxy-connection",
  "te",
  "trailer",
  "transfer-encoding",
  "upgrade",
]);
/** What a request can't take off by naming it in `connection`. */
const KEPT = new Set(["host", "cookie", "authorization", "origin", "content-type", "content-length"]);

/** The length of a request's body: 0 where it has none, null where that shows as it comes. */
export function lengthOf({ headers }: Pick<IncomingMessage, "headers">): number | null {
  if (headers["transfer-encoding"] !== undefined) return null;
  return Number(headers["content-length"] ?? 0);
}

function without(headers: IncomingHttpHeaders, more: Set<string>): Record<string, string | string[]> {
  const passed: Record<string, string | string[]> = {};
  for (const [name, value] of Object.entries(headers)) {
    if (value !== undefined && !OF_CONNECTION.has(name) && !more.has(name)) passed[name] = value;
  }
  return passed;
}

/** The headers of a request as they are passed on: framing is made anew, and what is about its connection stays behind. */
export function headersOf(incoming: Pick<IncomingMessage, "headers">): Record<string, string | string[]> {
  const { headers } = incoming;
  const named = (headers.connection ?? "").toLowerCase().split(",");
  const dropped = new Set(
    named.map((name) => name.trim()).filter((name) => !KEPT.has(name) && !name.startsWith("x-hot-shelf")),
  );
  // Only a page that is made here says so.
  dropped.add(FIRST_ASK);
  const passed = without(headers, dropped);
  const length = lengthOf(incoming);
  if (length === null || length === 0) delete passed["content-length"];
  else passed["content-length"] = String(length);
  return passed;
}

/** The headers of an answer as they are passed back. */
export function passable(headers: IncomingHttpHeaders): OutgoingHttpHeaders {
  return without(headers, new Set());
}
