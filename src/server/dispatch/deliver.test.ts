import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from "vitest";
import type { AccountRecord } from "@/core/account/records";
import type { Answer, Carries, Change } from "@/core/dispatch/contract";
import { structureCsv } from "@/core/dispatch/export";
import { diffRecords, diffSize } from "@/core/kit/diff";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { readAccount } from "../account/state";
import { editAccount } from "../account/edits";
import { standingAt } from "../channel/books";
import { chooseChannel } from "../channel/choice";
import { hostChannel } from "../channel/host";
import { closeAll, faultyWay, listen, type Way } from "../channel/http-testing";
import { MemoryChannel } from "../channel/memory-channel";
import { forgetSettings } from "../settings";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { listDispatches, viewDispatch } from "./dispatches";
import { viewBasket } from "./basket";
import { dispatchFile } from "./channel-view";
import { takeStands } from "./read-back";

/** Dispatches to a platform of somebody else's, over a way on which all kinds of things go wrong. */

const FEED = "id,title,price,category\nI1,Oak Rake,20,Garden > Rakes\nI2,Hose,30,Garden > Hoses\n";

let db: Database;
let info: WorkspaceInfo;
let platform: MemoryChannel;
let deal: (path: string, count: number) => Way;

beforeAll(() => {
  process.env["HOTSHELF_PRIVATE_ADDRESSES"] = "true";
  process.env["HOTSHELF_RETRY_MS"] = "5";
  forgetSettings();
});
afterAll(() => {
  delete process.env["HOTSHELF_PRIVATE_ADDRESSES"];
  delete process.env["HOTSHELF_RETRY_MS"];
  forgetSettings();
});
afterEach(closeAll);

async function join(carries: Carries = {}, made: (right: MemoryChannel) => MemoryChannel = (right) => right) {
  platform = made(new MemoryChannel(carries));
  deal = () => "pass";
  const address = await faultyWay(await listen(hostChannel(platform, "t")), (path, count) => deal(path, count));
  const chosen = await chooseChannel(db, { kind: "http", address, token: "t" });
  if (!chosen.ok) throw new Error(chosen.error.message);
}

beforeEach(async () => {
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, FEED);
});

const send = () => runToEnd(db, info, "dispatch", { takesBack: null });
const campaign = (key: string, more = {}) => testCampaign(key, { name: key, ...more }, ["I1", "I2"], 400);
const put = (...structures: Record<string, AccountRecord>[]) =>
  addToBasket(db, diffRecords({}, Object.assign({}, ...structures) as Record<string, AccountRecord>));
/** What Hot Shelf thinks stands there is what stands there. */
async function isInStep() {
  const { live } = await readAccount(db);
  expect((await standingAt(platform)).toStructure()).toEqual(live.toStructure());
  return live;
}

