import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Account, type Structure } from "../account/account";
import { recordSchema, type AccountRecord } from "../account/records";
import { diffSize } from "../kit/diff";
import { replan } from "./merge";

function campaign(key: string, more: object = {}): AccountRecord {
  const base = { kind: "feed", purpose: "scale", bidding: "fixed", goal: null, status: "on", serveOrder: 3 };
  return recordSchema.parse({
    ...{ type: "campaign", key, name: key, dailyBudget: 9_000, inStockOnly: false, origin: "plan" },
    ...base,
    ...more,
  });
}

function structure(...records: AccountRecord[]): Structure {
  return Object.fromEntries(records.map((record) => [record.key, record]));
}

/** Applies a plan to what a person made of the last one. @returns the account, what was kept, and the plan to go on from */
function again(
  live: Structure,
  planned: Structure,
  last: Structure | null,
  replaces: string[] = [],
  waiting: Structure | null = null,
) {
  const account = Account.fromStructure(live);
  const asMap = (records: Structure) => new Map(Object.entries(records));
  const { draft, kept, plan } = replan(
    account,
    asMap(planned),
    { sent: last && asMap(last), waiting: waiting && asMap(waiting) },
    "plan",
    replaces,
  );
  const told = kept.map(({ key, field }) => `${key} ${field}`);
  return {
    ...{ after: draft.after().toStructure(), kept: told },
    ...{ plan: Object.fromEntries(plan), size: diffSize(draft.diff()) },
  };
}

const first = structure(campaign("a"), campaign("b"));

describe("planning again", () => {
  it("leaves a paused campaign paused, and factors, flex, pool and days as people set them, and lists them", () => {
    const hours = Array.from({ length: 24 }, (_, i) => (i < 6 ? 0 : 1));
    const hand = { status: "paused", hours, slots: { "lead-row": 1.5 }, pool: "p", endsOn: "2026-12-31" };
    const live = structure(campaign("a", { ...hand, flex: { below: 0.6, above: 0 } }), campaign("b"));
    for (const last of [first, null]) {
      const { after, kept, size } = again(live, first, last);
      expect(after).toEqual(live);
      expect(size).toBe(0);
      expect(kept.sort()).toEqual(["a endsOn", "a flex", "a hours", "a pool", "a slots", "a status"]);
    }
  });

  it("follows the plan where the one before still waits, and keeps what a person set beside it", () => {
    const waits = structure(campaign("a", { dailyBudget: 12_000 }), campaign("b", { dailyBudget: 15_000 }));
    const wanted = structure(campaign("a", { dailyBudget: 20_000 }), campaign("b", { dailyBudget: 21_000 }));
    const live = structure(
      campaign("a", { dailyBudget: 12_000, serveOrder: 1 }),
      campaign("b", { dailyBudget: 16_500 }),
    );
    for (const sent of [first, null]) {
      const { after, kept } = again(live, wanted, sent, [], waits);
      expect(after["a"]).toMatchObject({ dailyBudget: 20_000, serveOrder: 1 });
      expect(after["b"]).toMatchObject({ dailyBudget: 16_500 });
      expect(kept.sort()).toEqual(["a serveOrder", "b dailyBudget"]);
    }
    // Taken out of the basket again, it is as the plan before that one had it.
    expect(again(first, wanted, first, [], waits).after["a"]).toMatchObject({ dailyBudget: 20_000 });
  });

  it("follows the plan in every field that nobody touched", () => {
    const wanted = structure(campaign("a", { dailyBudget: 12_000, purpose: "rank" }), campaign("b", { serveOrder: 5 }));
    const live = structure(campaign("a", { serveOrder: 1 }), campaign("b"));
    const { after, kept } = again(live, wanted, first);
    expect(after["a"]).toMatchObject({ dailyBudget: 12_000, purpose: "rank", serveOrder: 1 });
    expect(after["b"]).toMatchObject({ serveOrder: 5 });
    expect(kept).toEqual(["a serveOrder"]);
  });

  it("leaves away a target that a person took away, and takes out those it no longer plans", () => {
    const group: AccountRecord = { type: "adGroup", key: "g", campaign: "a", name: "g", status: "on", bid: 300 };
    const target = (text: string) =>
      recordSchema.parse({
        ...{ type: "keyword", key: `t:${text}`, adGroup: "g", text, match: "exact", status: "on", bid: null },
      });
    const last = structure(campaign("a"), group, target("rake"), target("hose"), target("pot"));
    const live = structure(campaign("a"), group, target("rake"), target("pot"), target("own"));
    const wanted = structure(campaign("a"), group, target("rake"), target("hose"), target("lamp"));
    const { after } = again(live, wanted, last);
    expect(Object.keys(after).sort()).toEqual(["a", "g", "t:lamp", "t:own", "t:rake"]);
  });

  it("keeps a budget that a person set, though the share-out says otherwise", () => {
    const live = structure(campaign("a", { dailyBudget: 30_000 }), campaign("b"));
    const wanted = structure(campaign("a", { dailyBudget: 8_000 }), campaign("b", { dailyBudget: 10_000 }));
    const { after } = again(live, wanted, first);
    expect([after["a"], after["b"]]).toMatchObject([{ dailyBudget: 30_000 }, { dailyBudget: 10_000 }]);
  });

  it("pauses what is no longer planned, and switches it on when it is planned again, unless a person decided otherwise", () => {
    const only = structure(campaign("a"));
    const gone = again(first, only, first);
    expect(gone.after["b"]).toMatchObject({ status: "paused" });
    const back = again(gone.after, first, gone.plan);
    expect(back.after["b"]).toMatchObject({ status: "on" });
    // Paused by hand while it was out: it stays so. Switched on by hand while it was out: it stays so too.
    const byHand = structure(campaign("a"), campaign("b", { status: "on" }));
    const stays = again(byHand, only, gone.plan);
    expect(stays.after["b"]).toMatchObject({ status: "on" });
    expect(stays.kept).toEqual(["b status"]);
  });

  it("does not pause a second time what it once took the place of and a person switched on again", () => {
    const other = campaign("old", { origin: null });
    const taken = again(structure(other), first, null, ["old"]);
    expect(taken.after["old"]).toMatchObject({ status: "paused" });
    const live = { ...taken.after, old: other };
    expect(again(live, first, taken.plan, ["old"]).after["old"]).toMatchObject({ status: "on" });
  });

  it("of any changes by hand and by plan keeps every one by hand and takes every other one by plan", () => {
    const change = fc.record(
      { dailyBudget: fc.constantFrom(500, 700), serveOrder: fc.constantFrom(1, 9), name: fc.constantFrom("x", "y") },
      { requiredKeys: [] },
    );
    fc.assert(
      fc.property(change, change, (hand, plan) => {
        const { after, kept } = again(structure(campaign("a", hand)), structure(campaign("a", plan)), first);
        expect(after["a"]).toEqual(campaign("a", { ...plan, ...hand }));
        const differing = Object.entries(hand).filter(([field, value]) => {
          const planned = campaign("a", plan) as Record<string, unknown>;
          return planned[field] !== value;
        });
        expect(kept.sort()).toEqual(differing.map(([field]) => `a ${field}`).sort());
      }),
    );
  });
});
