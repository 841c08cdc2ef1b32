import { spawn, type ChildProcess } from "node:child_process";
import { once } from "node:events";
import type { AddressInfo } from "node:net";
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { passOn } from "./front";
import { isHeldUp } from "./held-up";

let folder: string;
let sockets: string[];
let front: string;
const open: Server[] = [];
/** The process that is held up: a test that fails leaves none of them spinning. */
let heldUp: ChildProcess | null = null;

beforeEach(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "hs-front-"));
  sockets = ["q", "h1", "h2"].map((name) => path.join(folder, name));
  process.env["HOTSHELF_COUNTERS"] = sockets.join(",");
  const server = createServer((incoming, outgoing) => void passOn(incoming, outgoing));
  open.push(server);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  front = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});

afterEach(() => {
  heldUp?.kill("SIGKILL");
  heldUp = null;
  delete process.env["HOTSHELF_COUNTERS"];
  for (const server of open.splice(0)) {
    server.closeAllConnections();
    server.close();
  }
  rmSync(folder, { recursive: true, force: true });
});

type Answer = (incoming: IncomingMessage, outgoing: ServerResponse) => void;

async function counter(at: number, answer: Answer): Promise<void> {
  const server = createServer(answer);
  open.push(server);
  await new Promise<void>((resolve) => server.listen(sockets[at], resolve));
}

/** A counter that says which one it is, after it was let go. */
function slow(name: string, held: (() => void)[]): Answer {
  return (_, outgoing) => void held.push(() => outgoing.end(name));
}

const get = (where: string, init: RequestInit = {}) => fetch(`${front}/api/v1/${where}`, init);
const textOf = async (asked: Promise<Response>) => (await asked).text();

async function until(holds: () => boolean): Promise<void> {
  while (!holds()) await new Promise((resolve) => setTimeout(resolve, 5));
}

describe("the front", () => {
  it("sends quick requests past heavy ones, and heavy ones side by side", async () => {
    const held: Record<string, (() => void)[]> = { quick: [], one: [], two: [] };
    await counter(0, (_, outgoing) => outgoing.end("quick"));
    await counter(1, slow("one", held["one"]!));
    await counter(2, slow("two", held["two"]!));
    const first = textOf(get("w/asks"));
    await until(() => held["one"]!.length === 1);
    const second = textOf(get("w/basket"));
    await until(() => held["two"]!.length === 1);
    // Both heavy counters are busy, and a quick request does not notice.
    expect(await textOf(get("w/items?limit=1"))).toBe("quick");
    expect(await textOf(get("health"))).toBe("quick");
    expect(await textOf(get("w/no-such-thing"))).toBe("quick");
    held["two"]![0]!();
    expect(await second).toBe("two");
    // The freed one is the least busy.
    const third = textOf(get("w/basket"));
    await until(() => held["two"]!.length === 2);
    held["one"]![0]!();
    held["two"]![1]!();
    expect([await first, await third]).toEqual(["one", "two"]);
  });

  it("passes on method, path, headers and body as they are, and the answer too", async () => {
    const seen: unknown[] = [];
    await counter(1, (incoming, outgoing) => {
      const parts: Buffer[] = [];
      incoming.on("data", (part: Buffer) => parts.push(part));
      incoming.on("end", () => {
        const { method, url, headers } = incoming;
        seen.push([method, url, headers["x-own"], headers["host"], Buffer.concat(parts).toString()]);
        outgoing.writeHead(202, { "content-type": "application/json", "x-answer": "yes" });
        outgoing.end('{"job":"j"}');
      });
    });
    const body = JSON.stringify({ put: [], reason: "Grüße" });
    const headers = { "x-own": "kept" };
    const answer = await get("w/account/records?version=3&q=a%20b", { method: "POST", body, headers });
    expect([answer.status, answer.headers.get("x-answer"), await answer.json()]).toEqual([202, "yes", { job: "j" }]);
    expect(seen).toEqual([["POST", "/api/v1/w/account/records?version=3&q=a%20b", "kept", new URL(front).host, body]]);
  });

  it("waits for a counter that is being opened again", async () => {
    const asked = textOf(get("w/items"));
    await new Promise((resolve) => setTimeout(resolve, 150));
    await counter(0, (_, outgoing) => outgoing.end("back"));
    expect(await asked).toBe("back");
  });

  it("asks once more where only something was read, and never where something may have been written", async () => {
    let times = 0;
    const first = (incoming: IncomingMessage, outgoing: ServerResponse) =>
      ++times % 2 === 1 ? incoming.socket.destroy() : outgoing.end("again");
    await counter(0, first);
    expect(await textOf(get("w/items"))).toBe("again");
    expect((await get("w/notes", { method: "POST", body: "{}" })).status).toBe(503);
    expect(times).toBe(3);
  });

  it("says in a sentence that a counter was lost with the work on it", async () => {
    await counter(0, (incoming) => incoming.socket.destroy());
    const answer = await get("w/items");
    expect(answer.status).toBe(503);
    const { error } = (await answer.json()) as { error: { code: string; message: string } };
    expect(error.code).toBe("counter-lost");
    expect(error.message).toMatch(/broken off/);
  });

  it("takes nothing from a counter that speaks before its answer", async () => {
    await counter(0, (_, outgoing) => {
      outgoing.writeEarlyHints({ link: "</x>; rel=preload" });
      outgoing.end("well");
    });
    expect((await get("w/items")).status).toBe(503);
  });

  it("ends the work of whoever has gone", async () => {
    let closed = false;
    await counter(1, (_, outgoing) => outgoing.on("close", () => (closed = true)));
    const gone = new AbortController();
    const asked = get("w/asks", { signal: gone.signal }).catch(() => null);
    await new Promise((resolve) => setTimeout(resolve, 60));
    gone.abort();
    await until(() => closed);
    await asked;
    expect(closed).toBe(true);
  });

  it("ends a counter held up by work for somebody who has gone, but not while another one waits there", async () => {
    const code = `
      import { createServer } from "node:http";
      import { listenForEnd } from "./src/server/counter/held-up.ts";
      listenForEnd(${JSON.stringify(sockets[1])});
      createServer((incoming, outgoing) => {
        if (incoming.url.includes("stuck")) for (;;);
        if (!incoming.url.includes("waits")) outgoing.end("well");
      }).listen(${JSON.stringify(sockets[1])}, () => console.log("open"));`;
    const child = spawn(process.execPath, ["--import", "tsx", "--input-type=module", "-e", code], {
      stdio: ["ignore", "pipe", "inherit"],
    });
    heldUp = child;
    await once(child.stdout, "data");
    process.env["HOTSHELF_COUNTERS"] = sockets.slice(0, 2).join(",");
    const ask = (how: string) => {
      const gone = new AbortController();
      return { gone, answer: get(`w/asks?${how}`, { signal: gone.signal }).catch(() => null) };
    };
    // One that only waits for something holds nothing up.
    expect(await isHeldUp(sockets[1]!)).toBe(false);
    const other = ask("waits");
    const stuck = ask("stuck");
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(await isHeldUp(sockets[1]!)).toBe(true);
    stuck.gone.abort();
    await new Promise((resolve) => setTimeout(resolve, 7000));
    expect([child.exitCode, child.signalCode]).toEqual([null, null]);
    const ended = once(child, "exit");
    other.gone.abort();
    expect((await ended)[1]).toBe("SIGKILL");
    await Promise.all([stuck.answer, other.answer]);
  });
});
