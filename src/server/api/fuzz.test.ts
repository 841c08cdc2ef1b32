import { beforeAll, describe, expect, it } from "vitest";
import { diffRecords } from "@/core/kit/diff";
import { randomFrom, type Random } from "@/core/kit/random";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { ENDPOINTS } from "./endpoints";
import { handleApi } from "./handle";
import { openApiDocument } from "./openapi";

/*
 * Random requests made from the API's own description. Whatever is asked, the answer is a documented one: no fault of the
 * server's, in the documented shape, in time. The seed makes a run the same every time; `HOTSHELF_FUZZ` makes it
 * longer, `HOTSHELF_FUZZ_SEED` another one.
 */

const REQUESTS = Number(process.env["HOTSHELF_FUZZ"] ?? 3000);
const SEED = process.env["HOTSHELF_FUZZ_SEED"] ?? "fuzz 1";
/** What one answer may cost this process, ms of its own work; the clock says more of what else a machine does. */
const MOST_MS = 5000;

/** Values that break what is not written with care. */
const NASTY: unknown[] = [
  ...["", " ", "0", "-1", "1.5", "NaN", "Infinity", "1e999", "null", "undefined", "true", "[]", "{}", "[{}]"],
  ...["__proto__", "constructor", "toString", "hasOwnProperty", "prototype", "valueOf"],
  ...["field:__proto__", "feed:constructor", "shelf:__proto__", "derived:toString", "fault:constructor", "category99"],
  ...[
    "\ud800",
    "a\u0000b",
    "\ufffe",
    "＝1+1",
    "=cmd()",
    "../../etc/passwd",
    "%",
    "a".repeat(3000),
    "💥",
    "'; DROP TABLE items;--",
  ],
  ...["0001-01-01", "9999-12-31", "2026-02-30", "2026-10-29", "-271821-04-20", "8000"],
  ...[0, -1, 1.5, 1e308, -0, 2 ** 53, true, false, null, [], {}, [[]], [null], { a: { b: [] } }],
  ...[{ __proto__: null, constructor: 1 }, JSON.parse('{"__proto__":{"polluted":1}}')],
];

interface Schema {
  type?: string;
  properties?: Record<string, Schema>;
  items?: Schema;
  enum?: unknown[];
  const?: unknown;
  anyOf?: Schema[];
  oneOf?: Schema[];
  additionalProperties?: Schema | boolean;
}

let workspace: { db: Database; info: WorkspaceInfo };
/** Values that mean something here, so that requests get past the first check. */
let real: string[];

beforeAll(async () => {
  workspace = await testWorkspace();
  const { db, info } = workspace;
  const rows = Array.from({ length: 40 }, (_, i) => `I${i},Rake ${i},${5 + i}.00,Maker${i % 3},Garden > Rakes,2.00`);
  await importFeed(workspace, `id,title,price,brand,category,cost\n${rows.join("\n")}\n`);
  const items = rows.map((_, i) => `I${i}`);
  await addToBasket(db, diffRecords({}, testCampaign("c:a", { name: "A", dailyBudget: 50_000 }, items, 500)));
  await runToEnd(db, info, "dispatch", { takesBack: null });
  await runToEnd(db, info, "market-run", { from: 20_700, through: 20_712, seed: "s" });
  real = [
    ...[
      "I0",
      "I7",
      "title",
      "brand",
      "category1",
      "price",
      "heat",
      "home",
      "margin",
      "c:a",
      "main",
      "campaign",
      "item",
      "term",
    ],
    ...[
      "return-by-chance",
      "return-by-chance/hot",
      "hot",
      "1",
      "2",
      "10",
      "2026-09-05",
      "2026-09-10",
      "-cost",
      "exact",
    ],
  ];
});

/** Names of columns, levels and metrics, some of which an object has from birth. */
const NAMES = [
  "brand",
  "heat",
  "home",
  "price",
  "cost",
  "roas",
  "__proto__",
  "constructor",
  "toString",
  "shelf:constructor",
];
const LEVELS = [
  "campaign",
  "item",
  "term",
  "shelf",
  "day",
  "matchType",
  "field:brand",
  "field:__proto__",
  "field:constructor",
];

