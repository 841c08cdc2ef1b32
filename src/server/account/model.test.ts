import fc from "fast-check";
import { beforeAll, describe, expect, it } from "vitest";
import { recordSchema, type AccountRecord } from "@/core/account/records";
import type { Database } from "@/db/client";
import { approvalOf, approveBasket } from "./approval";
import { viewBasket } from "../dispatch/basket";
import { putBack, removeFromBasket } from "../dispatch/take-out";
import { startDispatch, takeBackDispatch } from "../dispatch/dispatches";
import { cancelJob, findJob } from "../jobs/jobs";
import { liveStructure, plannedStructure, runWaiting, testWorkspace } from "../testing";
import { changeWorkspace, type WorkspaceInfo } from "../workspaces";
import { addRecords } from "./commit";
import { editAccount } from "./edits";
import { readAccount } from "./state";

const KEYS = ["a", "b", "c"] as const;
type Key = (typeof KEYS)[number];
type Budgets = Record<Key, number>;

/** What a person can do, in any order: also while a dispatch is on its way. */
type Step =
  | { do: "edit"; key: Key; amount: number }
  | { do: "remove"; key: Key }
  | { do: "send" | "run" | "cancel" | "put back" }
  /** Another one looks, and later changes what they saw. */
  | { do: "look" }
  | { do: "edit as seen"; key: Key; amount: number }
  /** The house rule that somebody approves, on or off, and an approval. */
  | { do: "rule" | "approve" }
  | { do: "take back"; which: number };

/**
 * The obvious version, by hand: what the channel has, what is on its way, and what lies on top. Budgets below 5.00 are refused
 * by the channel.
 */
class Model {
  live: Budgets = { a: 10_000, b: 10_000, c: 10_000 };
  onWay: Partial<Budgets> | null = null;
  basket: Partial<Budgets> = {};
  sent: { before: Budgets; after: Budgets; takenBack: boolean }[] = [];

  /** What changed since another one looked. */
  since = new Set<Key>();
  isApprovalNeeded = false;
  isApproved = false;

  /** Whatever is written voids an approval; what it touches, the other one did not see. */
  private wrote(keys: Iterable<Key>): void {
    this.isApproved = false;
    for (const key of keys) this.since.add(key);
  }

  planned(): Budgets {
    return { ...this.live, ...this.onWay, ...this.basket };
  }

  private settle(): void {
    const below = { ...this.live, ...this.onWay };
    for (const key of KEYS) if (this.basket[key] === below[key]) delete this.basket[key];
  }

  edit(key: Key, amount: number): void {
    if (this.planned()[key] === amount) return;
    this.basket[key] = amount;
    this.settle();
    this.wrote([key]);
  }

  editAsSeen(key: Key, amount: number): boolean {
    if (this.since.has(key) && this.planned()[key] !== amount) return false;
    this.edit(key, amount);
    return true;
  }

  /** What was taken out last: put back, it leads again from what lay below it to what was wanted. */
  out: { key: Key; before: number; after: number; isBack: boolean } | null = null;

  remove(key: Key): void {
    const after = this.basket[key];
    if (after === undefined) return;
    delete this.basket[key];
    this.out = { key, before: this.planned()[key], after, isBack: false };
    this.wrote([key]);
  }

  putBack(): boolean {
    if (!this.out || this.out.isBack || this.planned()[this.out.key] !== this.out.before) return false;
    this.out.isBack = true;
    this.basket[this.out.key] = this.out.after;
    this.settle();
    this.wrote([this.out.key]);
    return true;
  }

  send(): boolean {
    if (this.onWay || Object.keys(this.basket).length === 0) return false;
    if (this.isApprovalNeeded && !this.isApproved) return false;
    this.wrote([]);
    this.onWay = this.basket;
    this.basket = {};
    return true;
  }

  cancel(): void {
    this.basket = { ...this.onWay, ...this.basket };
    this.onWay = null;
    this.settle();
  }

  run(): void {
    if (!this.onWay) return;
    const after = { ...this.live, ...this.onWay };
    if (KEYS.some((key) => after[key] !== this.live[key] && after[key] < 500)) return this.cancel();
    this.sent.push({ before: this.live, after, takenBack: false });
    this.wrote(Object.keys(this.onWay) as Key[]);
    this.live = after;
    this.onWay = null;
  }

  takeBack(which: number): boolean {
    const found = this.sent[which];
    if (!found || found.takenBack || this.isApprovalNeeded) return false;
    const changed = KEYS.filter((key) => found.before[key] !== found.after[key]);
    if (changed.some((key) => this.live[key] !== found.after[key])) return false;
    if (changed.some((key) => this.basket[key] !== undefined || this.onWay?.[key] !== undefined)) return false;
    const after = { ...this.live };
    for (const key of changed) after[key] = found.before[key];
    found.takenBack = true;
    this.sent.push({ before: this.live, after, takenBack: false });
    this.live = after;
    this.wrote(changed);
    return true;
  }
}

let db: Database;
let info: WorkspaceInfo;