describe("a dispatch to a platform", () => {
  it("arrives, and is taken back, over a way that is slow, busy, and loses answers", async () => {
    await join();
    await put(campaign("c:a"), campaign("c:b"));
    const ways: Way[] = ["busy", "lose answer", "slow", "pass"];
    deal = (path, count) => (path.startsWith("/changes") ? ways[count % ways.length]! : "pass");
    const sent = await send();
    expect(sent).toMatchObject({ state: "done", result: { refused: 0, otherwise: 0 } });
    expect((await isInStep()).size).toBe((sent.result as { changes: number }).changes);
    const [line] = await listDispatches(db);
    expect(line).toMatchObject({ channel: "http", asMeant: line!.size });
    const back = await runToEnd(db, info, "dispatch", { takesBack: line!.id });
    expect(back.state).toBe("done");
    expect((await isInStep()).size).toBe(0);
  });

  it("leaves all in the basket where nobody is there", async () => {
    await join();
    await put(campaign("c:a"));
    deal = () => "gone";
    const sent = await send();
    expect(sent).toMatchObject({ state: "failed", error: { code: "address-unreachable" } });
    const at = await readAccount(db);
    expect([at.live.size, at.sealedPart]).toEqual([0, -1]);
    expect(at.waiting).toBeGreaterThan(0);
    deal = () => "pass";
    expect((await send()).state).toBe("done");
    await isInStep();
  });

  it("keeps what it refuses in the basket with its reason, and what hangs below", async () => {
    await join({ campaignKinds: ["feed"] });
    await put(campaign("c:a"), campaign("c:k", { kind: "keyword" }));
    const { checks } = await viewBasket(db, info);
    const keyword = Object.keys(campaign("c:k", { kind: "keyword" })).length;
    expect(checks.find(({ code }) => code === "not-carried")?.message).toMatch(
      new RegExp(
        `^${keyword} records that Stand-in platform will not take. ${keyword}: keyword campaigns are not known there.$`,
      ),
    );
    const sent = await send();
    expect(sent).toMatchObject({ state: "done", result: { refused: keyword } });
    const live = await isInStep();
    expect([live.has("c:a"), live.has("c:k")]).toEqual([true, false]);
    const basket = await viewBasket(db, info);
    expect(basket.total).toBe(keyword);
    expect(basket.changes[0]).toMatchObject({ refused: "keyword campaigns are not known there" });
    const [line] = await listDispatches(db);
    const view = await viewDispatch(db, info, line!.id);
    expect(view.ok && view.value.answers.filter(({ state }) => state === "refused")).toHaveLength(keyword);
  });

  it("goes on from what stands where the platform changed something by itself", async () => {
    await join();
    await put(campaign("c:a"));
    await send();
    const { live } = await readAccount(db);
    const was = live.find("campaign", "c:a")!;
    await platform.take("theirs", [{ key: "c:a", before: was, after: { ...was, dailyBudget: 77_000 } }]);
    const raise = { action: "budget" as const, keys: ["c:a"], op: { how: "set" as const, mills: 9_000 } };
    await editAccount(db, "ann", null, raise, "EUR");
    const sent = await send();
    expect(sent).toMatchObject({ state: "done", result: { refused: 1 } });
    // Now it is known what stands, and what ann wants waits on top of that.
    expect((await isInStep()).find("campaign", "c:a")!.dailyBudget).toBe(77_000);
    expect((await readAccount(db)).planned.find("campaign", "c:a")!.dailyBudget).toBe(9_000);
    expect((await send()).result).toMatchObject({ refused: 0 });
    expect((await isInStep()).find("campaign", "c:a")!.dailyBudget).toBe(9_000);
  });

  it("keeps what was decided while it was on its way, on top of what stands", async () => {
    class Slow extends MemoryChannel {
      override async take(key: string, changes: Change[]): Promise<Answer[]> {
        const raise = { action: "budget" as const, keys: ["c:a"], op: { how: "set" as const, mills: 12_000 } };
        await editAccount(db, "bo", null, raise, "EUR");
        return (await super.take(key, changes)).map((answer) =>
          answer.key === "c:a" ? { key: "c:a", state: "refused", stands: null, reason: "Not today." } : answer,
        );
      }
    }
    await join({}, () => new Slow());
    const only = Object.fromEntries(Object.entries(campaign("c:a")).filter(([key]) => key === "c:a"));
    await put(only);
    platform.look = async (keys) => new Map(keys.map((key) => [key, null]));
    await send();
    const at = await readAccount(db);
    expect(at.live.size).toBe(0);
    expect(at.rows).toHaveLength(1);
    expect(at.rows[0]).toMatchObject({ before: null, who: "bo", refused: "Not today." });
    expect(at.planned.find("campaign", "c:a")!.dailyBudget).toBe(12_000);
  });

  it("takes down what the platform made otherwise", async () => {
    class Rounding extends MemoryChannel {
      override async take(key: string, changes: Change[]): Promise<Answer[]> {
        const rounded = changes.map((change) =>
          change.after?.type === "campaign" ? { ...change, after: { ...change.after, dailyBudget: 20_000 } } : change,
        );
        const answers = await super.take(key, rounded);
        return answers.map((answer, i) =>
          changes[i]!.after?.type === "campaign"
            ? { key: answer.key, state: "changed", stands: rounded[i]!.after, reason: "Whole tens only." }
            : answer,
        );
      }
    }
    await join({}, () => new Rounding());
    await put(campaign("c:a", { dailyBudget: 17_000 }));
    expect((await send()).result).toMatchObject({ refused: 0, otherwise: 1 });
    expect((await isInStep()).find("campaign", "c:a")!.dailyBudget).toBe(20_000);
    expect((await readAccount(db)).waiting).toBe(0);
  });

  it("that comes to an end half-way counts for what was answered; sent again, the rest arrives once", async () => {
    await join();
    const many = Array.from({ length: 700 }, (_, i) => campaign(`c:${i}`));
    await put(...many);
    const all = diffSize((await readAccount(db)).basket);
    expect(all).toBeGreaterThan(2_000);
    let messages = 0;
    deal = (path) => (path === "/changes" && ++messages === 2 ? "lose answer" : messages >= 2 ? "gone" : "pass");
    const sent = await send();
    const { refused, changes } = sent.result as { refused: number; changes: number };
    expect([sent.state, refused + changes]).toEqual(["done", all]);
    expect(refused).toBeGreaterThan(0);
    expect((await readAccount(db)).live.size).toBe(changes);
    deal = () => "pass";
    expect((await send()).result).toMatchObject({ refused: 0 });
    expect((await isInStep()).size).toBe(all);
  });
});

