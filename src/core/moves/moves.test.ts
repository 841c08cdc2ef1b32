import { describe, expect, it } from "vitest";
import { afterPauses, makeEdit, type Edit } from "../account/acts";
import { Draft } from "../account/draft";
import { liftItem } from "../account/lift-item";
import { testCampaign } from "../market/test-shop";
import { proposeMoves } from "../proposers/proposers";
import { adjusted, editOfMoves } from "./accept";
import { recordOf, whatCame } from "./follow-up";
import type { Ground } from "./ground";
import { testGround } from "./ground.testing";
import { ruleSchema } from "./house-rules";
import { movedBy } from "./settling";
import { atStake, between, sumExpected, type Move } from "./move";

const items = [
  { id: "1", clicks: 100, cost: 30_000, orders: 2 },
  { id: "2", clicks: 80, cost: 24_000, orders: 1, rate: 0.004 },
];
const structure = {
  ...testCampaign("all", { dailyBudget: 50_000, serveOrder: 7 }, ["1", "2"], 200),
  ...testCampaign("push", { dailyBudget: 9_000, serveOrder: 2 }, ["2"], 500),
};

/** Who serves an item once what an edit pauses is paused. */
const factsOf = (before: Ground, edit: Edit) => (item: string) => {
  const ground = testGround(items, afterPauses(before.account, edit).toStructure());
  const row = items.findIndex(({ id }) => id === item);
  const home = ground.homes[ground.first[row] ?? -1];
  return row < 0 ? null : { home: home ? { group: home.group.key, bid: home.bid } : null, family: "", title: item };
};

describe("all moves of an account", () => {
  it("pause a campaign that another one covers, and bid in the one that goes on", () => {
    const ground = testGround(items, structure);
    const moves = proposeMoves(ground);
    const overlap = moves.find(({ proposer }) => proposer === "overlap")!;
    expect(overlap).toMatchObject({ key: "overlap/push", campaign: "push" });
    const two = moves.find(({ key }) => key === "item-bid/2")!;
    // The bid of 0.50 that its clicks were seen under is that of the paused one; the one that goes on bids 0.20.
    expect(two).toMatchObject({ campaign: "all", amount: { from: 200, to: 100 } });
    // Who does not want the pause is told of the bid that serves now.
    const declined = proposeMoves(ground, new Set(), new Set(["overlap/push"]));
    expect(declined.find(({ key }) => key === "item-bid/2")).toMatchObject({ campaign: "push", amount: { from: 500 } });
  });

  it("leave the account as it was once accepted and taken back", () => {
    const ground = testGround(items, structure);
    const edit = editOfMoves(proposeMoves(ground))!;
    const made = makeEdit(ground.account, edit, factsOf(ground, edit), "EUR");
    if (!made.ok) throw new Error(made.error.message);
    const after = made.value.after();
    expect(after.find("campaign", "push")?.status).toBe("paused");
    expect(after.find("campaign", "all")?.dailyBudget).toBe(59_000);
    // The bid goes where the item is served then, not into what is paused.
    expect(after.find("productGroup", "p:all/2")?.bid).toBe(100);
    expect(after.find("productGroup", "p:push/2")?.bid).toBeNull();
    const back = testGround(items, after.toStructure());
    expect(proposeMoves(back).map(({ key }) => key)).not.toContain("overlap/push");
    expect(ground.account.toStructure()).toEqual(structure);
  });

  it("pause nothing where that is expected to lose", () => {
    // The one that is covered bids little for what is worth much; the other one even less.
    const small = { ...structure, ...testCampaign("all", { dailyBudget: 50_000, serveOrder: 7 }, ["1", "2"], 50) };
    const rich = items.map((item) => ({ ...item, rate: 0.2 }));
    const keys = (of: typeof items) => proposeMoves(testGround(of, small)).map(({ key }) => key);
    expect(keys(rich)).not.toContain("overlap/push");
    expect(keys(items)).toContain("overlap/push");
  });
});

const move: Move = {
  ...{ key: "k", proposer: "item-bids", about: "", campaign: null, what: "", why: "w", limitedBy: null, rows: [] },
  acts: [{ action: "amounts", of: "item-bid", amounts: [{ key: "1", mills: 300 }] }],
  ...{ amount: { from: 200, to: 300 }, stands: { clicks: 1, orders: 1 }, touches: [] },
  expected: { clicks: 1, cost: 1, revenue: 1, contribution: between(100, 0) },
};