async function fresh(): Promise<void> {
  ({ db, info } = await testWorkspace());
  const base = { kind: "feed", purpose: "scale", bidding: "fixed", goal: null, status: "on", serveOrder: 3 };
  const records = KEYS.map((key): [string, AccountRecord] => [
    key,
    recordSchema.parse({
      ...{ type: "campaign", key, name: key, dailyBudget: 10_000, inStockOnly: false, origin: null },
      ...base,
    }),
  ]);
  await addRecords(db, Object.fromEntries(records), "tester", "start");
  await startDispatch(db, "tester", null);
  await runWaiting(db, info);
}

async function budgets(read: typeof liveStructure): Promise<Budgets> {
  const entries = Object.values(await read(db)).map((record) => [
    record.key,
    (record as { dailyBudget: number }).dailyBudget,
  ]);
  return Object.fromEntries(entries) as Budgets;
}

beforeAll(fresh);

describe("the account, whatever people do and in whatever order", () => {
  it("is what a simple model of it says, and no change is ever lost or made twice", async () => {
    const key = fc.constantFrom(...KEYS);
    const step: fc.Arbitrary<Step> = fc.oneof(
      {
        weight: 5,
        arbitrary: fc.record({
          do: fc.constant("edit" as const),
          key,
          amount: fc.constantFrom(10_000, 20_000, 30_000, 100),
        }),
      },
      { weight: 2, arbitrary: fc.record({ do: fc.constant("remove" as const), key }) },
      { weight: 1, arbitrary: fc.record({ do: fc.constant("put back" as const) }) },
      { weight: 3, arbitrary: fc.record({ do: fc.constantFrom("send" as const, "run" as const, "cancel" as const) }) },
      { weight: 2, arbitrary: fc.record({ do: fc.constant("take back" as const), which: fc.nat(4) }) },
      { weight: 1, arbitrary: fc.record({ do: fc.constantFrom("rule" as const, "approve" as const) }) },
      { weight: 1, arbitrary: fc.record({ do: fc.constant("look" as const) }) },
      {
        weight: 2,
        arbitrary: fc.record({
          do: fc.constant("edit as seen" as const),
          key,
          amount: fc.constantFrom(10_000, 20_000, 30_000),
        }),
      },
    );
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 14 }), async (steps) => {
        await fresh();
        const model = new Model();
        let job: string | null = null;
        let undo: string | null = null;
        let seen = (await readAccount(db)).version;
        for (const one of steps) {
          switch (one.do) {
            case "edit":
              await editAccount(
                db,
                "t",
                null,
                { action: "budget", keys: [one.key], op: { how: "set", mills: one.amount } },
                "EUR",
              );
              model.edit(one.key, one.amount);
              break;
            case "look":
              seen = (await readAccount(db)).version;
              model.since.clear();
              break;
            case "edit as seen": {
              const op = { how: "set" as const, mills: one.amount };
              const made = await editAccount(db, "bo", seen, { action: "budget", keys: [one.key], op }, "EUR");
              expect([made.ok, made.ok ? "" : made.error.code]).toEqual(
                model.editAsSeen(one.key, one.amount) ? [true, ""] : [false, "account-moved"],
              );
              break;
            }
            case "rule":
              model.isApprovalNeeded = !model.isApprovalNeeded;
              await changeWorkspace(db, { approval: model.isApprovalNeeded });
              break;
            case "approve":
              await approveBasket(db, "bo", (await readAccount(db)).version, false);
              model.isApproved = true;
              break;
            case "remove": {
              const out = await removeFromBasket(db, info, "t", { keys: [one.key] });
              if (out.ok) undo = out.value.undo ?? undo;
              model.remove(one.key);
              break;
            }
            case "put back": {
              const back = undo === null ? null : await putBack(db, "t", undo);
              expect(back?.ok ?? false).toBe(model.putBack());
              break;
            }
            case "send": {
              const asked = await startDispatch(db, "t", null);
              expect(asked.ok).toBe(model.send());
              if (asked.ok) job = asked.value.id;
              break;
            }
            case "run":
              await runWaiting(db, info);
              model.run();
              job = null;
              break;
            case "cancel":
              if (job === null) break;
              await cancelJob(db, job);
              expect((await findJob(db, job))!.state).toBe("cancelled");
              model.cancel();
              job = null;
              break;
            case "take back": {
              // Only while nothing is on its way, so that the job asked for is the one that runs.
              if (job !== null) break;
              const asked = await takeBackDispatch(db, one.which + 2);
              if (asked.ok) await runWaiting(db, info);
              expect(asked.ok).toBe(model.takeBack(one.which));
              break;
            }
          }
          expect(await budgets(liveStructure)).toEqual(model.live);
          expect(await budgets(plannedStructure)).toEqual(model.planned());
          const approval = await approvalOf(db);
          expect([approval.isNeeded, approval.by !== null]).toEqual([model.isApprovalNeeded, model.isApproved]);
          const waiting = new Set([...Object.keys(model.basket), ...Object.keys(model.onWay ?? {})]);
          expect((await viewBasket(db, info)).total).toBe(waiting.size);
        }
        const { rows } = await db.$client.execute("SELECT count(*) FROM dispatches");
        expect(Number(rows[0]![0])).toBe(1 + model.sent.length);
        expect((await readAccount(db)).live.size).toBe(3);
      }),
      { numRuns: Number(process.env["HOTSHELF_RUNS"] ?? 25) },
    );
  });
});