describe("reading back", () => {
  it("tells what stands otherwise, and takes it over as a dispatch that can be taken back", async () => {
    await join();
    await put(campaign("c:a"), campaign("c:b"));
    await send();
    const was = (await readAccount(db)).live.find("campaign", "c:b")!;
    const theirs = { ...was, key: "c:theirs", name: "Made there" };
    await platform.take("theirs", [
      { key: "c:b", before: was, after: { ...was, status: "paused" } },
      { key: "c:theirs", before: null, after: theirs },
    ]);
    const read = await runToEnd(db, info, "channel-read", { adopt: false });
    expect(read.result).toMatchObject({ otherwise: 1, onlyThere: 1, missing: 0, dispatch: null });
    expect((await readAccount(db)).live.has("c:theirs")).toBe(false);
    const taken = await runToEnd(db, info, "channel-read", { adopt: true });
    expect(taken.result).toMatchObject({ dispatch: 2 });
    await isInStep();
    const again = await runToEnd(db, info, "channel-read", { adopt: false });
    expect(again.result).toMatchObject({ otherwise: 0, onlyThere: 0, missing: 0 });
    expect((await runToEnd(db, info, "dispatch", { takesBack: 2 })).state).toBe("done");
    expect((await isInStep()).find("campaign", "c:b")!.status).toBe("on");
  });

  it("takes nothing over where the basket holds a change of it", async () => {
    await join();
    await put(campaign("c:a"));
    await send();
    const was = (await readAccount(db)).live.find("campaign", "c:a")!;
    await platform.take("theirs", [{ key: "c:a", before: was, after: { ...was, status: "paused" } }]);
    const raise = { action: "budget" as const, keys: ["c:a"], op: { how: "set" as const, mills: 9_000 } };
    await editAccount(db, "ann", null, raise, "EUR");
    const taken = await runToEnd(db, info, "channel-read", { adopt: true });
    expect(taken).toMatchObject({ state: "failed", error: { code: "basket-in-use" } });
    expect((await readAccount(db)).waiting).toBe(1);
  });
});

describe("a channel of files", () => {
  it("gives each dispatch out as a file: what is new, changed and removed", async () => {
    const chosen = await chooseChannel(db, { kind: "files" });
    expect(chosen.ok).toBe(true);
    await put(campaign("c:a"));
    await send();
    const [first] = await listDispatches(db);
    expect(first).toMatchObject({ channel: "files", asMeant: null });
    const raise = { action: "budget" as const, keys: ["c:a"], op: { how: "set" as const, mills: 9_000 } };
    await editAccount(db, "ann", null, raise, "EUR");
    await send();
    await runToEnd(db, info, "dispatch", { takesBack: 2 });
    await runToEnd(db, info, "dispatch", { takesBack: 1 });
    const lines = async (id: number) => {
      const answer = await dispatchFile(db, id);
      if (!("file" in answer)) throw new Error("no file");
      return String(answer.file).trim().split(/\r?\n/).slice(1);
    };
    expect((await lines(1)).every((line) => line.startsWith("new,"))).toBe(true);
    expect(await lines(1)).toHaveLength(first!.size);
    const [changed, ...others] = await lines(2);
    expect(others).toEqual([]);
    expect(changed).toMatch(/^changed,campaign,c:a,.*,9\.00,/);
    expect(await lines(4)).toHaveLength(first!.size);
    expect((await lines(4)).every((line) => line.startsWith("removed,"))).toBe(true);
  });

  it("knows what stands once a structure file was read: what arrived, what is otherwise, what is missing", async () => {
    await chooseChannel(db, { kind: "files" });
    await put(campaign("c:a"), campaign("c:b"));
    await send();
    const lines = structureCsv((await readAccount(db)).live).split(/\r?\n/);
    // There, one budget was set otherwise and one campaign never got in.
    const file = lines
      .filter((line) => !line.includes("c:b"))
      .map((line) => (/^campaign,c:a,/.test(line) ? line.replace(/,\d+\.\d\d,/, ",3.00,") : line));
    const kept = Object.keys(campaign("c:a")).length;
    const told = await takeStands(db, info, file.join("\n"));
    expect(told).toMatchObject({ ok: true, value: { same: kept - 1, otherwise: 1, missing: kept, faults: [] } });
    expect(await listDispatches(db)).toMatchObject([{ size: 2 * kept, asMeant: kept - 1 }]);
    const read = await runToEnd(db, info, "channel-read", { adopt: true });
    expect(read.result).toMatchObject({ otherwise: 1, onlyThere: 0, missing: kept, dispatch: 2 });
    const { live } = await readAccount(db);
    expect([live.size, live.find("campaign", "c:a")!.dailyBudget]).toEqual([kept, 3_000]);
  });

  it("takes no file of something else, and none where the channel speaks for itself", async () => {
    expect(await takeStands(db, info, "key\nx\n")).toMatchObject({ ok: false, error: { code: "channel-not-files" } });
    await chooseChannel(db, { kind: "files" });
    expect(await takeStands(db, info, "key\nx\n")).toMatchObject({ ok: false, error: { code: "file-foreign" } });
    expect(await takeStands(db, info, "name\nx\n")).toMatchObject({ ok: false, error: { code: "file-no-key" } });
  });
});
