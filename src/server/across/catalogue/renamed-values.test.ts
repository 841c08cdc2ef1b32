import { describe, expect, it } from "vitest";
import { Account } from "@/core/account/account";
import { makeEdit } from "@/core/account/acts";
import { recordSchema, type AccountRecord } from "@/core/account/records";
import { diffRecords } from "@/core/kit/diff";
import { listRefreshes } from "../../catalogue/history";
import { addToBasket, importFeed, runToEnd, testWorkspace } from "../../testing";
import { walkAccount } from "../../account/serving";
import { liveAccount } from "../../account/state";
import { renamedValues } from "./renamed-values";

/** A campaign that is split by the first category level, one group for each of the values. */
function byCategory(values: string[]): Record<string, AccountRecord> {
  const campaign = {
    ...{ type: "campaign", key: "c:a", name: "Shop · Hoses", kind: "feed", purpose: "scale", bidding: "fixed" },
    ...{ goal: null, dailyBudget: 10_000, status: "on", serveOrder: 3, inStockOnly: false, origin: null },
  };
  const adGroup = { type: "adGroup", key: "g:a", campaign: "c:a", name: "Hoses", status: "on", bid: 500 };
  const group = { type: "productGroup", adGroup: "g:a", status: "on" };
  const records = [
    campaign,
    adGroup,
    { ...group, key: "p:root", parent: null, role: "split", by: "category1", value: null, bid: null },
    ...values.map((value) => ({
      ...group,
      key: `p:${value}`,
      parent: "p:root",
      role: "unit",
      by: null,
      value,
      bid: 400,
    })),
    {
      ...group,
      key: "p:rest",
      parent: "p:root",
      role: "remainder",
      by: null,
      value: null,
      bid: null,
      status: "closed",
    },
  ];
  return Object.fromEntries(records.map((record) => [record.key, recordSchema.parse(record)]));
}

const feed = (category: (i: number) => string) =>
  `id,title,price,category\n${Array.from({ length: 20 }, (_, i) => `I${i},Thing ${i},5.00,${category(i)}`).join("\n")}\n`;

const follow = (account: Account, by: string, from: string, to: string) =>
  makeEdit(account, { action: "rename-value", by, from, to }, () => null, "EUR");

describe("a value that the feed calls by another name", () => {
  it("is found when all of its items went over and it is gone, and the structure is carried over", async () => {
    const workspace = await testWorkspace();
    const { db, info } = workspace;
    await importFeed(
      workspace,
      feed((i) => (i < 12 ? "Hoses > Long" : "Pots")),
    );
    await addToBasket(db, diffRecords({}, byCategory(["Hoses", "Pots"])));
    await runToEnd(db, info, "dispatch", { takesBack: null });
    // Two of the pots went elsewhere, which makes no other name of it.
    await importFeed(
      workspace,
      feed((i) => (i < 12 ? "Garden hoses > Long" : i < 14 ? "Sale" : "Pots")),
    );
    const [latest] = await listRefreshes(db);
    const renamed = await renamedValues(db, info, latest!.id);
    expect(renamed).toEqual([
      { by: "category1", label: "Category, level 1", from: "Hoses", to: "Garden hoses", items: 12, groups: 1 },
    ]);
    const before = await liveAccount(db);
    expect((await walkAccount(db, before)).proof.one).toBe(6);
    const draft = follow(before, "category1", "Hoses", "Garden hoses");
    if (!draft.ok) throw new Error(draft.error.message);
    const after = before.with(draft.value.diff());
    expect((await walkAccount(db, after)).proof.one).toBe(18);
    expect(after.find("productGroup", "p:Hoses")).toMatchObject({ value: "Garden hoses", bid: 400 });
    expect([after.find("campaign", "c:a")?.name, after.find("adGroup", "g:a")?.name]).toEqual([
      "Shop · Garden hoses",
      "Garden hoses",
    ]);
  });

  it("is left alone where the new value has a group of its own, or nothing is named for the old one", () => {
    const account = Account.of(Object.values(byCategory(["Hoses", "Pots"])));
    expect(follow(account, "category1", "Hoses", "Pots")).toMatchObject({ ok: false });
    expect(follow(account, "brand", "Hoses", "Reels")).toMatchObject({ ok: false });
    expect(follow(account, "category1", "Reels", "Hoses")).toMatchObject({ ok: false });
  });
});
