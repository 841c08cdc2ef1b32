import { describe, expect, it } from "vitest";
import { makeEdit } from "../account/acts";
import { testCampaign } from "../market/test-shop";
import { editOfMoves } from "../moves/accept";
import { testGround } from "../moves/ground.testing";
import type { Push } from "../moves/ground";
import { pushEnds } from "./push-ends";

const hose = { type: "keyword", text: "hose", match: "exact", bid: 800 };
const structure = {
  ...testCampaign("a", {}, ["A1"], 400),
  ...testCampaign("w", { kind: "keyword" }, ["A1"], 300, [hose]),
};
const push = (over: Partial<Push>): Push => ({
  key: "t:w/0",
  of: "bid",
  bid: 800,
  back: 320,
  until: "2026-06-01",
  ...over,
});
const ground = (...pushes: Push[]) =>
  testGround([{ id: "A1", clicks: 100, cost: 20_000, orders: 2 }], structure, { pushes });

describe("pushes that are over", () => {
  it("go back to what the bid was, of records and of items", () => {
    const on = ground(push({}), push({ key: "A1", of: "item-bid", bid: 400, back: 200 }));
    const moves = pushEnds(on);
    expect(moves.map(({ about, what, why }) => [about, what, why])).toEqual([
      [expect.stringContaining("hose"), "Bid €0.80 → €0.32", "Its push was until 2026-06-01"],
      ["Item A1", "Bid €0.40 → €0.20", "Its push was until 2026-06-01"],
    ]);
    // Less is spent on the item; of the keyword nobody saw a click.
    expect(moves[1]!.expected.cost).toBeLessThan(0);
    expect(moves[0]!.expected.cost).toBe(0);
    const home = { group: "p:a/A1", bid: 400 };
    const made = makeEdit(on.account, editOfMoves(moves)!, () => ({ home, family: "", title: "Item A1" }), "EUR");
    if (!made.ok) throw new Error(made.error.message);
    const after = made.value.after();
    expect([after.find("keyword", "t:w/0")!.bid, after.find("productGroup", "p:a/A1")!.bid]).toEqual([320, 200]);
  });

  it("are left alone where somebody changed the bid since, where it was no push, and where it is gone", () => {
    expect(pushEnds(ground(push({ bid: 700 }), push({ back: 800 }), push({ key: "gone" })))).toEqual([]);
    expect(pushEnds(ground(push({ key: "no item", of: "item-bid" })))).toEqual([]);
  });
});