/** Parameters that are a language of their own. */
const SPECIAL: Record<string, (random: Random) => string> = {
  filter: (random) => {
    const condition = () => ({
      field: pick(random, NAMES),
      op: pick(random, ["is", "at-least", "one-of", "has-word", "empty", "capitals", "contains"]),
      value: pick(random, ["Maker1", "5", "__proto__", "constructor", "", "["]),
    });
    return JSON.stringify(random() < 0.5 ? [condition()] : { match: "any", of: [condition(), condition()] });
  },
  where: (random) =>
    JSON.stringify([
      { metric: pick(random, ["cost", "roas", "__proto__"]), op: "least", value: pick(random, [0, 1e9, null]) },
    ]),
  within: (random) =>
    JSON.stringify([
      { level: pick(random, LEVELS), key: pick(random, ["c:a", "I0", "__proto__", "constructor", "2026-09-05"]) },
    ]),
  columns: (random) => [pick(random, NAMES), pick(random, NAMES)].join(),
  metrics: (random) => [pick(random, NAMES), pick(random, NAMES)].join(),
  level: (random) => pick(random, LEVELS),
  split: (random) => pick(random, [...LEVELS, ""]),
  sort: (random) =>
    `${pick(random, ["", "-"])}${pick(random, [...NAMES, "change:cost", "change:__proto__", "name", "gap"])}`,
  set: (random) => pick(random, ["return-by-chance", "return-tiers", "__proto__", "constructor"]),
  shelf: (random) => pick(random, ["return-by-chance/hot", "__proto__/constructor", "return-by-chance/__proto__", ""]),
  by: (random) => pick(random, NAMES),
  field: (random) => pick(random, NAMES),
};

const pick = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)]!;

/** A value for a schema: fitting mostly, nasty now and then. */
function valueFor(random: Random, schema: Schema, depth = 0): unknown {
  if (random() < 0.07 || depth > 8) return pick(random, NASTY);
  if (schema.const !== undefined) return schema.const;
  if (schema.enum) return pick(random, schema.enum);
  const union = schema.anyOf ?? schema.oneOf;
  if (union) return valueFor(random, pick(random, union), depth + 1);
  switch (schema.type) {
    case "object": {
      const known = Object.entries(schema.properties ?? {}).filter(() => random() < 0.95);
      const made: [string, unknown][] = known.map(([name, inner]) => [name, valueFor(random, inner, depth + 1)]);
      if (typeof schema.additionalProperties === "object") {
        const key = random() < 0.3 ? asText(pick(random, NASTY)) : pick(random, real);
        made.push([key, valueFor(random, schema.additionalProperties, depth + 1)]);
      }
      return Object.fromEntries(made);
    }
    case "array":
      return Array.from({ length: Math.floor(random() * 4) }, () => valueFor(random, schema.items ?? {}, depth + 1));
    case "integer":
    case "number":
      return pick(random, [0, 1, 2, 3, 10, 30, 100, 0.5, 1000]);
    case "boolean":
      return random() < 0.5;
    default:
      return random() < 0.75 ? pick(random, real) : asText(pick(random, NASTY));
  }
}

const asText = (value: unknown) => (typeof value === "string" ? value : JSON.stringify(value));

/** Percent signs for what an address can't hold; half characters as a careless client would send them. */
function encoded(text: string): string {
  return text.isWellFormed() ? encodeURIComponent(text) : "%ed%a0%80";
}

interface Operation {
  method: string;
  path: string;
  parameters: { name: string; in: string; schema: Schema }[];
  body: Schema | null;
  isRaw: boolean;
  isRedirect: boolean;
}

function operations(): Operation[] {
  const { paths } = openApiDocument(ENDPOINTS);
  return Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, described]): Operation => {
      const { parameters, requestBody, responses } = described as {
        responses: Record<string, unknown>;
        parameters: Operation["parameters"];
        requestBody?: { content: Record<string, { schema: Schema }> };
      };
      const content = requestBody?.content ?? {};
      const isRaw = "application/octet-stream" in content;
      return {
        method: method.toUpperCase(),
        path,
        parameters,
        body: content["application/json"]?.schema ?? null,
        isRaw,
        // Sending a browser on is an answer only where it is said to be one.
        isRedirect: "302" in responses,
      };
    }),
  );
}

