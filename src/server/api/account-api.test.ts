import { beforeAll, describe, expect, it } from "vitest";
import { recordSchema } from "@/core/account/records";
import type { Database } from "@/db/client";
import { ownerOfMachine } from "../person";
import { runWaiting, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { handleApi } from "./handle";

let db: Database;
let info: WorkspaceInfo;

const HOST = "http://127.0.0.1:4310";

interface Answer {
  status: number;
  body: Record<string, unknown> & { error?: { code: string; message: string; hint?: string } };
}

/** Asks as a script does, or as a page of ours when `page` says so. */
async function ask(method: string, path: string, body?: unknown, page = false): Promise<Answer> {
  const headers: Record<string, string> = {
    host: "127.0.0.1:4310",
    ...(page ? { "sec-fetch-site": "same-origin" } : {}),
    ...(body === undefined ? {} : { "content-type": "application/json" }),
  };
  const init = { method, headers, ...(body === undefined ? {} : { body: JSON.stringify(body) }) };
  const response = await handleApi(
    new Request(`${HOST}/api/v1/${info.slug}/${path}`, init),
    `${info.slug}/${path.split("?")[0]}`,
  );
  return { status: response.status, body: (await response.json()) as Answer["body"] };
}

const budget = (key: string, dailyBudget: number) => ({
  action: "budget",
  keys: [key],
  op: { how: "set", mills: dailyBudget },
});

beforeAll(async () => {
  ({ db, info } = await testWorkspace());
  const base = { kind: "feed", purpose: "scale", bidding: "fixed", goal: null, status: "on", serveOrder: 3 };
  const put = ["a", "b"].map((key) =>
    recordSchema.parse({
      ...{ type: "campaign", key, name: `Campaign ${key}`, dailyBudget: 10_000, inStockOnly: false, origin: null },
      ...base,
    }),
  );
  expect((await ask("POST", "account/records", { put })).status).toBe(200);
  expect((await ask("POST", "dispatches")).status).toBe(202);
  await runWaiting(db, info);
});

describe("the account over the API", () => {
  it("answers with its version, and refuses with 409 what rests on an older one, saying by whom it was overtaken", async () => {
    const { body: seen } = await ask("GET", "account");
    const version = seen["version"] as number;
    expect((await ask("POST", `account/edits?version=${version}`, budget("a", 11_000), true)).status).toBe(200);
    const late = await ask("POST", `account/edits?version=${version}`, budget("a", 12_000));
    expect(late.status).toBe(409);
    expect(late.body.error).toMatchObject({ code: "account-moved" });
    expect(late.body.error!.message).toBe(
      `"Campaign a" was changed meanwhile by ${ownerOfMachine()}. Nothing was changed.`,
    );
    // Another record, or no version at all, is nobody's conflict.
    expect((await ask("POST", `account/edits?version=${version}`, budget("b", 12_000))).status).toBe(200);
    const { status, body: made } = await ask("POST", "account/edits", budget("a", 13_000));
    expect(status).toBe(200);
    // The answer says which version has the edit: who knows that one has seen it.
    expect(made["version"]).toBe((await ask("GET", "account")).body["version"]);
    const next = (amount: number) =>
      ask("POST", `account/edits?version=${made["version"] as number}`, budget("a", amount));
    const { status: again, body: second } = await next(14_000);
    expect([again, second["version"]]).toEqual([200, (made["version"] as number) + 1]);
    expect((await next(14_000)).body).toMatchObject({ changes: 0, version: second["version"] });
  });

  it("tells pages and scripts apart by name, in the basket and in the history", async () => {
    const { body } = await ask("GET", "basket");
    const changes = body["changes"] as { key: string; who: string }[];
    const who = Object.fromEntries(changes.map((change) => [change.key, change.who]));
    expect(who).toEqual({ a: `${ownerOfMachine()} (script)`, b: `${ownerOfMachine()} (script)` });
    const version = body["version"] as number;
    expect((await ask("POST", "account/edits", budget("b", 14_000), true)).status).toBe(200);
    const stale = await ask("POST", `dispatches?version=${version}`, undefined, true);
    expect([stale.status, stale.body.error?.code]).toEqual([409, "basket-moved"]);
    const now = (await ask("GET", "basket")).body["version"] as number;
    expect((await ask("POST", `dispatches?version=${now}`, undefined, true)).status).toBe(202);
    const second = await ask("POST", "dispatches");
    expect([second.status, second.body.error?.code]).toEqual([409, "dispatch-under-way"]);
    await runWaiting(db, info);
    const sent = (await ask("GET", "dispatches")).body as unknown as { who: string }[];
    expect(sent[0]!.who).toBe(ownerOfMachine());
  });

  it("refuses versions and bodies that are none, and changes nothing", async () => {
    const before = (await ask("GET", "account")).body["version"];
    for (const version of ["-1", "x", "1.5", "9".repeat(30)]) {
      expect((await ask("POST", `account/edits?version=${version}`, budget("a", 1_000))).status).toBe(400);
    }
    expect((await ask("POST", "account/edits", { ...budget("a", -5) })).status).toBe(400);
    expect((await ask("POST", "account/edits", budget("nowhere", 1_000))).status).toBe(404);
    expect((await ask("GET", "account")).body["version"]).toBe(before);
  });

  it("takes back an edit only while it is the last word", async () => {
    const first = (await ask("POST", "account/edits", budget("a", 21_000))).body;
    const second = (await ask("POST", "account/edits", budget("a", 22_000))).body;
    const overtaken = await ask("POST", "account/edits/take-back", first["diff"]);
    expect([overtaken.status, overtaken.body.error?.code]).toEqual([409, "change-overtaken"]);
    expect((await ask("POST", "account/edits/take-back", second["diff"])).status).toBe(200);
    expect((await ask("POST", "account/edits/take-back", first["diff"])).status).toBe(200);
    expect((await ask("GET", "basket")).body["total"]).toBe(0);
  });
});
