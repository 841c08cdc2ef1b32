import fc from "fast-check";
import { beforeAll, describe, expect, it } from "vitest";
import type { Account } from "@/core/account/account";
import { planogramSchema } from "@/core/planogram/planogram";
import { field } from "@/core/parts/part";
import { editAccount } from "../account/edits";
import { readAccount } from "../account/state";
import { startDispatch, takeBackDispatch } from "../dispatch/dispatches";
import { putBack, removeFromBasket } from "../dispatch/take-out";
import { importFeed, runToEnd, runWaiting, testWorkspace } from "../testing";
import { comeIntoStep } from "./in-step";
import { savePlanogram } from "./planograms";

const BRANDS = ["Ash", "Elm", "Oak"] as const;
type Brand = (typeof BRANDS)[number];
type Bids = Record<Brand, number>;

/** What can happen to the bids of a planogram's ad groups. */
type Step =
  | { do: "plan" | "plan and empty"; bid: number }
  | { do: "by hand"; brand: Brand; bid: number }
  | { do: "come into step" | "empty" | "empty and put back" | "send" }
  | { do: "take out"; brand: Brand }
  | { do: "take back"; which: number };

const everywhere = (bid: number): Bids => ({ Ash: bid, Elm: bid, Oak: bid });

/**
 * The obvious version: a bid that is as the last plan had it, sent or waiting, is the plan's; any other is a person's and stays.
 */
class Model {
  live = everywhere(100);
  basket: Partial<Bids> = {};
  planned = 100;
  sentPlan: Bids = everywhere(100);
  waiting: Bids | null = null;
  sent: { before: Bids; after: Bids; plan: Bids | null; isTakenBack: boolean }[] = [];

  now(): Bids {
    return { ...this.live, ...this.basket };
  }

  private put(brand: Brand, bid: number): void {
    if (bid === this.live[brand]) delete this.basket[brand];
    else this.basket[brand] = bid;
  }

  /** @returns how many bids stayed as a person set them */
  plan(bid: number): number {
    const now = this.now();
    const kept = BRANDS.filter((brand) => {
      const isByHand = now[brand] !== this.sentPlan[brand] && now[brand] !== this.waiting?.[brand];
      return isByHand && now[brand] !== bid;
    });
    for (const brand of BRANDS) if (!kept.includes(brand)) this.put(brand, bid);
    this.waiting = everywhere(bid);
    this.planned = bid;
    return kept.length;
  }

  comeIntoStep(): void {
    const waiting = this.waiting;
    const before = JSON.stringify(this.now());
    this.plan(this.planned);
    // Where nothing changes nothing waits.
    if (before === JSON.stringify(this.now())) this.waiting = waiting;
  }

  byHand(brand: Brand, bid: number): void {
    this.put(brand, bid);
  }

  takeOut(brands: readonly Brand[]): void {
    const size = Object.keys(this.basket).length;
    for (const brand of brands) delete this.basket[brand];
    const left = Object.keys(this.basket).length;
    // Of a plan whose changes were all taken out nothing waits any more.
    if (left < size && left === 0) this.waiting = null;
  }

  send(): boolean {
    if (Object.keys(this.basket).length === 0) return false;
    this.sent.push({ before: this.live, after: this.now(), plan: this.waiting && this.sentPlan, isTakenBack: false });
    if (this.waiting) this.sentPlan = this.waiting;
    this.live = this.now();
    this.waiting = null;
    this.basket = {};
    return true;
  }

  takeBack(which: number): boolean {
    const found = this.sent[which];
    if (!found || found.isTakenBack) return false;
    const changed = BRANDS.filter((brand) => found.before[brand] !== found.after[brand]);
    if (changed.some((brand) => this.live[brand] !== found.after[brand] || brand in this.basket)) return false;
    found.isTakenBack = true;
    const back = (of: Bids, to: Bids) => changed.reduce((made, brand) => ({ ...made, [brand]: to[brand] }), of);
    const after = back(this.live, found.before);
    this.sent.push({ before: this.live, after, plan: found.plan && this.sentPlan, isTakenBack: false });
    if (found.plan) this.sentPlan = back(this.sentPlan, found.plan);
    this.live = after;
    return true;
  }
}

const FEED = `id,title,price,brand\n${BRANDS.map((brand, i) => `${i},Rake ${i},5.00,${brand}`).join("\n")}\n`;
const planogram = (startingBid: number) =>
  planogramSchema.parse({
    ...{ key: "p", name: "P", ladder: [{ by: "brand", largest: null }], campaignLine: 0, adGroupLine: 1 },
    ...{ inStockOnly: false, campaignName: [field("planogram")], adGroupName: [field("level-1")] },
    ...{ purpose: "scale", bidding: "fixed", goal: null, totalBudget: 40_000, shareBy: "items", startingBid },
    ...{ serveOrder: 4, replaces: [], keepStep: { how: "propose", most: 3 } },
  });