/** Operations whose honest work is long or goes outside; asked with nasty parameters only. */
const LEFT_OUT = /market-compare|link-check|\/market\/|demo|workspaces$/;

function makeRequest(random: Random, { method, path, parameters, body, isRaw }: Operation) {
  const filled = path.replace(/\{(\w+)\}/g, (_, name: string) => {
    if (name === "workspace" && random() < 0.97) return workspace.info.slug;
    return random() < 0.5 ? encoded(pick(random, real)) : encoded(asText(pick(random, NASTY)));
  });
  const query = parameters
    .filter((one) => one.in === "query" && random() < 0.6)
    .map(({ name, schema }) => {
      const special = random() < 0.9 ? SPECIAL[name] : undefined;
      return `${name}=${encoded(special ? special(random) : (asText(valueFor(random, schema)) ?? ""))}`;
    })
    .join("&");
  const broken = random() < 0.01 ? "%zz" : "";
  const target = `${filled.slice(1)}${broken}`;
  const headers: Record<string, string> = { host: "127.0.0.1:4310" };
  let content: string | undefined;
  if (isRaw) content = random() < 0.5 ? "id,title,price\n1,Rake,5\n" : asText(pick(random, NASTY));
  else if (body) {
    content = random() < 0.03 ? "{ not json" : JSON.stringify(valueFor(random, body));
    headers["content-type"] = random() < 0.02 ? "text/plain" : "application/json";
  }
  const url = `http://127.0.0.1:4310/api/v1/${target}${query ? `?${query}` : ""}`;
  return { target, url, init: { method, headers, ...(content === undefined ? {} : { body: content ?? "" }) } };
}

const ALLOWED = new Set([200, 201, 202, 400, 401, 403, 404, 405, 409, 413, 415, 421, 422, 429]);

describe("random requests", () => {
  it(`are answered as documented: ${REQUESTS} of them`, async () => {
    const random = randomFrom(SEED);
    const all = operations().filter(({ path }) => !LEFT_OUT.test(path));
    const faults = new Map<string, string>();
    const statuses = new Map<number, number>();
    for (let i = 0; i < REQUESTS; i++) {
      const operation = all[i % all.length]!;
      const { target, url, init } = makeRequest(random, operation);
      const name = `${operation.method} ${operation.path}`;
      const worked = process.cpuUsage();
      let status = 0;
      let text = "";
      try {
        const response = await handleApi(new Request(url, init), target);
        status = response.status;
        text = await response.text();
      } catch (error) {
        faults.set(`${name} threw`, `${String(error)} ← ${url.slice(0, 300)} ${String(init.body ?? "").slice(0, 300)}`);
        continue;
      }
      statuses.set(status, (statuses.get(status) ?? 0) + 1);
      const said = `${text.slice(0, 160)} ← ${url.slice(0, 300)} ${String(init.body ?? "").slice(0, 400)}`;
      if (!ALLOWED.has(status) && !(status === 302 && operation.isRedirect)) faults.set(`${name} ${status}`, said);
      const { user, system } = process.cpuUsage(worked);
      if ((user + system) / 1000 > MOST_MS) faults.set(`${name} slow`, said);
      if (status < 400) continue;
      const { error } = JSON.parse(text) as { error?: { code?: unknown; message?: unknown } };
      if (typeof error?.code !== "string" || typeof error.message !== "string" || error.message === "") {
        faults.set(`${name} shape`, said);
      }
    }
    expect(Object.fromEntries(faults)).toEqual({});
    // Enough of them got past the checks to mean something.
    expect((statuses.get(200) ?? 0) + (statuses.get(201) ?? 0) + (statuses.get(202) ?? 0)).toBeGreaterThan(
      REQUESTS / 8,
    );
    expect(({} as { polluted?: number }).polluted).toBeUndefined();
    expect(workspace.info.slug).not.toBe("");
  });
});
