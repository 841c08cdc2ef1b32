import { beforeAll, describe, expect, it } from "vitest";
import { ACTS, editSchema, type ActName } from "@/core/account/acts";
import { structureCsv } from "@/core/dispatch/export";
import { leastAssets, testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { handleApi } from "../api/handle";
import { viewBasket } from "../dispatch/basket";
import { previewReadBack } from "../dispatch/read-back";
import { importFeed, liveStructure, plannedStructure, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { addRecords } from "./commit";
import { liveAccount } from "./state";

const FEED = `id,title,price,brand,item_group_id\n${["1", "2", "3", "4"]
  .map((id) => `${id},Rake ${id},9.00,${id === "4" ? "Elm" : "Oak"},${id < "3" ? "f1" : ""}`)
  .join("\n")}\n`;

const set = (mills: number) => ({ how: "set", mills });

/** One edit of every act; an act without one fails to compile. `leaves` is a record that has it, and what it then says. */
const EXAMPLES: Record<ActName, { edit: object; leaves: [key: string, has: object | null] }> = {
  status: {
    edit: { keys: ["c:a"], status: "paused", pausedFor: "spring is over", reviewOn: "2027-03-01" },
    leaves: ["c:a", { status: "paused", pausedFor: "spring is over", reviewOn: "2027-03-01" }],
  },
  budget: { edit: { keys: ["c:a"], op: set(33_000) }, leaves: ["c:a", { dailyBudget: 33_000 }] },
  bid: { edit: { keys: ["g:c:a"], op: { how: "percent", percent: 10 } }, leaves: ["g:c:a", { bid: 550 }] },
  pool: { edit: { keys: ["c:a"], pool: "pool:spring" }, leaves: ["c:a", { pool: "pool:spring" }] },
  "serve-order": { edit: { keys: ["c:a"], serveOrder: 2 }, leaves: ["c:a", { serveOrder: 2 }] },
  flex: {
    edit: { keys: ["c:a"], flex: { mode: "stretch", limit: 0.5 } },
    leaves: ["c:a", { flex: { mode: "stretch", limit: 0.5 } }],
  },
  "slot-factor": {
    edit: { keys: ["c:a"], slot: "lead-row", factor: 1.5 },
    leaves: ["c:a", { slots: { "lead-row": 1.5 } }],
  },
  "hour-factor": {
    edit: { keys: ["c:a"], hours: [0], factor: 0 },
    leaves: ["c:a", { hours: [0, ...Array.from({ length: 23 }, () => 1)] }],
  },
  settings: { edit: { keys: ["c:a"], settings: { goal: 4.5 } }, leaves: ["c:a", { goal: 4.5 }] },
  folder: { edit: { keys: ["c:a"], folder: "Spring" }, leaves: ["c:a", { folder: "Spring" }] },
  rename: { edit: { keys: ["c:a"], name: "Rakes" }, leaves: ["c:a", { name: "Rakes" }] },
  "move-groups": { edit: { keys: ["g:c:a"], into: "c:b" }, leaves: ["g:c:a", { campaign: "c:b" }] },
  "move-target": {
    edit: { keys: ["t:c:k/0"], name: "Rake words", dailyBudget: 7_000 },
    leaves: ["c:rake-words", { name: "Rake words", dailyBudget: 7_000, kind: "keyword" }],
  },
  "item-bid": { edit: { items: ["1"], op: set(640) }, leaves: ["p:c:a/1", { bid: 640 }] },
  exclude: {
    edit: { items: ["2"], reason: "unsafe", campaign: "c:a" },
    leaves: ["x:c:a/2", { campaign: "c:a", item: "2", reason: "unsafe" }],
  },
  include: { edit: { items: ["3"] }, leaves: ["x:everywhere/3", null] },
  solo: {
    edit: { items: ["1"], name: "The best rake", dailyBudget: 9_000, bid: 500 },
    leaves: ["c:the-best-rake", { dailyBudget: 9_000, serveOrder: 1 }],
  },
  "kept-out": {
    edit: { keys: ["x:everywhere/3"], reason: "off-topic", reviewOn: "2027-05-01" },
    leaves: ["x:everywhere/3", { reason: "off-topic", reviewOn: "2027-05-01" }],
  },
  assets: {
    edit: { keys: ["g:c:s"], assets: { ...leastAssets("g:c:s"), ownBrand: false } },
    leaves: ["a:g:c:s", { ownBrand: false }],
  },
  amounts: {
    edit: { of: "budget", amounts: [{ key: "c:b", mills: 21_000, reason: "dry by noon" }] },
    leaves: ["c:b", { dailyBudget: 21_000 }],
  },
  "rename-value": { edit: { by: "id", from: "4", to: "5" }, leaves: ["p:c:b/4", { value: "5" }] },
};

let db: Database;
let info: WorkspaceInfo;

async function ask(path: string, body: unknown): Promise<{ status: number; body: Record<string, unknown> }> {
  const url = `http://127.0.0.1:4310/api/v1/${info.slug}/${path}`;
  const headers = { host: "127.0.0.1:4310", "content-type": "application/json" };
  const response = await handleApi(
    new Request(url, { method: "POST", headers, body: JSON.stringify(body) }),
    `${info.slug}/${path.split("?")[0]}`,
  );
  return { status: response.status, body: (await response.json()) as Record<string, unknown> };
}

const send = async (takesBack: number | null) => {
  const job = await runToEnd(db, info, "dispatch", { takesBack });
  expect(job.error).toBeNull();
  return (job.result as { dispatch: number }).dispatch;
};

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, FEED);
  const made = {
    ...testCampaign("c:a", { name: "A", dailyBudget: 10_000 }, ["1", "2", "3"], 500),
    ...testCampaign("c:b", { name: "B", dailyBudget: 20_000 }, ["4"], 300),
    ...testCampaign("c:k", { name: "Words", kind: "keyword", dailyBudget: 5_000 }, ["1"], 400, [
      { type: "keyword", text: "rakes", match: "exact" },
      { type: "keyword", text: "oak rake", match: "broad" },
    ]),
    ...testCampaign("c:s", { name: "Shown", kind: "asset", dailyBudget: 5_000, serveOrder: 8 }, ["1"], 400),
    "pool:spring": { type: "pool", key: "pool:spring", name: "Spring", dailyBudget: 40_000 } as const,
  };
  const out = { type: "exclusion", key: "x:everywhere/3", campaign: null, item: "3", reviewOn: null } as const;
  await addRecords(db, { ...made, [out.key]: { ...out, reason: "wasteful" } }, "tester", "start");
  await send(null);
});