describe("a move", () => {
  it("has at stake what it brings a month by the chance that it is more than nothing", () => {
    expect(atStake(move)).toBe(3000);
    const unsure = { ...move, expected: { ...move.expected, contribution: between(100, 100 ** 2) } };
    expect(atStake(unsure)).toBeCloseTo(3000 * 0.8413, 0);
    expect(atStake({ ...move, expected: { ...move.expected, contribution: null } })).toBe(0);
  });

  it("takes another amount, and several in proportion", () => {
    expect(adjusted(move, 240).acts).toEqual([
      { action: "amounts", of: "item-bid", amounts: [{ key: "1", mills: 240 }] },
    ]);
    const place: Move = {
      ...move,
      acts: [
        {
          ...{ action: "name-place", what: "term", value: "oak", dailyBudget: 1000, serveOrder: 5 },
          items: [
            { id: "1", bid: 300 },
            { id: "2", bid: 150 },
          ],
        },
      ],
    };
    expect(adjusted(place, 200).acts).toMatchObject([{ items: [{ bid: 200 }, { bid: 100 }] }]);
  });

  it("sums with others, how unsure they are as if not connected", () => {
    const one = { clicks: 1, cost: 2, revenue: 3, contribution: { mean: 10, low: 7, high: 14 } };
    expect(sumExpected([one, one])).toEqual({
      ...{ clicks: 2, cost: 4, revenue: 6 },
      contribution: { mean: 20, low: 20 - Math.sqrt(18), high: 20 + Math.sqrt(32) },
    });
    expect(sumExpected([one, { ...one, contribution: null }]).contribution).toBeNull();
  });
});

describe("what was moved lately", () => {
  it("is the item that was lifted out of a group, not the others that stayed behind", () => {
    const open = testCampaign("a", { dailyBudget: 50_000 }, [], 200);
    const root = { ...open["p:a"]!, role: "unit", by: null };
    const account = testGround(items, { ...open, "p:a": root } as typeof open).account;
    const draft = new Draft(account);
    expect(liftItem(draft, "p:a", "1", 300).ok).toBe(true);
    const { added, changed } = draft.diff();
    const moved = [
      ...Object.values(added).flatMap((record) => movedBy(null, record)),
      ...Object.values(changed).flatMap(([from, to]) => movedBy(from, to)),
    ];
    expect(moved).toEqual(["p:a/id=1"]);
    const unit = draft.find("productGroup", "p:a/id=1")!;
    expect(movedBy(unit, { ...unit, bid: 200 })).toEqual(["p:a/id=1"]);
    expect(movedBy(unit, unit)).toEqual([]);
  });

  it("is of a campaign only what differs: a slot, the hours, its budget, whether it runs", () => {
    const [campaign] = testGround(items, structure).account.all("campaign");
    const to = (change: object) => movedBy(campaign!, { ...campaign!, ...change });
    expect(to({ slots: { "lead-row": 1.2 } })).toEqual(["all/slot/lead-row"]);
    expect(to({ hours: Array.from({ length: 24 }, () => 2) })).toEqual(["all/hours"]);
    expect(to({ status: "paused" })).toEqual(["all"]);
    expect(to({ dailyBudget: 1 })).toEqual(["all/budget"]);
    expect(to({ name: "Otherwise" })).toEqual([]);
  });
});

describe("what came of moves", () => {
  const span = (left: number, cost: number, luck = 0) => ({ left, cost, luck });

  it("is contribution a day after against before, and as expected where both could be the same", () => {
    // 900 − 400 before, 1200 − 420 after, in ten days: 28 a day more.
    const followed = { expected: between(30, 25), before: span(900, 400), after: span(1200, 420), days: 10 };
    expect(whatCame(followed)).toEqual({ came: { mean: 28, low: 28, high: 28 }, isAsExpected: true });
    expect(whatCame({ ...followed, expected: between(90, 25) })!.isAsExpected).toBe(false);
    // What chance alone moves makes it possible again: the standard deviation of a day is √(2 · 250,000) ÷ 10 = 70.7.
    const lucky = { ...followed, before: span(900, 400, 250_000), after: span(1200, 420, 250_000) };
    expect(whatCame({ ...lucky, expected: between(90, 25) })!.isAsExpected).toBe(true);
    expect(whatCame({ ...followed, expected: null })).toBeNull();
  });

  it("sums to a record a month", () => {
    const followed = { expected: between(30, 0), before: span(0, 0), after: span(280, 0), days: 10 };
    const record = recordOf([followed, { ...followed, expected: between(28, 0) }, { ...followed, expected: null }]);
    expect(record).toMatchObject({ moves: 2, asExpected: 1, expected: 30 * 58, came: { mean: 30 * 56 } });
  });
});

describe("a house rule", () => {
  it("takes numbers within its ends only", () => {
    expect(ruleSchema("largestStep").safeParse(50).success).toBe(true);
    for (const wrong of [4, 401, 10.5, NaN]) expect(ruleSchema("largestStep").safeParse(wrong).success).toBe(false);
  });
});
