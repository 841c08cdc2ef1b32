import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { textColumn, type Columns } from "../../kit/columns";
import { testCampaign, testShop } from "../../market/test-shop";
import { Account } from "../account";
import { operate, type AmountOp } from "../amount-op";
import { checkDiff } from "../checks";
import type { FactsOf } from "../act";
import { effectiveBid, highestBids, mostOfBid } from "../effective-bid";
import { editSchema, makeEdit, type Edit } from ".";
import type { Campaign } from "../records/campaign";
import { servingGroups } from "../walk";
import { changesInWords } from "../words";

const ITEMS = ["I0", "I1", "I2", "I3"];
const account = Account.fromStructure({
  ...testCampaign("c:a", { name: "A", dailyBudget: 10_000 }, ITEMS, 500),
  ...testCampaign("c:w", { name: "Words", kind: "keyword" }, ITEMS.slice(0, 2), 900, [
    { type: "keyword", text: "rakes", match: "exact" },
    { type: "keyword", text: "oak rake", match: "broad" },
  ]),
});
const nobody: FactsOf = () => null;
const ask = (intent: object): Edit => editSchema.parse(intent);

function after(intent: object, facts = nobody): Account {
  const done = makeEdit(account, ask(intent), facts, "EUR");
  if (!done.ok) throw new Error(done.error.code);
  return account.with(done.value.diff());
}

function fault(intent: object): string | null {
  const done = makeEdit(account, ask(intent), nobody, "EUR");
  return done.ok ? null : done.error.code;
}

describe("plain operations on amounts", () => {
  it.each<[AmountOp, number, number]>([
    [{ how: "set", mills: 3 }, 500, 3],
    [{ how: "percent", percent: 10 }, 455, 501],
    [{ how: "percent", percent: -90 }, 50, 10],
    [{ how: "add", mills: -700 }, 500, 10],
    [{ how: "add", mills: 25 }, 500, 525],
    [{ how: "round", mills: 50 }, 474, 450],
    [{ how: "round", mills: 50 }, 475, 500],
    [{ how: "at-least", mills: 600 }, 500, 600],
    [{ how: "at-least", mills: 400 }, 500, 500],
    [{ how: "at-most", mills: 400 }, 500, 400],
    [{ how: "at-most", mills: 600 }, 500, 500],
  ])("%o on %i gives %i", (op, amount, expected) => expect(operate(op, amount, 10)).toBe(expected));

  it("work on a product group's bid from its ad group's where it has none, and on budgets", () => {
    const [unit] = account.productGroups("g:c:a").filter(({ role }) => role === "unit");
    const raised = after({ action: "bid", keys: [unit!.key], op: { how: "percent", percent: 20 } });
    expect(raised.find("productGroup", unit!.key)?.bid).toBe(600);
    const more = after({ action: "budget", keys: ["c:a"], op: { how: "add", mills: 2500 } });
    expect(more.find("campaign", "c:a")?.dailyBudget).toBe(12_500);
    const split = account.productGroups("g:c:a").find(({ role }) => role === "split")!;
    expect(fault({ action: "bid", keys: [split.key], op: { how: "set", mills: 1 } })).toBe("edit-unfit");
  });
});

