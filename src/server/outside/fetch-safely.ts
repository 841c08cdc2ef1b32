import { lookup as dnsLookup, type LookupAddress } from "node:dns";
import http, { type IncomingMessage } from "node:http";
import https from "node:https";
import { isIP, type LookupFunction } from "node:net";
import { plural } from "@/core/kit/format";
import { FailureError, giveUp } from "@/core/kit/outcome";
import { settings } from "../settings";
import { isPublicAddress } from "./addresses";

const MOST_REDIRECTS = 5;
/** Longest silence of the other side, and longest wait for the head of its answer, however slowly that drips. */
const IDLE_MS = 30_000;

export interface Fetched {
  status: number;
  headers: IncomingMessage["headers"];
  body: IncomingMessage;
  /** Where the answer came from, after redirects. */
  url: string;
}

/** Thrown for failures that may pass by themselves, so that trying again makes sense. */
export class PassingFailure extends FailureError {}

function refuse(host: string): never {
  giveUp(
    "address-private",
    `${host} is a private address, which is not fetched.`,
    "Give a public address. The owner of this installation can allow private ones with HOTSHELF_PRIVATE_ADDRESSES.",
  );
}

/** Name lookup that gives public addresses only, so that no name can lead to a private one, also not on the second look. */
const publicLookup: LookupFunction = (host, options, done) => {
  dnsLookup(host, { ...options, all: true }, (error, found) => {
    if (error) return done(error, []);
    const addresses = found as unknown as LookupAddress[];
    if (!settings().HOTSHELF_PRIVATE_ADDRESSES && addresses.some(({ address }) => !isPublicAddress(address))) {
      const failure = new Error("private address") as NodeJS.ErrnoException;
      failure.code = "EPRIVATE";
      return done(failure, []);
    }
    if (options.all) return done(null, addresses);
    const [first] = addresses;
    done(null, first!.address, first!.family);
  });
};

function parse(url: string): URL {
  const parsed = URL.canParse(url) ? new URL(url) : null;
  if (!parsed || !["http:", "https:"].includes(parsed.protocol)) {
    giveUp("address-malformed", "The address is none that can be fetched.", "It must start with https:// or http://.");
  }
  return parsed;
}

/**
 * Asks for an address with GET, or sends a body to it with POST, and follows few redirects, each checked like the first; what
 * was sent is not sent on. The body is a stream with a time limit on silence; its reader limits its size.
 * @throws FailureError when the address is malformed, private, or can't be reached; {@link PassingFailure} when trying
 *   again may help
 */
export async function fetchSafely(
  url: string,
  headers: Record<string, string> = {},
  body: string | null = null,
): Promise<Fetched> {
  const first = parse(url);
  let at = first;
  for (let hop = 0; hop <= MOST_REDIRECTS; hop++) {
    // A login is meant for the host that it was given for.
    const response = await request(at, at.origin === first.origin ? headers : { ...headers, authorization: "" }, body);
    const { location } = response.headers;
    const status = response.statusCode ?? 0;
    if (body !== null || ![301, 302, 303, 307, 308].includes(status) || !location) {
      return { status, headers: response.headers, body: response, url: at.href };
    }
    response.destroy();
    const next = URL.canParse(location, at) ? new URL(location, at).href : location;
    at = parse(next);
  }
  return giveUp(
    "address-redirects",
    `${first.host} redirects more than ${MOST_REDIRECTS} times.`,
    "Give the final address.",
  );
}

function request(url: URL, headers: Record<string, string>, body: string | null): Promise<IncomingMessage> {
  const standIn = settings().HOTSHELF_HOSTS.get(url.hostname.toLowerCase());
  const host = url.hostname.replace(/^\[|\]$/g, "");
  if (!standIn && isIP(host) !== 0 && !settings().HOTSHELF_PRIVATE_ADDRESSES && !isPublicAddress(host)) refuse(host);
  const [standInHost, standInPort] = standIn?.split(":") ?? [];
  const { protocol } = standIn ? { protocol: "http:" } : url;
  return new Promise((resolve, reject) => {
    const options = {
      protocol,
      host: standInHost ?? host,
      port: standInPort ?? url.port,
      path: url.pathname + url.search,
      headers: {
        host: url.host,
        "user-agent": "HotShelf/0.1",
        "accept-encoding": "identity",
        ...(url.username ? { authorization: `Basic ${basic(url)}` } : {}),
        ...Object.fromEntries(Object.entries(headers).filter(([, value]) => value !== "")),
      },
      timeout: IDLE_MS,
      ...(standIn ? {} : { lookup: publicLookup }),
    };
    const limit = Math.min(IDLE_MS, settings().HOTSHELF_FETCH_SECONDS * 1000);
    const method = body === null ? "GET" : "POST";
    const sent = (protocol === "https:" ? https : http).request({ ...options, method }, resolve);
    sent.end(body ?? undefined);
    const deadline = setTimeout(() => sent.destroy(silent(url, limit)), limit);
    sent.on("response", () => clearTimeout(deadline));
    sent.on("close", () => clearTimeout(deadline));
    sent.on("timeout", () => sent.destroy(silent(url, IDLE_MS)));
    sent.on("error", (error: NodeJS.ErrnoException) => {
      if (error instanceof FailureError) return reject(error);
      if (error.code === "EPRIVATE") {
        try {
          refuse(url.hostname);
        } catch (failure) {
          return reject(failure as Error);
        }
      }
      reject(unreachable(url, error.code));
    });
  });
}

/** A part of an address, decoded; one with a percent sign that stands for nothing is taken as it is written. */
export function decoded(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

function basic(url: URL): string {
  return Buffer.from(`${decoded(url.username)}:${decoded(url.password)}`).toString("base64");
}

function silent(url: URL, ms: number): PassingFailure {
  return new PassingFailure({
    code: "address-silent",
    message: `${url.host} did not answer for ${plural(ms / 1000, "second")}.`,
    hint: "It is tried again at the next time set.",
  });
}

function unreachable(url: URL, code: string | undefined): PassingFailure {
  const why =
    code === "ENOTFOUND" ? "there is no such host" : code === "ECONNREFUSED" ? "it refuses" : (code ?? "no reason");
  return new PassingFailure({
    code: "address-unreachable",
    message: `${url.host} can't be reached: ${why}.`,
    hint: "Check the address. It is tried again at the next time set.",
  });
}
