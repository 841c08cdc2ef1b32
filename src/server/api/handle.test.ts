import { beforeAll, describe, expect, it } from "vitest";
import type { Database } from "@/db/client";
import { createWorkspace } from "../workspaces";
import { forgetSettings } from "../settings";
import { importFeed, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { matchPath } from "./endpoint";
import { ENDPOINTS } from "./endpoints";
import { handleApi } from "./handle";
import { openApiDocument } from "./openapi";

let workspace: { db: Database; info: WorkspaceInfo };
beforeAll(async () => {
  workspace = await testWorkspace();
  await importFeed(workspace, 'id,title,price,brand\nA,"=cmd()",5,Thornlea\nB,Rake,7,Ottersby\nC,Pot,,Ottersby\n');
});

async function call(method: string, path: string, body?: unknown, headers: Record<string, string> = {}) {
  const request = new Request(`http://127.0.0.1:4310/api/v1/${path}`, {
    method,
    headers: {
      host: "127.0.0.1:4310",
      ...(body === undefined ? {} : { "content-type": "application/json" }),
      ...headers,
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const response = await handleApi(request, path.split("?")[0]!);
  const text = await response.text();
  return { status: response.status, type: response.headers.get("content-type") ?? "", text, headers: response.headers };
}

interface Answer extends Record<string, unknown> {
  error: { code: string; message: string };
}

const json = (text: string) => JSON.parse(text) as Answer;

describe("paths", () => {
  it("match part by part, with values decoded", () => {
    expect(matchPath("{workspace}/items/{id}", "w/items/a%2Fb")).toEqual({ workspace: "w", id: "a/b" });
    expect(matchPath("{workspace}/items", "w/items/x")).toBeNull();
    expect(matchPath("health", "healthy")).toBeNull();
  });

  it("are told apart: no two operations answer the same request", () => {
    const keys = ENDPOINTS.map(
      ({ method, path, workspace: inside }) => `${method} ${inside ? "{w}/" : ""}${path.replace(/\{\w+\}/g, "{}")}`,
    );
    expect(new Set(keys).size).toBe(keys.length);
  });

  it("are all described, with their parameters", () => {
    const { paths } = openApiDocument(ENDPOINTS);
    const count = Object.values(paths).reduce((sum, methods) => sum + Object.keys(methods).length, 0);
    expect(count).toBe(ENDPOINTS.length);
    const items = paths["/{workspace}/items"]!["get"] as { parameters: { name: string; in: string }[] };
    expect(items.parameters.map(({ name }) => name)).toEqual(
      expect.arrayContaining(["workspace", "q", "filter", "sort", "limit", "cursor", "days"]),
    );
  });
});

describe("requests", () => {
  it("are answered with what they ask for", async () => {
    const { slug } = workspace.info;
    const found = json(
      (
        await call(
          "GET",
          `${slug}/items?sort=-price&filter=${encodeURIComponent('[{"field":"brand","op":"is","value":"ottersby"}]')}`,
        )
      ).text,
    );
    expect(found).toMatchObject({ total: 1, nextCursor: null, items: [{ id: "B", price: 7000 }] });
  });

  it("with input that does not fit get 400 and the place", async () => {
    const { slug } = workspace.info;
    const cases: [method: string, path: string, body: unknown, part: string][] = [
      ["GET", `${slug}/items?limit=0`, undefined, "limit"],
      ["GET", `${slug}/items?filter=nonsense`, undefined, "filter"],
      ["POST", `${slug}/account/edits`, { action: "budget", keys: [], op: { how: "set", mills: -1 } }, "keys"],
      [
        "POST",
        `${slug}/feeds/Bad Key/import`.replace(" ", "%20"),
        { upload: "00000000-0000-4000-8000-000000000000" },
        "hyphens",
      ],
      ["PUT", `${slug}/settings`, { goal: -1 }, "goal"],
    ];
    for (const [method, path, body, part] of cases) {
      const { status, text } = await call(method, path, body);
      expect([path, status]).toEqual([path, 400]);
      expect(json(text).error.code).toBe("input-invalid");
      expect(json(text).error.message).toContain(part);
    }
    const broken = new Request("http://x/api/v1/workspaces", {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: "{",
    });
    expect(json(await (await handleApi(broken, "workspaces")).text()).error.code).toBe("input-not-json");
  });

  it("that write are refused from pages of other sites, not from scripts", async () => {
    const path = `${workspace.info.slug}/settings`;
    const from = async (headers: Record<string, string>) => (await call("PUT", path, { goal: 3 }, headers)).status;
    expect(await from({ origin: "https://evil.example" })).toBe(403);
    expect(await from({ origin: "null" })).toBe(403);
    expect(await from({ "sec-fetch-site": "cross-site" })).toBe(403);
    expect(await from({ "sec-fetch-site": "same-site" })).toBe(403);
    expect(await from({ origin: "http://127.0.0.1:4310", "sec-fetch-site": "same-origin" })).toBe(200);
    expect(await from({})).toBe(200);
    expect((await call("GET", "health", undefined, { origin: "https://evil.example" })).status).toBe(200);
  });

  it("for files get them by name, safe for spreadsheets", async () => {
    const { slug } = workspace.info;
    const items = await call("GET", `${slug}/items.csv`);
    expect(items.headers.get("content-disposition")).toBe('attachment; filename="items.csv"');
    expect(items.text.split("\r\n")[1]).toMatch(/^A,'=cmd\(\),Thornlea,,in stock,5,unread,0,/);
    const labels = await call("GET", `${slug}/shelf-sets/return-tiers/labels.csv`);
    expect(labels.text).toBe("id,return-tiers\r\nA,Unread\r\nB,Unread\r\n");
    const aside = await call("GET", `${slug}/set-aside.csv`);
    expect(aside.text).toBe("row,why set aside,id,title,price,brand\r\n4,No price,C,Pot,,Ottersby\r\n");
    expect((await call("GET", `${slug}/structure?format=csv`)).text).toMatch(/^level,campaign,/);
  });

  it("to nowhere get 404", async () => {
    expect((await call("GET", "nothing")).status).toBe(404);
    expect((await call("GET", "nowhere/items")).status).toBe(404);
    expect((await call("DELETE", `${workspace.info.slug}/items`)).status).toBe(405);
    expect((await call("GET", `${workspace.info.slug}/jobs/none`)).status).toBe(404);
    expect((await call("GET", `${workspace.info.slug}/dispatches/77`)).status).toBe(404);
  });
});

describe("workspaces", () => {
  it("are kept apart and not made twice", async () => {
    const input = { slug: "apart", name: "Apart", currency: "GBP", timeZone: "Europe/London" };
    expect(await createWorkspace(input)).toMatchObject({ ok: true, value: { goal: 3, mostLoss: 0.3 } });
    expect(await createWorkspace(input)).toMatchObject({ ok: false, error: { code: "workspace-exists" } });
    expect(json((await call("GET", "apart/items")).text)).toMatchObject({ total: 0, items: [] });
    const till = json((await call("GET", "apart/till")).text);
    expect(till).toMatchObject({
      roas: null,
      cost: 0,
      items: 0,
      withoutHome: 0,
      leaks: 0,
      feedReadAt: null,
      resultsTo: null,
    });
    for (const bad of ["../up", "UPPER", "", "a".repeat(41)]) {
      expect((await call("POST", "workspaces", { ...input, slug: bad })).status).toBe(400);
    }
  });

  it("refuse to run a market without a catalogue", async () => {
    const { status, text } = await call("POST", "apart/market/run", { days: 7 });
    expect([status, json(text).error.code]).toEqual([422, "market-no-catalogue"]);
  });
});

describe("the front door", () => {
  it("answers under this machine's own names and those its owner allows, and under no other", async () => {
    for (const host of ["127.0.0.1:4310", "localhost", "[::1]:4310", "LOCALHOST:80"]) {
      expect([host, (await call("GET", "health", undefined, { host })).status]).toEqual([host, 200]);
    }
    for (const host of ["rebound.example", "127.0.0.1.example:4310", "shop.example"]) {
      const { status, text } = await call("GET", `${workspace.info.slug}/items`, undefined, { host });
      expect([status, json(text).error.code]).toEqual([421, "host-foreign"]);
    }
    process.env["HOTSHELF_ALLOWED_HOSTS"] = "shop.example, other.example";
    forgetSettings();
    expect((await call("GET", "health", undefined, { host: "shop.example:443" })).status).toBe(200);
    delete process.env["HOTSHELF_ALLOWED_HOSTS"];
    forgetSettings();
  });

  it("says what a path does when it is asked for something else, and answers no other site's pages", async () => {
    const patched = await call("PATCH", `${workspace.info.slug}/items`);
    expect([patched.status, patched.headers.get("allow"), json(patched.text).error.code]).toEqual([
      405,
      "GET",
      "method-unknown",
    ]);
    expect((await call("PATCH", `${workspace.info.slug}/nothing-here`)).status).toBe(404);
    for (const [site, status] of [
      ["cross-site", 403],
      ["same-site", 403],
      ["same-origin", 200],
      ["none", 200],
    ] as const) {
      const read = await call("GET", `${workspace.info.slug}/items`, undefined, { "sec-fetch-site": site });
      expect([site, read.status]).toEqual([site, status]);
    }
  });

  it("takes JSON as JSON, of a size that is meant, with whole characters", async () => {
    const path = `${workspace.info.slug}/notes`;
    const note = { kind: "item", key: "A", text: "a note" };
    const plain = await call("POST", path, note, { "content-type": "text/plain" });
    expect([plain.status, json(plain.text).error.code]).toEqual([415, "input-type"]);
    const huge = await call("POST", path, { ...note, text: "x".repeat(3 * 1024 * 1024) });
    expect([huge.status, json(huge.text).error.code]).toEqual([413, "input-too-large"]);
    const half = await call("POST", path, { ...note, text: "half \ud83d of it" });
    expect([half.status, json(half.text).error.code]).toEqual([400, "input-half-character"]);
    const percent = await call("GET", `${workspace.info.slug}/items/%zz`);
    expect([percent.status, json(percent.text).error.code]).toEqual([400, "path-malformed"]);
    const number = await call("GET", `${workspace.info.slug}/dispatches/none`);
    expect([number.status, json(number.text).error.code]).toEqual([400, "input-invalid"]);
    expect((await call("GET", `${workspace.info.slug}/results?from=0001-01-01&to=9999-12-31`)).status).toBe(400);
    const long = await call("GET", `${workspace.info.slug}/results?from=2000-01-01&to=2099-12-31`);
    expect([long.status, json(long.text).error.code]).toEqual([422, "days-many"]);
  });
});