describe("factors", () => {
  it("stand in the slot or hours asked for and go when they are 1", () => {
    const slots = after({ action: "slot-factor", keys: ["c:a"], slot: "lead-row", factor: 1.5 });
    expect(slots.find("campaign", "c:a")?.slots).toEqual({ "lead-row": 1.5 });
    const hours = after({ action: "hour-factor", keys: ["c:a"], hours: [18, 19], factor: 0 });
    expect(
      hours
        .find("campaign", "c:a")
        ?.hours?.map((factor, hour) => (factor === 0 ? hour : -1))
        .filter((h) => h >= 0),
    ).toEqual([18, 19]);
    const done = makeEdit(
      slots,
      ask({ action: "slot-factor", keys: ["c:a"], slot: "lead-row", factor: 1 }),
      nobody,
      "EUR",
    );
    expect(done.ok && slots.with(done.value.diff()).find("campaign", "c:a")).toEqual(account.find("campaign", "c:a"));
  });

  it("never let a bid be more than the most, which some slot and hour reach, flexed up as far as it goes", () => {
    const factor = fc.double({ min: 0, max: 10, noNaN: true });
    const factors = fc.record({
      slots: fc.dictionary(fc.constantFrom("lead-row", "lower-results", "item-pages", "partner-media"), factor),
      hours: fc.array(factor, { minLength: 24, maxLength: 24 }),
    });
    fc.assert(
      fc.property(factors, fc.integer({ min: 10, max: 5000 }), (of, bid) => {
        const all = (["lead-row", "lower-results", "item-pages", "partner-media"] as const).flatMap((slot) =>
          of.hours.map((_, hour) => effectiveBid(bid, of as Campaign, slot, hour)),
        );
        expect(mostOfBid(bid, of as Campaign)).toBe(Math.max(...all));
        const flexed = { ...of, flex: { below: 0.9, above: 1 } } as Campaign;
        expect(Math.abs(mostOfBid(bid, flexed) - 2 * Math.max(...all))).toBeLessThanOrEqual(1);
      }),
    );
  });

  it("are refused, and hold up a dispatch, where a bid would exceed what the channel takes", () => {
    expect(highestBids(account, new Set(["c:a", "c:w"]))).toEqual(
      new Map([
        ["c:a", 500],
        ["c:w", 900],
      ]),
    );
    const [key] = account.productGroups("g:c:a").flatMap((group) => (group.role === "unit" ? [group.key] : []));
    const dear = after({ action: "bid", keys: [key!], op: { how: "set", mills: 6_000 } });
    const intent = ask({ action: "hour-factor", keys: ["c:a"], hours: [1], factor: 9 });
    const refused = makeEdit(dear, intent, nobody, "EUR");
    expect(refused.ok ? null : refused.error.code).toBe("factor-high");
    expect(makeEdit(account, intent, nobody, "EUR").ok).toBe(true);
    const campaign = dear.find("campaign", "c:a")!;
    const diff = {
      added: {},
      changed: { "c:a": [campaign, { ...campaign, hours: Array(24).fill(9) as number[] }] as [Campaign, Campaign] },
      removed: {},
    };
    expect(checkDiff(dear, diff, "EUR").find(({ code }) => code === "factors-high")?.grave).toBe(true);
  });
});

describe("a pause", () => {
  it("keeps its reason and day until it runs again", () => {
    const paused = after({
      action: "status",
      keys: ["c:a"],
      status: "paused",
      pausedFor: "too dear",
      reviewOn: "2026-12-24",
    });
    expect(paused.find("campaign", "c:a")).toMatchObject({
      status: "paused",
      pausedFor: "too dear",
      reviewOn: "2026-12-24",
    });
    const on = makeEdit(paused, ask({ action: "status", keys: ["c:a"], status: "on" }), nobody, "EUR");
    expect(on.ok && paused.with(on.value.diff()).find("campaign", "c:a")).toEqual(account.find("campaign", "c:a"));
  });
});

describe("moving targets", () => {
  it("makes a campaign like theirs that shows the same items, and leaves the others where they are", () => {
    const [first, second] = account.all("keyword");
    const moved = after({ action: "move-target", keys: [first!.key], name: "Rakes alone", dailyBudget: 7_000 });
    const target = moved.find("keyword", first!.key)!;
    const campaign = moved.find("campaign", moved.find("adGroup", target.adGroup)!.campaign)!;
    expect(campaign).toMatchObject({ name: "Rakes alone", dailyBudget: 7_000, kind: "keyword" });
    expect(moved.find("keyword", second!.key)).toEqual(second);
    const shop = testShop();
    const rowsOf = (of: Account, adGroup: string) =>
      servingGroups(of, shop)
        .filter((group) => group.adGroup.key === adGroup)
        .flatMap(({ rows }) => [...rows])
        .sort();
    expect(rowsOf(moved, target.adGroup)).toEqual(rowsOf(account, "g:c:w"));
    expect(rowsOf(moved, target.adGroup)).toEqual([0, 1]);
    expect(fault({ action: "move-target", keys: [first!.key], name: "A", dailyBudget: 7_000 })).toBe("name-taken");
    expect(fault({ action: "move-target", keys: ["c:a"], name: "B", dailyBudget: 7_000 })).toBe("edit-unfit");
  });
});

