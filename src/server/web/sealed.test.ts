import { mkdtempSync, rmSync } from "node:fs";
import { createServer, type IncomingMessage, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import fc from "fast-check";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { createEntry } from "./entry";
import { FramingGuard } from "./framing";
import { METHODS, PLAIN, sendRaw, TRICKS, type Method } from "./fixtures/smuggling";

interface Seen {
  method: string;
  url: string;
  body: string;
  from: unknown;
}

let folder: string;
let entry: Server;
let port: number;
const open: Server[] = [];
let seen: Seen[] = [];

async function bodyOf(incoming: IncomingMessage): Promise<string> {
  const parts: Buffer[] = [];
  for await (const part of incoming) parts.push(part as Buffer);
  return Buffer.concat(parts).toString("latin1");
}

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "hs-sealed-"));
  const sockets = ["quick", "heavy"].map((name) => path.join(folder, name));
  process.env["HOTSHELF_COUNTERS"] = sockets.join(",");
  for (const socket of sockets) {
    // A counter that reads less strictly than the entry, and says back what it was asked.
    const counter = createServer({ insecureHTTPParser: true }, (incoming, outgoing) => {
      const say = (body: string) => {
        const { method = "", url = "", headers } = incoming;
        seen.push({ method, url, body, from: headers["x-hot-shelf-from"] });
        outgoing.setHeader("content-type", "application/json");
        outgoing.end(JSON.stringify({ url }));
      };
      // One whose body breaks off was never asked as a whole, so it is not seen.
      bodyOf(incoming).then(say, () => outgoing.destroy());
    });
    open.push(counter);
    await new Promise<void>((resolve) => counter.listen(socket, resolve));
  }
  entry = createEntry({
    pages: async (incoming, outgoing) => {
      seen.push({ method: incoming.method!, url: `page ${incoming.url}`, body: "", from: "" });
      outgoing.end("a page");
    },
  });
  open.push(entry);
  await new Promise<void>((resolve) => entry.listen(0, "127.0.0.1", resolve));
  port = (entry.address() as AddressInfo).port;
});

afterAll(() => {
  delete process.env["HOTSHELF_COUNTERS"];
  for (const server of open) {
    server.closeAllConnections();
    server.close();
  }
  rmSync(folder, { recursive: true, force: true });
});

beforeEach(() => void (seen = []));

let asked = 0;

/** Somebody else's request, over a connection of their own that is used again and again. Its answer must be its own. */
async function expectOwnAnswer(): Promise<void> {
  const own = `/api/v1/own?n=${++asked}`;
  const answer = await fetch(`http://127.0.0.1:${port}${own}`, { signal: AbortSignal.timeout(3000) });
  expect([answer.status, await answer.json()]).toEqual([200, { url: own }]);
}

/** That nothing which was hidden in a request became one. */
function expectNothingHidden(): void {
  expect(seen.filter(({ url }) => url.includes("hidden"))).toEqual([]);
}

const isRefused = (answer: string) => answer === "" || /^HTTP\/1\.1 (?:400|405|417|421|431)/.test(answer);
const TAKES_BODY = new Set<Method>(["POST", "PUT", "PATCH"]);

