import { beforeAll, describe, expect, it } from "vitest";
import { ACTS, editSchema, type ActName } from "@/core/account/acts";
import { structureCsv } from "@/core/dispatch/export";
import type { Database } from "@/db/client";
import { handleApi } from "../api/handle";
import { viewBasket } from "../dispatch/basket";
import { previewReadBack } from "../dispatch/read-back";
import { importFeed, liveStructure, plannedStructure, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { ACT_EXAMPLES, ACT_FEED, actAccount } from "./act-examples.testing";
import { storeAdDay } from "../results/ad-day.testing";
import { addRecords } from "./commit";
import { liveAccount } from "./state";

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
  await importFeed({ db, info }, ACT_FEED);
  await storeAdDay({ db }, 20_700, [[1, 400, 80_000, 9_000]]);
  await addRecords(db, actAccount(), "tester", "start");
  await send(null);
});

describe("every act", () => {
  const names = Object.keys(ACTS) as ActName[];

  it.each(names)("%s goes from the API to the channel and back", async (name) => {
    const { edit, leaves } = ACT_EXAMPLES[name];
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
