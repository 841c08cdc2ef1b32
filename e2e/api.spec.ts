import { readFileSync } from "node:fs";
import type { APIRequestContext } from "@playwright/test";
import { jobsDone } from "./helpers";
import { expect, test } from "./site";

interface Example {
  method: string;
  path: string;
  body: string | undefined;
  expected: unknown;
}

/** The requests of docs/api.md with the answer that stands behind each, if any. */
function examples(): Example[] {
  const blocks = [...readFileSync("docs/api.md", "utf8").matchAll(/```(http|json)\n([\s\S]*?)```/g)];
  const found: Example[] = [];
  for (const [, kind, text] of blocks) {
    if (kind === "json") {
      found.at(-1)!.expected = JSON.parse(text!);
      continue;
    }
    const [line, ...rest] = text!.split("\n\n");
    const [method, path] = line!.trim().split(/ (.*)/s);
    found.push({ method: method!, path: path!, body: rest.join("\n\n") || undefined, expected: undefined });
  }
  return found;
}

test("every example of the API document works as written", async ({ page, request }) => {
  const list = examples();
  expect(list.length).toBeGreaterThan(15);
  let job = "";
  for (const { method, path, body, expected } of list) {
    if (path.includes("{job}")) await jobsDone(page, "lamps");
    const response = await request.fetch(path.replace("{job}", job), {
      method,
      data: body,
      headers: body ? { "content-type": body.startsWith("{") ? "application/json" : "text/plain" } : {},
    });
    const answer = (await response.json()) as { job?: string };
    const label = `${method} ${path} → ${response.status()} ${JSON.stringify(answer).slice(0, 200)}`;
    if (expected === undefined || !("error" in (expected as object))) expect(response.ok(), label).toBe(true);
    if (expected !== undefined) expect(answer, label).toEqual(asPattern(expected));
    if (answer.job) job = answer.job;
  }
});

/** An object in an example stands for one with at least these fields, a list for one that holds at least these entries. */
function asPattern(value: unknown): unknown {
  if (Array.isArray(value)) return value.length === 0 ? value : expect.arrayContaining(value.map(asPattern));
  if (typeof value !== "object" || value === null) return value;
  return expect.objectContaining(Object.fromEntries(Object.entries(value).map(([key, one]) => [key, asPattern(one)])));
}

test("the OpenAPI document names every operation with its schemas", async ({ request }) => {
  const document = (await (await request.get("/api/v1/openapi.json")).json()) as {
    openapi: string;
    paths: Record<
      string,
      Record<string, { requestBody?: { content: Record<string, { schema: { properties?: object } }> } }>
    >;
  };
  expect(document.openapi).toBe("3.1.0");
  for (const path of [
    "/health",
    "/workspaces",
    "/{workspace}/items",
    "/{workspace}/feeds/{feed}/refresh",
    "/{workspace}/dispatches/{id}/take-back",
  ]) {
    expect(Object.keys(document.paths)).toContain(path);
  }
  const preview =
    document.paths["/{workspace}/planograms/preview"]!["post"]!.requestBody!.content["application/json"]!.schema;
  expect(Object.keys(preview.properties ?? {})).toContain("ladder");
});

async function post(request: APIRequestContext, path: string, data: object, headers: Record<string, string> = {}) {
  const response = await request.post(`/api/v1/${path}`, { data, headers });
  return { status: response.status(), body: (await response.json()) as { error?: { code: string; message: string } } };
}

test("bad requests get a sentence, and no path or stack", async ({ request }) => {
  const cases: [path: string, data: unknown, status: number, code: string][] = [
    ["workspaces", { slug: "X Y", name: "", currency: "QQQ", timeZone: "Mars" }, 400, "input-invalid"],
    [
      "workspaces",
      { slug: "quillmoor", name: "Twice", currency: "EUR", timeZone: "Europe/Berlin" },
      409,
      "workspace-exists",
    ],
    ["quillmoor/market/run", { days: 9999 }, 400, "input-invalid"],
    [
      "quillmoor/account/edits",
      { action: "budget", keys: ["nothing"], op: { how: "set", mills: 5000 } },
      404,
      "record-gone",
    ],
    ["quillmoor/planograms/nothing/apply", {}, 404, "planogram-unknown"],
    ["nowhere/market/run", { days: 7 }, 404, "workspace-unknown"],
    ["../../etc/passwd", {}, 404, ""],
  ];
  for (const [path, data, status, code] of cases) {
    const response = await request.post(`/api/v1/${path}`, { data });
    expect(response.status(), path).toBe(status);
    const text = await response.text();
    expect(text).not.toMatch(/node_modules|\/src\/|SELECT |at .*\.ts/);
    if (code) expect((JSON.parse(text) as { error: { code: string } }).error.code).toBe(code);
  }
});

test("pages of other sites can't write", async ({ request }) => {
  const foreign = await post(request, "quillmoor/market/run", { days: 7 }, { origin: "https://elsewhere.example" });
  expect([foreign.status, foreign.body.error?.code]).toEqual([403, "forbidden-origin"]);
  const page = await request.get("/w/quillmoor");
  const policy = page.headers()["content-security-policy"]!;
  expect(policy).toMatch(/script-src 'self' 'nonce-[^']+' 'strict-dynamic'/);
  expect(policy).toContain("frame-ancestors 'none'");
});