describe("a campaign of their own", () => {
  const shop: Columns = testShop();
  const families = (extra = false): Columns => ({
    ...shop,
    columns: {
      ...shop.columns,
      family: textColumn(Array.from({ length: 24 }, (_, i) => (i === 0 || i === 5 || (extra && i === 9) ? "f" : ""))),
    },
  });
  const facts: FactsOf = (item) => ({
    home: null,
    family: item === "I0" || item === "I5" ? "f" : "",
    title: TITLES[item] ?? "",
  });
  const TITLES: Record<string, string> = { I0: "Oak Rake", I2: "Steel Rake", I3: "Steel Rake", I5: "Oak Rake, long" };
  const solo = (of: boolean) =>
    after({ action: "solo", items: ["I0", "I2"], name: "Best", dailyBudget: 5_000, bid: 400, families: of }, facts);
  const rows = (of: Account, catalogue: Columns) =>
    servingGroups(of, catalogue)
      .filter(({ campaign }) => campaign.name === "Best")
      .flatMap((group) => [...group.rows])
      .sort((a, b) => a - b);

  it("serves the items first and leaves their homes", () => {
    expect(rows(solo(false), families())).toEqual([0, 2]);
    const campaign = solo(false)
      .all("campaign")
      .find(({ name }) => name === "Best")!;
    expect(campaign).toMatchObject({ kind: "feed", serveOrder: 1, dailyBudget: 5_000, inStockOnly: true });
    const before = servingGroups(account, shop).filter(({ campaign: of }) => of.key === "c:a");
    expect(servingGroups(solo(false), shop).filter(({ campaign: of }) => of.key === "c:a")).toEqual(before);
  });

  it("takes whole families, and a variant that joins one later", () => {
    expect(rows(solo(true), families())).toEqual([0, 2, 5]);
    expect(rows(solo(true), families(true))).toEqual([0, 2, 5, 9]);
  });

  it("is one each where asked, called after the item, one for a family; what has one keeps it", () => {
    const each = { action: "solo", name: "", dailyBudget: 2_500, bid: 400, families: true, each: true };
    const own = (of: Account) => of.all("campaign").flatMap(({ key, name }) => (account.has(key) ? [] : [name]));
    const made = after({ ...each, items: ["I0", "I2", "I3", "I5"] }, facts);
    expect(own(made)).toEqual(["Oak Rake", "Steel Rake", "Steel Rake (I3)"]);
    const serves = (name: string) =>
      servingGroups(made, families()).flatMap(({ campaign, rows: held }) => (campaign.name === name ? [...held] : []));
    expect([serves("Oak Rake"), serves("Steel Rake"), serves("Steel Rake (I3)")]).toEqual([[0, 5], [2], [3]]);
    const again = makeEdit(made, ask({ ...each, items: ["I0", "I2", "I3"] }), facts, "EUR");
    expect(again.ok && Object.keys(again.value.diff().added)).toEqual([]);
    const many = Array.from({ length: 501 }, (_, i) => `M${i}`);
    expect(fault({ ...each, items: many })).toBe("solos-many");
    expect(fault({ ...each, each: false, items: ["I0"] })).toBe("name-missing");
  });
});