describe("every act", () => {
  const names = Object.keys(ACTS) as ActName[];

  it.each(names)("%s goes from the API to the channel and back", async (name) => {
    const { edit, leaves } = EXAMPLES[name];
    const asked = { action: name, ...edit };
    expect(editSchema.safeParse(asked).error).toBeUndefined();
    const before = await liveStructure(db);
    const version = (await ask("account/edits/look", asked)).body;
    // What it would change is said before; the account is as it was.
    expect(version["changes"]).toBeGreaterThan(0);
    expect(await plannedStructure(db)).toEqual(before);
    const made = await ask("account/edits", asked);
    expect([made.status, made.body["changes"]]).toEqual([200, version["changes"]]);
    const has = (structure: Record<string, object>) => structure[leaves[0]] ?? null;
    const wanted = leaves[1] === null ? null : expect.objectContaining(leaves[1]);
    expect(has(await plannedStructure(db))).toEqual(wanted);
    expect(await liveStructure(db)).toEqual(before);

    const basket = await viewBasket(db, info, 0, 100, { q: "", all: true });
    expect(basket.changes.length).toBe(made.body["changes"]);
    expect(basket.changes.every(({ cause, from }) => cause > 0 && from === "by hand")).toBe(true);
    const kinds = await db.$client.execute(
      "SELECT DISTINCT c.kind, c.of FROM basket b JOIN causes c ON c.id = b.cause",
    );
    expect(kinds.rows.map((row) => [row[0], row[1]])).toEqual([["act", name]]);

    const sent = await send(null);
    const after = await liveStructure(db);
    expect(has(after)).toEqual(wanted);
    const kept = await db.$client.execute({
      sql: "SELECT count(*) FROM dispatch_changes d JOIN causes c ON c.id = d.cause WHERE d.dispatch = ? AND c.of = ?",
      args: [sent, name],
    });
    expect(Number(kept.rows[0]![0])).toBe(made.body["changes"]);

    // The structure as a file, read back, is what the channel has.
    const file = await previewReadBack(db, info, structureCsv(await liveAccount(db)));
    expect(file).toMatchObject({ ok: true, value: { changes: 0, faults: [] } });

    await send(sent);
    expect(await liveStructure(db)).toEqual(before);
    expect(await plannedStructure(db)).toEqual(before);
  });
});
