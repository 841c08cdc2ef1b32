import { timingSafeEqual, createHash } from "node:crypto";
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { lookSchema, takeSchema, type Answer, type Channel, type ReportKind } from "@/core/dispatch/contract";
import { FailureError } from "@/core/kit/outcome";

const MOST_BYTES = 64 * 1024 * 1024;

/** Answers that were given, by the key of the message: who asks again gets the same. */
type Given = Map<string, Answer[]>;

class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/**
 * Any channel as a server that speaks `docs/channel.md`: what ships as a stand-in for a platform is built of it, and it is a
 * place to begin from for whoever writes one.
 */
export function hostChannel(channel: Channel, token: string): Server {
  const given: Given = new Map();
  return createServer((request, response) => {
    answer(channel, token, given, request)
      .then(async (body) => {
        if (body && typeof body === "object" && Symbol.asyncIterator in body) {
          response.writeHead(200, { "content-type": "text/csv; charset=utf-8" });
          for await (const part of body as AsyncIterable<Uint8Array>) response.write(part);
          response.end();
        } else send(response, 200, body);
      })
      .catch((error: unknown) => {
        const status = error instanceof Refused ? error.status : error instanceof FailureError ? 400 : 500;
        const message = error instanceof Error ? error.message : String(error);
        if (response.headersSent) response.destroy();
        else send(response, status, { error: { message } });
      });
  });
}

function send(response: ServerResponse, status: number, body: unknown): void {
  response.writeHead(status, { "content-type": "application/json" });
  response.end(JSON.stringify(body));
}

const digest = (text: string) => createHash("sha256").update(text).digest();

async function answer(channel: Channel, token: string, given: Given, request: IncomingMessage): Promise<unknown> {
  const said = request.headers.authorization ?? "";
  if (!timingSafeEqual(digest(said), digest(`Bearer ${token}`))) throw new Refused(401, "The token is not known.");
  const { pathname, searchParams } = new URL(request.url ?? "/", "http://channel");
  const parts = pathname.split("/").filter(Boolean).map(decodeURIComponent);
  const what = `${request.method} ${parts[0] ?? ""}${parts.length > 1 ? "/…" : ""}`;
  switch (what) {
    case "GET about":
      return channel.about();
    case "POST changes": {
      const { key, changes } = read(takeSchema, await bodyOf(request));
      const known = given.get(key);
      if (known) return { answers: known };
      const answers = await channel.take(key, changes);
      if (answers) given.set(key, answers);
      return { answers };
    }
    case "GET changes/…": {
      const answers = given.get(parts[1]!) ?? (await channel.answersTo(parts[1]!));
      if (answers === undefined) throw new Refused(404, "No such message came.");
      return { answers };
    }
    case "POST look": {
      const { keys } = read(lookSchema, await bodyOf(request));
      const found = await channel.look(keys);
      return { stands: keys.map((key) => ({ key, record: found.get(key) ?? null })) };
    }
    case "GET records":
      return channel.records(searchParams.get("after"));
    case "GET places":
      return channel.places(searchParams.get("after"));
    case "GET reports/…":
      return channel.report(parts[1] as ReportKind, searchParams.get("from") ?? "", searchParams.get("to") ?? "");
    default:
      throw new Refused(404, "There is nothing of that name.");
  }
}

function read<T>(
  schema: { safeParse(body: unknown): { success: true; data: T } | { success: false; error: Error } },
  body: unknown,
): T {
  const parsed = schema.safeParse(body);
  if (!parsed.success) throw new Refused(400, parsed.error.message);
  return parsed.data;
}

async function bodyOf(request: IncomingMessage): Promise<unknown> {
  const parts: Buffer[] = [];
  let bytes = 0;
  for await (const part of request) {
    bytes += (part as Buffer).length;
    if (bytes > MOST_BYTES) throw new Refused(413, "That is larger than 64 MB.");
    parts.push(part as Buffer);
  }
  try {
    return JSON.parse(Buffer.concat(parts).toString("utf8")) as unknown;
  } catch {
    throw new Refused(400, "That is no JSON.");
  }
}
