import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import { mkdirSync, utimesSync, writeFileSync } from "node:fs";
import type { AddressInfo } from "node:net";
import path from "node:path";
import { gzipSync } from "node:zlib";
import fc from "fast-check";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import type { Database } from "@/db/client";
import { feeds } from "@/db/schema";
import { enqueueJob, findJob, listJobs, type JobView } from "../jobs/jobs";
import { jobHandlers } from "../runner/handlers";
import { claimJob, runJob } from "../jobs/work";
import { isPublicAddress } from "../outside/addresses";
import { forgetSettings, inboxDir } from "../settings";
import { importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { listFeeds } from "./feeds";
import type { FetchResult } from "./fetch-feed";
import { fitsPattern } from "./inbox";
import { loadCatalogue } from "./load";
import { nextTime, queueDueFetches, setSource, startFetch } from "./schedule";

const FIRST = "id,title,price\n1,Garden hose,5.00\n2,Leaf rake,6.00\n";
const SECOND = "id,title,price\n1,Garden hose,5.50\n2,Leaf rake,6.00\n3,Copper can,9.00\n";

let server: Server;
let answer: (request: IncomingMessage, response: ServerResponse) => void;
const asked: string[] = [];

beforeAll(async () => {
  server = createServer((request, response) => {
    asked.push(`${request.headers.host}${request.url} ${request.headers["if-none-match"] ?? ""}`.trim());
    answer(request, response);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  const { port } = server.address() as AddressInfo;
  process.env["HOTSHELF_HOSTS"] = `feeds.example=127.0.0.1:${port}`;
  process.env["HOTSHELF_RETRY_MS"] = "5";
  process.env["HOTSHELF_FETCH_SECONDS"] = "1";
  process.env["HOTSHELF_MAX_UPLOAD_MB"] = "1";
  forgetSettings();
});
afterAll(() => new Promise((resolve) => server.close(resolve)));
beforeEach(() => {
  asked.length = 0;
});

function serve(body: string | Uint8Array, headers: Record<string, string> = {}, status = 200): void {
  answer = (_, response) => {
    response.writeHead(status, { "content-type": "text/csv", ...headers });
    response.end(body);
  };
}

const URL_SOURCE = { kind: "url" as const, url: "https://feeds.example/items.csv" };

type Workspace = { db: Database; info: WorkspaceInfo };

function fetchFeed({ db, info }: Workspace, more: object = {}): Promise<JobView> {
  return runToEnd(db, info, "feed-fetch", {
    feed: "main",
    source: URL_SOURCE,
    into: "catalogue",
    acceptLoss: false,
    ...more,
  });
}

/** Runs the job that a fetch queued. */
async function runNext({ db, info }: Workspace): Promise<JobView> {
  const job = (await claimJob(db, "test"))!;
  await runJob(db, info, jobHandlers, job);
  return (await findJob(db, job.id))!;
}

async function connected(): Promise<Workspace> {
  const workspace = await testWorkspace();
  await importFeed(workspace, FIRST);
  await setSource(workspace.db, workspace.info, "main", { source: URL_SOURCE, schedule: null });
  return workspace;
}

async function trouble({ db }: Workspace) {
  return (await db.select().from(feeds))[0]!.trouble;
}

describe("a feed at an address", () => {
  it("is fetched, read in, and not read again when the host says it has not changed", async () => {
    const workspace = await connected();
    serve(SECOND, { etag: '"v2"' });
    const fetched = await fetchFeed(workspace, { source: null });
    expect(fetched.result).toMatchObject({ isNew: true, fileName: "items.csv" });
    expect((await runNext(workspace)).result).toMatchObject({ new: 1, changed: 1, unchanged: 1 });
    answer = (request, response) => {
      response.writeHead(request.headers["if-none-match"] === '"v2"' ? 304 : 500);
      response.end();
    };
    const again = await fetchFeed(workspace, { source: null });
    expect(again.result).toMatchObject({ isNew: false, job: null });
    expect(asked).toEqual(["feeds.example/items.csv", 'feeds.example/items.csv "v2"']);
    expect((await loadCatalogue(workspace.db, [])).length).toBe(3);
  });

  it("says in a sentence that nothing has changed where nothing was read yet, and takes a broken percent sign as it is", async () => {
    const workspace = await testWorkspace();
    serve("", {}, 304);
    expect((await fetchFeed(workspace)).error).toMatchObject({
      code: "address-refused",
      message: expect.stringContaining("nothing of it was read yet"),
    });
    serve(FIRST);
    const odd = { kind: "url" as const, url: "https://feeds.example/50%-off%zz.csv" };
    const fetched = await fetchFeed(workspace, { source: odd });
    expect([fetched.state, fetched.result]).toEqual(["done", expect.objectContaining({ fileName: "50%-off%zz.csv" })]);
  });

  it("can be looked at before anything is taken in, and the look does not count as read", async () => {
    const workspace = await testWorkspace();
    serve(gzipSync(FIRST), { etag: '"v1"' });
    const look = await fetchFeed(workspace, { into: "upload" });
    expect((look.result as FetchResult).upload).toMatch(/^[0-9a-f-]{36}$/);
    expect(await workspace.db.select().from(feeds)).toEqual([]);
  });

  it("asks with a login that is kept sealed: the password stands in no table, log, list or job, and stays when not given anew", async () => {
    const workspace = await connected();
    const { db, info } = workspace;
    const seen: (string | undefined)[] = [];
    answer = (request, response) => {
      seen.push(request.headers.authorization);
      response.writeHead(200, { "content-type": "text/csv" });
      response.end(SECOND);
    };
    const url = URL_SOURCE.url.replace("://", "://shop:hush%2Dhush@");
    await setSource(db, info, "main", { source: { kind: "url", url }, schedule: null });
    expect((await listFeeds(db))[0]!.source).toEqual({ ...URL_SOURCE, user: "shop", hasPassword: true });
    const expected = `Basic ${Buffer.from("shop:hush-hush").toString("base64")}`;
    await fetchFeed(workspace, { source: null });
    await setSource(db, info, "main", { source: { ...URL_SOURCE, user: "shop" }, schedule: "0 6 * * *" });
    await fetchFeed(workspace, { source: null });
    await startFetch(db, "main", { source: { ...URL_SOURCE, user: "shop", password: "hush-hush" }, into: "upload" });
    expect(seen).toEqual([expected, expected]);
    for (const table of ["feeds", "jobs", "change_log"]) {
      const { rows } = await db.$client.execute(`SELECT * FROM ${table}`);
      expect(JSON.stringify(rows)).not.toMatch(/hush/);
    }
    // Another host gets nothing of it, and neither does who has the data folder and not the key.
    const elsewhere = { kind: "url" as const, url: "https://other.example/x.csv", user: "shop" };
    await setSource(db, info, "main", { source: elsewhere, schedule: null });
    expect((await listFeeds(db))[0]!.source).toEqual(elsewhere);
    await setSource(db, info, "main", { source: { ...URL_SOURCE, user: "shop", password: "x" }, schedule: null });
    writeFileSync(process.env["HOTSHELF_KEY_FILE"]!, Buffer.alloc(32, 7).toString("base64"));
    expect((await fetchFeed(workspace, { source: null })).error!.code).toBe("password-sealed-elsewhere");
    await setSource(db, info, "main", { source: { ...URL_SOURCE, user: "shop", password: "" }, schedule: null });
    expect((await listFeeds(db))[0]!.source).toEqual({ ...URL_SOURCE, user: "shop" });
  });

  it("is tried again after a failure that may pass", async () => {
    const workspace = await connected();
    let times = 0;
    answer = (_, response) => {
      times++;
      response.writeHead(times < 3 ? 503 : 200, { "content-type": "text/csv" });
      response.end(times < 3 ? "busy" : SECOND);
    };
    expect((await fetchFeed(workspace)).state).toBe("done");
    expect(times).toBe(3);
  });

  it.each<[string, () => void, string, RegExp]>([
    ["a fault of the host", () => serve("no", {}, 503), "address-failing", /503/],
    ["nothing there", () => serve("no", {}, 404), "address-refused", /nothing at this address/],
    ["a login page", () => serve("<html>", { "content-type": "text/html" }), "feed-is-page", /web page/],
    ["too much", () => serve(Buffer.alloc(1_200_000, 65)), "feed-too-large", /more than 1 MB/],
    [
      "a stream without end",
      () => {
        answer = (_, response) => {
          response.writeHead(200, { "content-type": "text/csv" });
          const timer = setInterval(() => response.write("id,title,price\n"), 20);
          response.on("close", () => clearInterval(timer));
        };
      },
      "address-endless",
      /still sending after 1 seconds/,
    ],
    [
      "a head that drips",
      () => {
        answer = ({ socket }) => {
          socket.write("HTTP/1.1 200 OK\r\n");
          const timer = setInterval(() => socket.write("x: y\r\n"), 20);
          socket.on("close", () => clearInterval(timer));
        };
      },
      "address-silent",
      /did not answer for 1 second\./,
    ],
    [
      "a download cut off",
      () => {
        answer = (_, response) => {
          response.writeHead(200, { "content-type": "text/csv", "content-length": "5000" });
          response.write("id,title,price\n", () => response.destroy());
        };
      },
      "address-cut-off",
      /broke off|stopped/,
    ],
    [
      "a redirect to a private address",
      () => serve("", { location: "http://127.0.0.1:1/secret.csv" }, 302),
      "address-private",
      /private address/,
    ],
    [
      "a redirect to the cloud's own address",
      () => serve("", { location: "http://169.254.169.254/latest" }, 302),
      "address-private",
      /169\.254/,
    ],
    ["a redirect to a file", () => serve("", { location: "file:///etc/passwd" }, 302), "address-malformed", /address/],
    ["redirects in a circle", () => serve("", { location: "/again" }, 302), "address-redirects", /more than 5 times/],
    ["packed in a way not asked for", () => serve("x", { "content-encoding": "br" }), "address-encoding", /"br"/],
  ])("keeps the last good catalogue, with the failure in sight: %s", async (_, misbehave, code, sentence) => {
    const workspace = await connected();
    misbehave();
    const job = await fetchFeed(workspace, { source: null });
    expect(job).toMatchObject({ state: "failed", error: { code } });
    expect(job.error!.message).toMatch(sentence);
    expect(await trouble(workspace)).toMatchObject({ code });
    expect((await loadCatalogue(workspace.db, [])).length).toBe(2);
  });

  it("keeps the failure of a reading in sight too, until one succeeds", async () => {
    const workspace = await connected();
    serve("id,title,price\n9,Only one left,5\n");
    await fetchFeed(workspace, { source: null });
    expect(await runNext(workspace)).toMatchObject({ state: "failed", error: { code: "feed-loses-too-much" } });
    expect(await trouble(workspace)).toMatchObject({ code: "feed-loses-too-much" });
    await importFeed(workspace, SECOND);
    expect(await trouble(workspace)).toBeNull();
  });

  it("that is private itself is not fetched", async () => {
    const workspace = await connected();
    for (const url of ["http://127.0.0.1/x.csv", "http://[::1]/x.csv", "http://10.1.2.3/", "http://0x7f000001/x"]) {
      const job = await fetchFeed(workspace, { source: { kind: "url", url } });
      expect([url, job.error?.code]).toEqual([url, "address-private"]);
    }
    expect(asked).toEqual([]);
  });
});

describe("addresses", () => {
  it("are public or not by the standard's lists, however they are written", () => {
    for (const address of ["8.8.8.8", "2606:4700::1111", "::ffff:8.8.8.8", "2001:4860:4860::8888"]) {
      expect([address, isPublicAddress(address)]).toEqual([address, true]);
    }
    for (const address of [
      ...["127.0.0.1", "10.0.0.1", "172.31.255.255", "192.168.1.1", "169.254.169.254", "100.64.0.1", "0.0.0.0"],
      ...["::1", "::", "fd00::1", "fe80::1", "::ffff:127.0.0.1", "::ffff:7f00:1", "224.0.0.1", "no address"],
      ...["::127.0.0.1", "::a00:1", "::ffff:0:127.0.0.1", "64:ff9b:1::1", "2002:7f00:1::", "2001:0:4136:e378::1"],
      ...["fec0::1", "192.88.99.1", "64:ff9b::a00:1", "2001:db8::1"],
    ]) {
      expect([address, isPublicAddress(address)]).toEqual([address, false]);
    }
  });
});

describe("what was fetched and could not be read in", () => {
  it("does not count as fetched: it is asked for in full the next time", async () => {
    const workspace = await connected();
    serve("id,title\n1,No price here\n", { etag: '"v2"' });
    await fetchFeed(workspace);
    expect((await runNext(workspace)).error?.code).toBe("mapping-incomplete");
    serve(SECOND, { etag: '"v2"' });
    await fetchFeed(workspace);
    expect((await runNext(workspace)).result).toMatchObject({ new: 1 });
    expect(asked).toEqual(["feeds.example/items.csv", "feeds.example/items.csv"]);
    // Now it counts.
    serve("", {}, 304);
    expect((await fetchFeed(workspace)).result).toMatchObject({ isNew: false });
    expect(asked.at(-1)).toBe('feeds.example/items.csv "v2"');
  });
});

describe("schedules", () => {
  it("come at the workspace's own time, also across the change of clocks", () => {
    // Berlin leaves summer time on 25 October 2026.
    const at = (text: string) => nextTime("30 6 * * *", "Europe/Berlin", new Date(text));
    expect(new Date(at("2026-10-24T03:00:00Z")!).toISOString()).toBe("2026-10-24T04:30:00.000Z");
    expect(new Date(at("2026-10-25T03:00:00Z")!).toISOString()).toBe("2026-10-25T05:30:00.000Z");
  });

  it("are refused in a sentence when they can't be read or ask too often", async () => {
    const { db, info } = await connected();
    const keep = (schedule: string) => setSource(db, info, "main", { source: URL_SOURCE, schedule });
    expect(await keep("whenever")).toMatchObject({ ok: false, error: { code: "schedule-unreadable" } });
    expect(await keep("* * * * *")).toMatchObject({ error: { message: "Once every five minutes is the most." } });
    expect(await keep("0 6 * * *")).toMatchObject({ ok: true });
  });

  it("queue a fetch once when their time has come, and set the next time", async () => {
    const { db, info } = await connected();
    await setSource(db, info, "main", { source: URL_SOURCE, schedule: "0 * * * *" });
    const nextAt = (await db.select().from(feeds))[0]!.nextAt!;
    expect(await queueDueFetches(db, info, nextAt - 1)).toBe(0);
    expect(await queueDueFetches(db, info, nextAt)).toBe(1);
    expect(await queueDueFetches(db, info, nextAt + 1)).toBe(0);
    expect((await listJobs(db)).filter(({ kind }) => kind === "feed-fetch")).toHaveLength(1);
  });
});

describe("the watched folder", () => {
  const put = ({ info }: Workspace, name: string, content: string, secondsAgo: number) => {
    mkdirSync(inboxDir(info.slug), { recursive: true });
    const file = path.join(inboxDir(info.slug), name);
    writeFileSync(file, content);
    const at = Date.now() / 1000 - secondsAgo;
    utimesSync(file, at, at);
  };
  const watched = async () => {
    process.env["HOTSHELF_STILL_SECONDS"] = "0.5";
    forgetSettings();
    const workspace = await connected();
    const { db, info } = workspace;
    await setSource(db, info, "main", { source: { kind: "folder", pattern: "items*.csv" }, schedule: null });
    return workspace;
  };
  const still = () => new Promise((resolve) => setTimeout(resolve, 600));

  it("takes the newest whole file that fits, once", async () => {
    const workspace = await watched();
    const { db, info } = workspace;
    put(workspace, "items-1.csv", FIRST, 90);
    put(workspace, "items-2.csv", SECOND, 60);
    put(workspace, "other.csv", "id,title,price\n7,Not this one,5\n", 30);
    await still();
    // Still being copied, by a tool that gives it its old day from the start.
    put(workspace, "items-3.csv", "id,ti", 50);
    expect(await queueDueFetches(db, info)).toBe(1);
    expect(await queueDueFetches(db, info)).toBe(0);
    expect((await runNext(workspace)).result).toMatchObject({ fileName: "items-2.csv" });
    expect((await runNext(workspace)).result).toMatchObject({ new: 1, changed: 1 });
  });

  it("is tried again, later each time, when what was fetched could not be read in", async () => {
    const workspace = await watched();
    const { db, info } = workspace;
    put(workspace, "items-1.csv", "id,title\n1,No price here\n", 90);
    await still();
    const now = Date.now();
    expect(await queueDueFetches(db, info, now)).toBe(1);
    await runNext(workspace);
    expect((await runNext(workspace)).state).toBe("failed");
    const minutes = (count: number) => now + count * 60_000;
    expect(await queueDueFetches(db, info, minutes(4))).toBe(0);
    expect(await queueDueFetches(db, info, minutes(5))).toBe(1);
    await runNext(workspace);
    await runNext(workspace);
    expect(await queueDueFetches(db, info, minutes(14))).toBe(0);
    expect(await queueDueFetches(db, info, minutes(15))).toBe(1);
    // A later file that is right comes in, and that is the end of it.
    put(workspace, "items-2.csv", SECOND, 10);
    await still();
    await runNext(workspace);
    expect((await runNext(workspace)).result).toMatchObject({ new: 1 });
    expect(await queueDueFetches(db, info, minutes(600))).toBe(0);
  });

  it("says so when nothing fits, and patterns stay inside the folder", async () => {
    const workspace = await connected();
    const job = await fetchFeed(workspace, { source: { kind: "folder", pattern: "none*.csv" } });
    expect(job.error).toMatchObject({ code: "inbox-empty" });
    const bad = await enqueueJob(workspace.db, "feed-fetch", {
      ...{ feed: "main", into: "catalogue", acceptLoss: false },
      source: { kind: "folder", pattern: "../../etc/passwd" },
    });
    const claimed = (await claimJob(workspace.db, "test"))!;
    await runJob(workspace.db, workspace.info, jobHandlers, claimed);
    expect((await findJob(workspace.db, bad.id))!.state).toBe("failed");
    expect([fitsPattern("a.b.csv", "a*.csv"), fitsPattern("aXcsv", "a.csv"), fitsPattern("x.csv", "*")]).toEqual([
      true,
      false,
      true,
    ]);
  });

  it("fits names to patterns as trying every place would, and at once even where those places are many", () => {
    const slowly = (name: string, pattern: string): boolean =>
      pattern === ""
        ? name === ""
        : pattern[0] === "*"
          ? slowly(name, pattern.slice(1)) || (name !== "" && slowly(name.slice(1), pattern))
          : name !== "" && name[0] === pattern[0] && slowly(name.slice(1), pattern.slice(1));
    const word = fc.stringMatching(/^[ab]{0,7}$/);
    fc.assert(
      fc.property(word, fc.stringMatching(/^[ab*]{0,6}$/), (name, pattern) => {
        expect(fitsPattern(name, pattern)).toBe(slowly(name, pattern));
      }),
    );
    expect(fitsPattern("a".repeat(240), `${"a*".repeat(99)}b`)).toBe(false);
  });
});