describe("names and folders", () => {
  it("change nothing but the name and the folder, whose last goes with nobody in it", () => {
    const renamed = after({ action: "rename", keys: ["c:a"], name: " Best " }).find("campaign", "c:a")!;
    expect(renamed).toEqual({ ...account.find("campaign", "c:a"), name: "Best" });
    expect(after({ action: "rename", keys: ["g:c:a"], name: "Best" }).find("adGroup", "g:c:a")!.name).toBe("Best");
    const sorted = makeEdit(account, ask({ action: "folder", keys: ["c:a", "c:w"], folder: "Spring" }), nobody, "EUR");
    if (!sorted.ok) throw new Error(sorted.error.code);
    const within = account.with(sorted.value.diff());
    expect(within.all("campaign").map(({ folder }) => folder)).toEqual(["Spring", "Spring"]);
    const out = makeEdit(within, ask({ action: "folder", keys: ["c:a"], folder: null }), nobody, "EUR");
    expect(out.ok && within.with(out.value.diff()).find("campaign", "c:a")).toEqual(account.find("campaign", "c:a"));
    expect(fault({ action: "rename", keys: ["p:c:a"], name: "x" })).toBe("edit-unfit");
    expect(fault({ action: "folder", keys: ["g:c:a"], folder: "x" })).toBe("edit-unfit");
    expect(editSchema.safeParse({ action: "rename", keys: ["c:a", "c:w"], name: "x" }).success).toBe(false);
  });
});

describe("ad groups that move", () => {
  const thin = Account.fromStructure({
    ...testCampaign("c:a", { name: "A", dailyBudget: 10_000 }, ["I0", "I1"], 500),
    ...testCampaign("c:b", { name: "B", dailyBudget: 4_000, pool: null }, ["I2"], 300),
    ...testCampaign("c:w", { name: "Words", kind: "keyword" }, ["I3"], 900),
  });
  const move = (change: object) =>
    makeEdit(thin, ask({ action: "move-groups", keys: ["g:c:b"], ...change }), nobody, "EUR");
  const moved = (change: object) => {
    const done = move(change);
    if (!done.ok) throw new Error(done.error.code);
    return thin.with(done.value.diff());
  };

  it("learn together in one campaign, serve the same items, and leave an empty one paused with its reason", () => {
    const after = moved({ into: "c:a" });
    expect(after.find("adGroup", "g:c:b")).toEqual({ ...thin.find("adGroup", "g:c:b"), campaign: "c:a" });
    expect(after.find("campaign", "c:b")).toMatchObject({ status: "paused", pausedFor: "its 1 group moved to A" });
    const shop = testShop();
    const rows = (of: Account) =>
      servingGroups(of, shop)
        .flatMap(({ rows: held }) => [...held])
        .sort((a, b) => a - b);
    expect(rows(after)).toEqual(rows(thin));
    const done = move({ into: "c:a" });
    const texts = done.ok ? changesInWords(thin, done.value.diff(), "EUR").map(({ text }) => text) : [];
    expect(texts.join(" ")).toContain("moved to A");
  });

  it("get a campaign of their own with the settings of the old one", () => {
    const after = moved({ into: null, name: "Alone", dailyBudget: 2_000 });
    const made = after.all("campaign").find(({ name }) => name === "Alone")!;
    expect(made).toMatchObject({ dailyBudget: 2_000, kind: "feed", status: "on", origin: null });
    expect(after.find("adGroup", "g:c:b")!.campaign).toBe(made.key);
  });

  it("are refused where the campaign is of another kind, gone or called like another", () => {
    const code = (change: object) => {
      const done = move(change);
      return done.ok ? "done" : done.error.code;
    };
    expect(code({ into: "c:w" })).toBe("edit-unfit");
    expect(code({ into: "gone" })).toBe("campaign-gone");
    expect(code({ into: null, name: "A" })).toBe("name-taken");
    expect(code({ into: null, name: " " })).toBe("name-missing");
    expect(code({ keys: ["c:b"], into: "c:a" })).toBe("edit-unfit");
  });
});

