import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { checkDiff } from "./checks";
import { COUNTRIES, countryName } from "../kit/countries";
import { applyDiff, diffRecords, diffSize, emptyDiff } from "../kit/diff";
import { hashText, randomFrom } from "../kit/random";
import { Account, withDependents, type Structure } from "./account";
import { Draft } from "./draft";
import type { FactsOf } from "./act";
import { makeEdit, type Edit } from "./acts";
import { firstHomes, proveHomes } from "./homes";
import { shortKey } from "./keys";
import { recordName } from "./names";
import { kindOf, RECORD_KINDS, RECORD_TYPES, recordSchema, type AccountRecord } from "./records";
import { servingGroups, Walker } from "./walk";
import { numberColumn, textColumn, type Columns } from "../kit/columns";

function campaign(key: string, more: object = {}): AccountRecord {
  const base = { kind: "feed", purpose: "scale", bidding: "fixed", goal: null, status: "on", serveOrder: 3 };
  return recordSchema.parse({
    ...{ type: "campaign", key, name: key, dailyBudget: 9_000, inStockOnly: false, origin: null },
    ...base,
    ...more,
  });
}

function adGroup(key: string, of: string, bid = 300): AccountRecord {
  return { type: "adGroup", key, campaign: of, name: key, status: "on", bid };
}

function node(key: string, of: string, parent: string | null, more: object): AccountRecord {
  const base = { type: "productGroup", key, adGroup: of, parent, value: null, by: null, status: "on", bid: null };
  return recordSchema.parse({ ...base, ...more });
}

/** A campaign whose remainder stands open over `brand`. */
function leaky(): Structure {
  const records = [
    campaign("c"),
    adGroup("g", "c"),
    node("p", "g", null, { role: "split", by: "brand" }),
    node("p/A", "g", "p", { role: "unit", value: "A" }),
    node("p/*", "g", "p", { role: "remainder", status: "on", bid: 200 }),
  ];
  return Object.fromEntries(records.map((record) => [record.key, record]));
}

function shop(brands: string[]): Columns {
  return {
    length: brands.length,
    columns: {
      itemNo: numberColumn(brands.keys()),
      id: textColumn(brands.map((_, i) => `I${i}`)),
      brand: textColumn(brands),
      availability: textColumn(brands.map(() => "in stock")),
    },
  };
}

function homesIn(account: Account, catalogue: Columns): FactsOf {
  const serving = servingGroups(account, catalogue);
  const first = firstHomes(serving, catalogue.length);
  return (item) => {
    const home = serving[first[Number(item.slice(1))] ?? -1];
    return { home: home ? { group: home.group.key, bid: home.bid } : null, family: "", title: "" };
  };
}

describe("an account", () => {
  const name = fc.constantFrom("a", "b", "c", "d", "e", "f");
  const structure = fc.dictionary(name, fc.nat(3)).map((marks) => {
    const entries = Object.entries(marks).map(([key, mark]): [string, AccountRecord] =>
      mark % 2 ? [key, campaign(key, { serveOrder: mark + 1 })] : [key, node(key, `g${mark}`, null, { role: "unit" })],
    );
    return Object.fromEntries(entries) as Structure;
  });

  it("after any changes is what the records say, by key, type and ad group", () => {
    fc.assert(
      fc.property(structure, fc.array(structure, { minLength: 1, maxLength: 4 }), (begin, states) => {
        let account = Account.fromStructure(begin);
        let before = begin;
        for (const state of states) {
          account = account.with(diffRecords(before, state));
          before = state;
        }
        const byKey = (records: Iterable<AccountRecord>) => [...records].sort((a, b) => (a.key < b.key ? -1 : 1));
        expect(account.toStructure()).toEqual(before);
        expect(account.size).toBe(Object.keys(before).length);
        for (const type of ["campaign", "productGroup"] as const) {
          const wanted = Object.values(before).filter((record) => record.type === type);
          expect(byKey(account.all(type))).toEqual(byKey(wanted));
        }
        for (const key of ["g0", "g2"]) {
          const wanted = Object.values(before).filter((record) => "adGroup" in record && record.adGroup === key);
          expect(byKey(account.productGroups(key))).toEqual(byKey(wanted));
        }
      }),
    );
  });

  it("gives the same lists again where nothing changed, so that what hangs on them holds", () => {
    const account = Account.fromStructure({ ...leaky(), d: campaign("d"), h: adGroup("h", "d") });
    const wanted = account.find("campaign", "c")!;
    const changed = account.with({ ...emptyDiff(), changed: { c: [wanted, { ...wanted, dailyBudget: 1 }] } });
    expect(changed.all("adGroup")).toBe(account.all("adGroup"));
    expect(changed.productGroups("g")).toBe(account.productGroups("g"));
    expect(changed.all("campaign")).not.toBe(account.all("campaign"));
  });

  it("walked again after a change serves what walking it afresh serves", () => {
    const catalogue = shop(["A", "A", "B", "C", "C"]);
    const walker = new Walker(catalogue);
    const edits = fc.array(fc.tuple(fc.constantFrom("I0", "I2", "I3", "I4"), fc.constantFrom(0, 100, 150)), {
      maxLength: 5,
    });
    fc.assert(
      fc.property(edits, (list) => {
        let account = Account.fromStructure(leaky());
        for (const [item, bid] of list) {
          const intent: Edit =
            bid === 0
              ? { action: "exclude", items: [item], reason: "unsafe", reviewOn: null, campaign: null }
              : { action: "item-bid", items: [item], op: { how: "set", mills: bid } };
          const done = makeEdit(account, intent, homesIn(account, catalogue), "EUR");
          if (done.ok) account = account.with(done.value.diff());
          const told = (found: ReturnType<typeof servingGroups>) =>
            found.map(({ group, bid: b, rows, leak }) => [group.key, b, [...rows], leak]);
          expect(told(walker.walk(account))).toEqual(told(servingGroups(account, catalogue)));
        }
      }),
    );
  });
});

