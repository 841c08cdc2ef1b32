import { beforeAll, describe, expect, it } from "vitest";
import { diffRecords } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import { basket } from "@/db/schema";
import { readAccount } from "../../account/state";
import { enqueueJob, findJob } from "../../jobs/jobs";
import { claimJob, runJob } from "../../jobs/work";
import { jobHandlers } from "../../runner/handlers";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../../testing";
import { startUndoMany, type EditedMany } from "./edit-many";
import { itemsQuerySchema } from "./items";

type Workspace = Awaited<ReturnType<typeof testWorkspace>>;

const COUNT = 1200;
const EXCLUDE = { action: "exclude", reason: "wasteful", reviewOn: null };

/** A shop of which every third item is of the brand Oak; all stand in one campaign. */
async function shop(): Promise<Workspace> {
  const workspace = await testWorkspace();
  const rows = Array.from({ length: COUNT }, (_, i) => `I${i},Rake ${i},5.00,${i % 3 === 0 ? "Oak" : "Elm"}`);
  await importFeed(workspace, `id,title,price,brand\n${rows.join("\n")}\n`);
  const all = rows.map((_, i) => `I${i}`);
  await addToBasket(workspace.db, diffRecords({}, testCampaign("c:a", { name: "A" }, all, 500)));
  await runToEnd(workspace.db, workspace.info, "dispatch", { takesBack: null });
  return workspace;
}

const oak = {
  query: itemsQuerySchema.parse({ where: { match: "all", of: [{ field: "brand", op: "is", value: "Oak" }] } }),
  days: 30,
};

describe("an edit of many items", () => {
  let workspace: Workspace;
  beforeAll(async () => {
    workspace = await shop();
  });
  const excluded = async () => (await readAccount(workspace.db)).planned.all("exclusion").map(({ item }) => item);

  it("acts on all that a filter finds, and is taken back as a whole", async () => {
    const { db, info } = workspace;
    const job = await runToEnd(db, info, "account-edit", { intent: EXCLUDE, items: oak });
    expect(job.error).toBeNull();
    const done = job.result as EditedMany;
    expect(done).toMatchObject({ items: 400, changes: 400, words: "Excluded: wasteful" });
    expect((await excluded()).sort()).toEqual(Array.from({ length: 400 }, (_, i) => `I${3 * i}`).sort());
    // The same again changes nothing, so there is nothing to take back.
    const again = await runToEnd(db, info, "account-edit", { intent: EXCLUDE, items: oak });
    expect(again.result).toMatchObject({ changes: 0, edit: null });
    const undo = await startUndoMany(db, done.edit!);
    if (!undo.ok) throw new Error(undo.error.message);
    const claimed = (await claimJob(db, "test"))!;
    await runJob(db, info, jobHandlers, claimed);
    expect((await findJob(db, undo.value.id))?.error).toBeNull();
    expect(await excluded()).toEqual([]);
    expect(await db.select().from(basket)).toEqual([]);
    expect(await startUndoMany(db, done.edit!)).toMatchObject({ ok: false, error: { code: "edit-undone" } });
  });

  it("counts once though its job runs twice, and is not taken back over a later change", async () => {
    const { db, info } = workspace;
    const queued = await enqueueJob(db, "account-edit", { intent: EXCLUDE, items: ["I0", "I1"] });
    const claimed = (await claimJob(db, "test"))!;
    await runJob(db, info, jobHandlers, claimed);
    await runJob(db, info, jobHandlers, { ...claimed, attempts: 1 });
    const job = (await findJob(db, queued.id))!;
    expect(job.result).toMatchObject({ items: 2, changes: 2, edit: queued.id });
    expect((await excluded()).sort()).toEqual(["I0", "I1"]);
    await runToEnd(db, info, "account-edit", { intent: { action: "include" }, items: ["I0"] });
    const undo = await runToEnd(db, info, "account-edit-undo", { edit: queued.id });
    expect(undo.error?.code).toBe("change-overtaken");
    expect(await excluded()).toEqual(["I1"]);
  });

  it("is not made over what others changed since it was asked for", async () => {
    const { db, info } = workspace;
    const { version: seen } = await readAccount(db);
    const other = { ...EXCLUDE, reason: "unsafe" as const };
    await runToEnd(db, info, "account-edit", { intent: other, items: ["I7"] });
    const late = await runToEnd(db, info, "account-edit", { intent: EXCLUDE, items: ["I6", "I7"], seen });
    expect(late.error).toMatchObject({ code: "account-moved" });
    expect(await excluded()).not.toContain("I6");
    const now = (await readAccount(db)).version;
    const again = await runToEnd(db, info, "account-edit", { intent: EXCLUDE, items: ["I6", "I7"], seen: now });
    expect([again.error, (await excluded()).includes("I6")]).toEqual([null, true]);
  });

  it("says so when the filter finds nothing any more", async () => {
    const { db, info } = workspace;
    const none = { query: itemsQuerySchema.parse({ q: "zeppelin" }), days: 30 };
    const job = await runToEnd(db, info, "account-edit", { intent: EXCLUDE, items: none });
    expect(job.error?.code).toBe("items-none");
  });
});
