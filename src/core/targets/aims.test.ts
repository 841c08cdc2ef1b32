import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { Account } from "../account/account";
import { windowHolds, type ListingWindow } from "../channel/listing-window";
import { aimedPages } from "../market/aimed-pages";
import { comparedWords, matches } from "../channel/matching";
import { planAccount } from "../market/running-account";
import { testCampaign, testShop } from "../market/test-shop";
import { buildWorld } from "../market/world";
import { aimAt } from "./aim-records";
import { aimFault, aimingSchema, type Aim } from "./aims";

const shop = testShop();
const world = buildWorld(shop, "w");
const running = Account.fromStructure(
  testCampaign("c:w", { name: "Words", kind: "keyword" }, ["I0", "I2"], 900, [
    { type: "keyword", text: "rakes", match: "exact" },
  ]),
);
const isOwn = (listing: string) => /^I\d+$/.test(listing);
const keyword = (text: string, ...of: string[]) => ({ what: "keyword", text, matches: of });

function aimed(aims: object[], place: object, account = running): Account {
  const done = aimAt(account, aimingSchema.parse({ aims, place }), () => 450);
  if (!done.ok) throw new Error(done.error.code);
  return account.with(done.value.diff());
}

describe("what can't be aimed at", () => {
  it.each<[object, string | null, string | null]>([
    [keyword("!!! --- ???", "exact"), null, "no word"],
    [keyword("hose ".repeat(60), "exact"), null, "299 characters"],
    [keyword("a b c d e f g h i j k", "exact"), null, "11 words"],
    [keyword("садовый шланг", "exact"), null, null],
    [keyword("園芸 ホース", "broad"), null, null],
    [{ what: "listing", listing: "I3" }, "conquest", "your own"],
    [{ what: "listing", listing: "I3" }, "defend", null],
    [{ what: "listing", listing: " " }, "conquest", "no listing"],
    [{ what: "window", window: { by: "category", category: "Garden", priceFrom: 9, priceTo: 3 } }, null, "price"],
  ])("%o for %s: %s", (aim, purpose, said) => {
    const [parsed] = aimingSchema.shape.aims.parse([aim]);
    const found = aimFault(parsed as Aim, isOwn, purpose);
    if (said === null) expect(found).toBeNull();
    else expect(found).toContain(said);
  });
});

describe("aiming", () => {
  it("in a new campaign shows the chosen items at exactly the queries that the market's matching names", () => {
    const account = aimed([keyword("Steel rake", "phrase", "broad")], {
      ...{ kind: "new", name: "Rakes", purpose: "rank", dailyBudget: 5_000, items: ["I0", "I4"] },
    });
    expect(account.all("keyword").map(({ match }) => match)).toEqual(expect.arrayContaining(["phrase", "broad"]));
    const market = planAccount(world, account, shop);
    const own = account.all("campaign").find(({ name }) => name === "Rakes")!;
    const at = market.campaigns.findIndex(({ key }) => key === own.key);
    const reached = new Set<string>();
    for (const [surface, list] of market.aimed) {
      const mine = list.filter(({ home }) => home.campaign === at);
      if (mine.length === 0) continue;
      reached.add(world.surfaces[surface]!.label);
      expect(new Set(mine.map(({ row }) => row))).toEqual(new Set([0, 4]));
      expect(new Set(mine.map(({ home }) => home.bid))).toEqual(new Set([450]));
    }
    const words = comparedWords("Steel rake");
    const expected = world.surfaces.flatMap(({ kind, label }) =>
      kind === "query" && matches(words, comparedWords(label), "broad") ? [label] : [],
    );
    expect([...reached].sort()).toEqual([...new Set(expected)].sort());
    expect(expected.length).toBeGreaterThan(0);
  });

  it("in an ad group that runs adds what is not there yet and leaves bids alone", () => {
    const account = aimed([keyword("Rakes", "exact", "phrase"), keyword("rakes", "phrase")], {
      kind: "ad-group",
      adGroup: "g:c:w",
    });
    const texts = account.all("keyword").map(({ text, match, bid }) => `${text}/${match}/${bid}`);
    expect(texts.sort()).toEqual(["rakes/exact/null", "rakes/phrase/450"]);
  });

  it("is refused whole where it can't be", () => {
    const place = { kind: "new", name: "Words", purpose: "rank", dailyBudget: 1, items: ["I0"] };
    const code = (aims: object[], where: object) => {
      const done = aimAt(running, aimingSchema.parse({ aims, place: where }), () => 1);
      return done.ok ? null : done.error.code;
    };
    expect(code([keyword("x", "exact")], place)).toBe("name-taken");
    expect(code([keyword("x", "exact"), { what: "listing", listing: "L" }], { ...place, name: "N" })).toBe(
      "aims-mixed",
    );
    expect(code([keyword("x", "exact")], { ...place, name: "N", items: [] })).toBe("aim-no-items");
    expect(code([{ what: "listing", listing: "L" }], { kind: "ad-group", adGroup: "g:c:w" })).toBe("aim-place-unfit");
    expect(code([keyword("x", "exact")], { kind: "campaign", campaign: "gone", items: ["I0"] })).toBe("aim-place-gone");
  });
});

describe("a window of listings", () => {
  const pages = world.surfaces.filter(({ listing }) => listing !== null);
  const prices = pages.map(({ listing }) => listing!.price);
  const end = (values: number[]) => fc.option(fc.constantFrom(...values), { nil: null });
  const window = fc.record<ListingWindow>({
    by: fc.constant("category"),
    category: fc.constantFrom("Garden", "Garden > Hoses", "Gard", "Garden > Rakes"),
    priceFrom: end(prices),
    priceTo: end(prices),
    ratingFrom: end([2, 3.5, 4.2]),
    ratingTo: end([3, 4.2, 5]),
    reviewsTo: end([5, 60, 500]),
  });

  it("reaches exactly the pages that its ends say, both ends inside and our own left out", () => {
    fc.assert(
      fc.property(window, (aim) => {
        const target = { type: "listingTarget", key: "t", adGroup: "g", aim, status: "on", bid: null } as const;
        const found = new Set(aimedPages(world, target).map(({ id }) => id));
        for (const { id, kind, listing } of pages) {
          const category = world.categories[world.categoryOf[id]!]!.name;
          const { price, rating, reviews } = listing!;
          const isIn =
            kind !== "own-page" &&
            (category === aim.category || category.startsWith(`${aim.category} > `)) &&
            !(aim.priceFrom !== null && price < aim.priceFrom) &&
            !(aim.priceTo !== null && price > aim.priceTo) &&
            !(aim.ratingFrom !== null && rating < aim.ratingFrom) &&
            !(aim.ratingTo !== null && rating > aim.ratingTo) &&
            !(aim.reviewsTo !== null && reviews > aim.reviewsTo);
          expect(found.has(id)).toBe(isIn);
        }
      }),
    );
  });

  it("holds no listing of unknown price where it asks for one", () => {
    const open: ListingWindow = {
      ...{
        by: "category",
        category: "A",
        priceFrom: null,
        priceTo: null,
        ratingFrom: null,
        ratingTo: null,
        reviewsTo: null,
      },
    };
    const listing = { category: "A > B", price: null, rating: null, reviews: null };
    expect(windowHolds(open, listing)).toBe(true);
    expect(windowHolds({ ...open, priceTo: 1e9 }, listing)).toBe(false);
    expect(windowHolds({ ...open, reviewsTo: 1e9 }, listing)).toBe(false);
  });
});