describe("many changes as one edit", () => {
  const [unit, other] = account.productGroups("g:c:a").filter(({ role }) => role === "unit");

  it("set an amount of its own for each, each with its reason", () => {
    const amounts = [
      { key: unit!.key, mills: 610, reason: "sells above the goal" },
      { key: other!.key, mills: 120 },
    ];
    const done = makeEdit(account, ask({ action: "amounts", of: "bid", amounts }), nobody, "EUR");
    if (!done.ok) throw new Error(done.error.message);
    const { changed } = done.value.diff();
    expect(Object.values(changed).map(([from, to]) => [from.key, "bid" in to && to.bid])).toEqual([
      [unit!.key, 610],
      [other!.key, 120],
    ]);
    expect([...done.value.reasons]).toEqual([[unit!.key, "sells above the goal"]]);
  });

  it("are all made or none, and a key that is given twice is no amount at all", () => {
    const twice = { action: "amounts", of: "budget", amounts: Array(2).fill({ key: "c:a", mills: 5 }) };
    expect(editSchema.safeParse(twice).success).toBe(false);
    const one = { action: "amounts", of: "budget", amounts: [{ key: "c:a", mills: 5_000 }] };
    expect(after(one).find("campaign", "c:a")?.dailyBudget).toBe(5_000);
    const gone = { action: "amounts", of: "budget", amounts: [...one.amounts, { key: "nothing", mills: 5 }] };
    expect(fault(gone)).toBe("record-gone");
  });

  it("of different kinds go on from each other, and each record keeps the reason of the act that changed it", () => {
    const several = {
      action: "several",
      acts: [
        { act: { action: "budget", keys: ["c:a"], op: { how: "percent", percent: 50 } }, reason: "dry by noon" },
        { act: { action: "budget", keys: ["c:a"], op: { how: "add", mills: 1_000 } }, reason: "and a little more" },
        { act: { action: "exclude", items: ["I3"], reason: "wasteful" } },
      ],
    };
    const done = makeEdit(account, ask(several), nobody, "EUR");
    if (!done.ok) throw new Error(done.error.message);
    expect(done.value.after().find("campaign", "c:a")?.dailyBudget).toBe(16_000);
    expect([...done.value.reasons]).toEqual([
      ["c:a", "and a little more"],
      ["x:everywhere/I3", "Excluded: wasteful"],
    ]);
    const last = { act: { action: "slot-factor", keys: ["c:a"], slot: "lead-row", factor: 10 } };
    const dear = { act: { action: "bid", keys: ["g:c:a"], op: { how: "set", mills: 40_000 } } };
    expect(fault({ action: "several", acts: [dear, last] })).toBe("factor-high");
    expect(fault({ action: "several", acts: [last] })).toBe(null);
  });

  it("take 10,000 of them in a moment, since nothing is walked for each", () => {
    const wide = Account.fromStructure(
      testCampaign(
        "c:z",
        { name: "Z" },
        Array.from({ length: 10_000 }, (_, i) => `Z${i}`),
        500,
      ),
    );
    const units = wide.productGroups("g:c:z").filter(({ role }) => role === "unit");
    const amounts = units.map(({ key }, i) => ({ key, mills: 100 + i, reason: `for ${i}` }));
    const done = makeEdit(wide, ask({ action: "amounts", of: "bid", amounts }), nobody, "EUR");
    expect(done.ok && Object.keys(done.value.diff().changed).length).toBe(10_000);
    expect(done.ok && done.value.reasons.size).toBe(10_000);
  });
});

describe("letting items in again", () => {
  it("lifts every exclusion of an item, or just the one that is named", () => {
    const first = account.with(
      (() => {
        const done = makeEdit(
          account,
          ask({
            action: "several",
            acts: [
              { act: { action: "exclude", items: ["I1"], reason: "unsafe" } },
              { act: { action: "exclude", items: ["I1", "I2"], reason: "wasteful", campaign: "c:a" } },
            ],
          }),
          nobody,
          "EUR",
        );
        if (!done.ok) throw new Error(done.error.message);
        return done.value.diff();
      })(),
    );
    const left = (intent: object) => {
      const done = makeEdit(first, ask(intent), nobody, "EUR");
      return (
        done.ok &&
        done.value
          .after()
          .all("exclusion")
          .map(({ key }) => key)
      );
    };
    expect(left({ action: "include", items: ["I1"] })).toEqual(["x:c:a/I2"]);
    expect(left({ action: "include", items: ["I1"], campaign: "c:a" })).toEqual(["x:everywhere/I1", "x:c:a/I2"]);
    expect(left({ action: "include", items: ["I1"], campaign: null })).toEqual(["x:c:a/I1", "x:c:a/I2"]);
  });
});