describe("a campaign's country", () => {
  const brands: Columns = { length: 2, columns: { id: textColumn(["1", "2"]), brand: textColumn(["A", "B"]) } };

  it("other than the channel's serves nothing, and says so before it is sent", () => {
    const home = Account.fromStructure(leaky());
    const to = (country: string) => {
      const draft = new Draft(home);
      draft.put({ ...home.find("campaign", "c")!, country });
      return draft;
    };
    expect(servingGroups(home, brands).length).toBeGreaterThan(0);
    expect(servingGroups(to("DE").after(), brands)).toEqual(
      servingGroups(home, brands).map((one) => ({ ...one, campaign: to("DE").after().find("campaign", "c") })),
    );
    expect(servingGroups(to("FR").after(), brands)).toEqual([]);
    const told = (country: string) => checkDiff(home, to(country).diff(), "EUR").map(({ code }) => code);
    expect(told("FR")).toContain("country-elsewhere");
    expect(told("DE")).not.toContain("country-elsewhere");
    expect(recordSchema.safeParse({ ...home.find("campaign", "c"), country: "Germany" }).success).toBe(false);
  });

  it("is told in words", () => {
    expect(countryName("FR")).toBe("France");
    expect(new Set(COUNTRIES).size).toBe(COUNTRIES.length);
    for (const code of COUNTRIES) expect(countryName(code)).not.toBe(code);
  });
});

describe("bids on single items", () => {
  it("of an open remainder are set for any number at once, and what stays behind is as open as before", () => {
    const brands = ["A", ...Array.from({ length: 8 }, (_, i) => `B${i}`)];
    const catalogue = shop(brands);
    const account = Account.fromStructure(leaky());
    const items = ["I1", "I2", "I3", "I4", "I5"];
    const done = makeEdit(
      account,
      { action: "item-bid", items, op: { how: "set", mills: 700 } },
      homesIn(account, catalogue),
      "EUR",
    );
    if (!done.ok) throw new Error(done.error.message);
    const after = account.with(done.value.diff());
    const serving = servingGroups(after, catalogue);
    const bidOf = (row: number) => serving.filter(({ rows }) => rows.includes(row)).map(({ bid, leak }) => [bid, leak]);
    expect([1, 2, 3, 4, 5].map(bidOf)).toEqual(items.map(() => [[700, false]]));
    expect([0, 6, 8].map(bidOf)).toEqual([[[300, false]], [[200, true]], [[200, true]]]);
    expect(proveHomes(serving, catalogue.length)).toMatchObject({ none: 0, one: 9, several: 0 });
    // Then one by one, as a person would.
    let next = after;
    for (const item of ["I6", "I1", "I8"]) {
      const one = makeEdit(
        next,
        { action: "item-bid", items: [item], op: { how: "set", mills: 900 } },
        homesIn(next, catalogue),
        "EUR",
      );
      if (!one.ok) throw new Error(one.error.message);
      next = next.with(one.value.diff());
    }
    const later = servingGroups(next, catalogue);
    expect([6, 1, 8, 7].map((row) => later.find(({ rows }) => rows.includes(row))!.bid)).toEqual([900, 900, 900, 200]);
  });

  it("leave a reason of its own with what only had to be divided", () => {
    const account = Account.fromStructure(leaky());
    const done = makeEdit(
      account,
      { action: "item-bid", items: ["I1"], op: { how: "set", mills: 700 } },
      homesIn(account, shop(["A", "B"])),
      "EUR",
    );
    if (!done.ok) throw new Error(done.error.message);
    const { added, changed } = done.value.diff();
    const lifted = Object.values(added).find((record) => "value" in record && record.value === "I1")!;
    expect(done.value.reasons.has(lifted.key)).toBe(false);
    for (const key of [...Object.keys(changed), ...Object.keys(added).filter((other) => other !== lifted.key)]) {
      expect(done.value.reasons.get(key)).toMatch(/^Divided/);
    }
  });

  it("say so where no item has a home", () => {
    const account = Account.fromStructure(leaky());
    const done = makeEdit(
      account,
      { action: "item-bid", items: ["I9"], op: { how: "set", mills: 700 } },
      () => null,
      "EUR",
    );
    expect(done).toMatchObject({ ok: false, error: { code: "item-homeless" } });
  });
});