describe("no request reaches another's", () => {
  it.each(Object.keys(TRICKS))("%s: is refused with every method", async (name) => {
    for (const method of METHODS) {
      const answer = await sendRaw(port, TRICKS[name]!(method));
      expect([method, isRefused(answer), answer]).toEqual([method, true, answer]);
      await expectOwnAnswer();
    }
    expectNothingHidden();
    expect(seen.every(({ url }) => url.startsWith("/api/v1/own"))).toBe(true);
  });

  it.each(Object.keys(PLAIN))("%s: a body stays a body, and is refused where there can be none", async (name) => {
    for (const method of METHODS) {
      seen = [];
      const answer = await sendRaw(port, PLAIN[name]!(method), { answers: 1 });
      await expectOwnAnswer();
      expectNothingHidden();
      const attacks = seen.filter(({ url }) => url === "/api/v1/attack");
      if (TAKES_BODY.has(method)) {
        expect([method, attacks.length, answer]).toEqual([method, 1, expect.stringContaining("200 OK")]);
        expect(attacks[0]!.body).toMatch(/^GET \/api\/v1\/hidden/);
        // Where a request comes from is this server's word alone.
        expect(attacks[0]!.from).toBe("127.0.0.1");
      } else expect([method, attacks, isRefused(answer)]).toEqual([method, [], true]);
    }
  });

  it("holds for any tricks one after another, in any pieces", async () => {
    const tricks = [...Object.values(TRICKS), ...Object.values(PLAIN)];
    const attack = fc.record({
      which: fc.array(fc.nat(tricks.length - 1), { minLength: 1, maxLength: 3 }),
      method: fc.constantFrom(...METHODS),
      parts: fc.integer({ min: 1, max: 40 }),
    });
    await fc.assert(
      fc.asyncProperty(attack, async ({ which, method, parts }) => {
        await sendRaw(port, which.map((at) => tricks[at]!(method)).join(""), { parts, silence: 40 });
        await expectOwnAnswer();
        expectNothingHidden();
      }),
      { numRuns: 250 },
    );
  });

  it("keeps a connection for further requests that are plain", async () => {
    const one = (n: number) => `GET /api/v1/own?n=${n} HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n`;
    const post = "POST /api/v1/note HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 5\r\n\r\nhello";
    const answers = await sendRaw(port, one(1) + post + one(2), { answers: 3 });
    expect(answers.match(/HTTP\/1\.1 200 OK/g)).toHaveLength(3);
    expect(seen.map(({ url, body }) => url + body).sort()).toEqual([
      "/api/v1/notehello",
      "/api/v1/own?n=1",
      "/api/v1/own?n=2",
    ]);
  });

  it("tells nothing of other machines by headers that name other headers", async () => {
    const sent =
      "GET /api/v1/own HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Hot-Shelf-From: 9.9.9.9\r\nConnection: x-hot-shelf-from\r\n\r\n";
    await sendRaw(port, sent, { answers: 1 });
    expect(seen).toMatchObject([{ from: "127.0.0.1" }]);
  });

  it("reads an answer to a body that is too large at once, and the next request after it", async () => {
    // Counters stop reading where a body is too large; this one never begins.
    const refusing = createServer((_, outgoing) => outgoing.writeHead(413).end("too large"));
    open.push(refusing);
    const socket = path.join(folder, "refusing");
    await new Promise<void>((resolve) => refusing.listen(socket, resolve));
    const before = process.env["HOTSHELF_COUNTERS"];
    process.env["HOTSHELF_COUNTERS"] = socket;
    const head = "POST /api/v1/feeds HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 60000000\r\n\r\n";
    const began = performance.now();
    const answer = await sendRaw(port, head + "x".repeat(3_000_000), { silence: 20_000 });
    process.env["HOTSHELF_COUNTERS"] = before;
    expect(answer).toMatch(/^HTTP\/1\.1 413/);
    expect(answer.toLowerCase()).toContain("connection: close");
    await expectOwnAnswer();
    expect(performance.now() - began).toBeLessThan(20_000);
  });
});

describe("the guard", () => {
  const whole = (text: string) => new FramingGuard().take(Buffer.from(text, "latin1"));

  it("says the same in whatever pieces bytes arrive", () => {
    const texts = [...Object.values(TRICKS), ...Object.values(PLAIN)].map((write) => write("POST"));
    fc.assert(
      fc.property(
        fc.constantFrom(...texts),
        fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1 }),
        (text, cuts) => {
          const guard = new FramingGuard();
          let odd: string | null = null;
          for (let at = 0, i = 0; at < text.length && odd === null; at += cuts[i++ % cuts.length]!) {
            odd = guard.take(Buffer.from(text.slice(at, at + cuts[i % cuts.length]!), "latin1"));
          }
          expect(odd === null).toBe(whole(text) === null);
        },
      ),
    );
  });

  it("passes what browsers and scripts send", () => {
    const browser = [
      "POST /api/v1/shop/items?q=%C3%A9 HTTP/1.1",
      "Host: 127.0.0.1:4310",
      "Content-Type: application/json",
      'Cookie: a=b; c="d"',
      "Upgrade-Insecure-Requests: 1",
      "Accept-Language: de,en;q=0.8",
      "X-Empty:",
      "Transfer-Encoding: Chunked",
    ];
    expect(whole(`${browser.join("\r\n")}\r\n\r\n2\r\n{}\r\n0\r\n\r\nGET / HTTP/1.0\r\n\r\n`)).toBeNull();
    expect(whole("\r\nGET / HTTP/1.1\r\nHost: a\r\n\r\n")).toBeNull();
  });
});