let workspace: Awaited<ReturnType<typeof testWorkspace>>;

const bidsOf = (account: Account) => Object.fromEntries(account.all("adGroup").map(({ name, bid }) => [name, bid]));
const keyOf = async (brand: Brand) =>
  (await readAccount(workspace.db)).live.all("adGroup").find(({ name }) => name === brand)!.key;

async function plan(bid: number): Promise<number> {
  const { db, info } = workspace;
  await savePlanogram(db, planogram(bid));
  const job = await runToEnd(db, info, "planogram-apply", { planogram: "p" });
  expect(job.error).toBeNull();
  return (job.result as { kept: number }).kept;
}

async function fresh(): Promise<void> {
  workspace = await testWorkspace();
  await importFeed(workspace, FEED);
  await plan(100);
  await runToEnd(workspace.db, workspace.info, "dispatch", { takesBack: null });
}

beforeAll(fresh);

/** Does to the account what the model says it does, and compares what both answer. */
async function take(step: Step, model: Model): Promise<void> {
  const { db, info } = workspace;
  switch (step.do) {
    case "plan":
      expect(await plan(step.bid)).toBe(model.plan(step.bid));
      break;
    case "plan and empty":
      await take({ do: "plan", bid: step.bid }, model);
      return take({ do: "empty" }, model);
    case "come into step":
      expect(await comeIntoStep(db, "t", "p")).toMatchObject({ ok: true });
      model.comeIntoStep();
      break;
    case "by hand": {
      const keys = [await keyOf(step.brand)];
      const edit = { action: "bid" as const, keys, op: { how: "set" as const, mills: step.bid } };
      await editAccount(db, "t", null, edit, "EUR");
      model.byHand(step.brand, step.bid);
      break;
    }
    case "take out":
      await removeFromBasket(db, info, "t", { keys: [await keyOf(step.brand)] });
      model.takeOut([step.brand]);
      break;
    case "empty":
      await removeFromBasket(db, info, "t", { keys: "all" });
      model.takeOut(BRANDS);
      break;
    case "empty and put back": {
      const out = await removeFromBasket(db, info, "t", { keys: "all" });
      const undo = out.ok ? out.value.undo : null;
      if (undo !== null) expect(await putBack(db, "t", undo)).toMatchObject({ ok: true });
      break;
    }
    case "send": {
      const asked = await startDispatch(db, "t", null);
      expect(asked.ok).toBe(model.send());
      await runWaiting(db, info);
      break;
    }
    case "take back": {
      // The plan that `fresh` sent is the first.
      const asked = await takeBackDispatch(db, step.which + 2);
      expect(asked.ok).toBe(model.takeBack(step.which));
      await runWaiting(db, info);
    }
  }
  const { live, planned } = await readAccount(db);
  expect([bidsOf(live), bidsOf(planned)]).toEqual([model.live, model.now()]);
}

describe("a planogram, planned, set by hand, kept in step, sent and taken back in whatever order", () => {
  it("moves what is its own and leaves what a person set, as a simple model says", async () => {
    const bid = fc.constantFrom(200, 300);
    const brand = fc.constantFrom(...BRANDS);
    const step: fc.Arbitrary<Step> = fc.oneof(
      { weight: 5, arbitrary: fc.record({ do: fc.constantFrom("plan" as const, "plan and empty" as const), bid }) },
      { weight: 4, arbitrary: fc.record({ do: fc.constant("by hand" as const), brand, bid }) },
      {
        weight: 5,
        arbitrary: fc.record({
          do: fc.constantFrom(
            "come into step" as const,
            "empty" as const,
            "empty and put back" as const,
            "send" as const,
          ),
        }),
      },
      { weight: 1, arbitrary: fc.record({ do: fc.constant("take out" as const), brand }) },
      { weight: 2, arbitrary: fc.record({ do: fc.constant("take back" as const), which: fc.nat(3) }) },
    );
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 12 }), async (steps) => {
        await fresh();
        const model = new Model();
        for (const one of steps) await take(one, model);
        // Planned once more, each bid is the plan's or a person's, as it should be.
        expect(await plan(500)).toBe(model.plan(500));
        expect(bidsOf((await readAccount(workspace.db)).planned)).toEqual(model.now());
      }),
      { numRuns: Number(process.env["HOTSHELF_RUNS"] ?? 15) },
    );
  });
});