describe("kinds of records", () => {
  it("all have a schema of their own type, and words for coming, changing and going", () => {
    expect(RECORD_TYPES.toSorted()).toEqual(recordSchema.options.map(({ shape }) => shape.type.value).toSorted());
    expect(new Set(RECORD_TYPES.map((type) => kindOf(type).place)).size).toBe(RECORD_TYPES.length);
    for (const type of RECORD_TYPES) expect(RECORD_KINDS[type].label.every((word) => word !== "")).toBe(true);
  });

  it("go with what they hang below, and not with what they only draw on", () => {
    const records = [
      ...Object.values({ ...leaky(), c: campaign("c", { pool: "pool" }) }),
      recordSchema.parse({ type: "pool", key: "pool", name: "Summer", dailyBudget: 1 }),
      recordSchema.parse({ type: "negative", key: "n", scope: "g", what: "term", value: "free", reason: "wasteful" }),
    ];
    expect([...withDependents(["c"], records)].sort()).toEqual(["c", "g", "n", "p", "p/*", "p/A"]);
    expect([...withDependents(["pool"], records)]).toEqual(["pool"]);
    expect([...withDependents(["p/A"], records)]).toEqual(["p/A"]);
  });

  it("are called what people call them: shelves by their names, what nobody named the remainder", () => {
    const account = Account.of([
      ...[campaign("c"), adGroup("g", "c"), node("p", "g", null, { role: "split", by: "shelf:tiers" })],
      ...[node("p/1", "g", "p", { role: "unit", value: "hot" }), node("p/2", "g", "p", { role: "remainder" })],
      recordSchema.parse({
        type: "labels",
        key: "l:tiers/hot",
        shelfSet: "tiers",
        shelf: "hot",
        name: "6.3 up",
        items: [],
      }),
    ]);
    const nameOf = (key: string) => recordName(account, account.get(key)!);
    expect(["p", "p/1", "p/2"].map(nameOf)).toEqual(["c · g · all items", "c · g · 6.3 up", "c · g · remainder"]);
  });
});

describe("keys", () => {
  it("of long paths never meet, as those of a short hash do", () => {
    const start = `p:${encodeURIComponent("Садовый инвентарь и полив").repeat(3)}`.padEnd(401, "x");
    const random = randomFrom("brands");
    const keys = Array.from({ length: 200_000 }, (_, i) => `${start}/brand=${random().toString(36)}-${i}`);
    const byHash = new Map<number | string, string>();
    const meeting = keys.flatMap((key) => {
      const hash = hashText(key);
      const other = byHash.get(hash);
      byHash.set(hash, key);
      return other === undefined ? [] : [other, key];
    });
    expect(meeting.length).toBeGreaterThan(1);
    const looked = [...new Set([...meeting, ...keys.slice(0, 10_000)])];
    expect(new Set(looked.map(shortKey)).size).toBe(looked.length);
    expect(shortKey("short")).toBe("short");
    expect(keys.slice(0, 50).every((key) => shortKey(key).length < 600 - "/rest/*".length)).toBe(true);
  });
});

describe("a draft", () => {
  it("knows only what differs from the account", () => {
    const before = leaky();
    const draft = new Draft(Account.fromStructure(before));
    draft.put({ ...before["c"]! });
    draft.put(campaign("d"));
    draft.remove("p/A");
    draft.remove("nothing");
    expect(diffSize(draft.diff())).toBe(2);
    const { "p/A": _gone, ...rest } = before;
    expect(applyDiff(before, draft.diff())).toEqual({ ...rest, d: campaign("d") });
  });
});
