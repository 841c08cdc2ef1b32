import { shelfColumn } from "../account/records/labels";
import { usualNames } from "./names";
import type { Planogram, Split } from "./planogram";

/** A structure that people build, to start from: it changes a planogram, which is adjusted before anything comes of it. */
export interface Template {
  key: string;
  name: string;
  /** When it pays, and what it costs, a sentence each. */
  pays: string;
  costs: string;
  /** Fields that the ladder and the filter need; where one is missing the template can't be used. */
  needs: string[];
  change(base: Planogram): Partial<Planogram>;
}

const all = (by: string): Split => ({ by, largest: null });
const only = (by: string, values: string[]): Split => ({ by, largest: null, values, others: "closed" });

/** A ladder with its lines and the names that come of them. */
function laddered(ladder: Split[], campaignLine: number, adGroupLine: number): Partial<Planogram> {
  return { ladder, campaignLine, adGroupLine, ...usualNames(campaignLine, adGroupLine, ladder) };
}

const STORE = shelfColumn("store-best");
const ADS = shelfColumn("ads-best");
const CHANCE = shelfColumn("return-by-chance");
const MIDPOINT = shelfColumn("price-midpoint");
const PROVEN = shelfColumn("proven");
/** Categories that get a campaign of their own where the rest is pooled. */
const BIGGEST = 6;
/** A revival bids towards this share of the goal: what sold badly is not held to what sells well. */
const REVIVAL = 0.7;
const HALF = 0.5;
/** What stands beside what runs gets this share of its budget on top, so that the day does not cost twice as much unseen. */
const BESIDE = 0.25;
/** Proven families that get a solo of their own at first; more is a matter of who looks after them. */
const SOLOS = 10;
/** Items that join or leave solos by themselves; more at once is for somebody to look at. */
const NEWCOMERS = 50;

/** What stands beside the campaigns that run and takes nobody's place. */
function beside({ totalBudget }: Planogram, serveOrder: number): Partial<Planogram> {
  return { serveOrder, replaces: [], totalBudget: Math.round((totalBudget * BESIDE) / 10) * 10 };
}

/** Structures to start from, the plainest first. */
export const TEMPLATES: Template[] = [
  {
    key: "category-campaigns",
    name: "One campaign for each category",
    pays: "Pays where budgets must be steered by category, such as seasons that differ.",
    costs: "Costs learning: each campaign knows its own orders only, and thin categories stay thin.",
    needs: ["category1"],
    change: () => laddered([all("category1"), all("category2")], 1, 2),
  },
  {
    key: "one-campaign",
    name: "One campaign, ad groups by category",
    pays: "Pays at the beginning and with little money: all orders teach one campaign.",
    costs: "Costs steering: the strongest category takes the budget of the others.",
    needs: ["category1"],
    change: () => laddered([all("category1")], 0, 1),
  },
  {
    key: "biggest-and-rest",
    name: "The biggest categories, and one for the rest",
    pays: "Pays where a few categories bring most of the sales and deserve budgets of their own.",
    costs: "Costs little: the rest learns together, but is bid on as one.",
    needs: ["category1"],
    change: () =>
      laddered(
        [{ by: "category1", largest: { count: BIGGEST, measure: "revenue" }, others: "pooled" }, all("category2")],
        1,
        2,
      ),
  },
  {
    key: "winners-by-return",
    name: "By how likely the goal is reached",
    pays: "Pays once there are results: money goes where the return is likely, and winners can be pushed alone.",
    costs: "Costs calm: items move between campaigns as evidence comes in.",
    needs: [CHANCE],
    change: () => ({ ...laddered([all(CHANCE), all("category1")], 1, 2), bidBy: "worth" }),
  },
  {
    key: "midpoint",
    name: "Above and below the price midpoint",
    pays: "Pays where dear and cheap items earn differently on a click: each half gets bids that fit it.",
    costs: "Costs little, but says nothing of how items sell.",
    needs: [MIDPOINT],
    change: () => laddered([all(MIDPOINT), all("category1")], 1, 2),
  },
  {
    key: "store-best",
    name: "Best in the store",
    pays: "Pays where the shop's best sellers are under-advertised: they convert, whoever sends the visitor.",
    costs: "Costs sales that would have come anyway; compare with days without it.",
    needs: [STORE],
    change: (base) => ({ ...laddered([only(STORE, ["store-best"]), all("category1")], 1, 2), ...beside(base, 2) }),
  },
  {
    key: "ads-best",
    name: "Best in ads",
    pays: "Pays where a catch-all runs dry before its best items are done for the day.",
    costs: "Costs the catch-all its easiest orders; its own return will look worse.",
    needs: [ADS],
    change: (base) => ({
      ...laddered([only(ADS, ["ads-best"]), all("category1")], 1, 2),
      ...{ bidBy: "worth", ...beside(base, 2) },
    }),
  },
  {
    key: "revive",
    name: "Worst in ads, with a goal of their own",
    pays: "Pays where bad sellers never had a fair chance: their own budget and an easier goal find out.",
    costs: "Costs its budget, perhaps for nothing. Give it a date to look again.",
    needs: [ADS],
    change: (base) => ({
      ...laddered([only(ADS, ["ads-worst"]), all("category1")], 1, 2),
      ...{ purpose: "revive", bidding: "return", goal: base.goal && Math.round(base.goal * REVIVAL * 100) / 100 },
      ...beside(base, 2),
    }),
  },
  {
    key: "solo",
    name: "Solos for proven families",
    pays: "Pays where products have proven themselves by three profitable orders: each is served first from a budget of its own.",
    costs: "Costs campaigns to look after. What runs keeps these items and takes over when a solo's money is gone.",
    needs: [PROVEN, "family"],
    change: (base) => ({
      ...laddered([{ by: "family", largest: { count: SOLOS, measure: "revenue" }, others: "closed" }], 1, 1),
      // The whole family goes along, with variants that sold nothing yet; those that join it later go into the basket.
      // A family bids what its clicks are worth and gets money by what it sold.
      where: {
        match: "any",
        of: ["Proven", "Proven as a family"].map((value) => ({ field: PROVEN, op: "is" as const, value })),
      },
      ...{ purpose: "scale", bidBy: "worth", keepStep: { how: "apply", most: NEWCOMERS } },
      ...beside(base, 1),
    }),
  },
  {
    key: "catch-all",
    name: "A catch-all behind the others",
    pays: "Pays always: what has no campaign of its own, and newcomers, are found at a low bid.",
    costs: "Costs what it wastes on items that nobody looks at; watch its bid, which every new item gets.",
    needs: ["category1"],
    change: (base) => ({
      ...laddered([all("category1")], 0, 1),
      ...{ purpose: "catch-all", startingBid: Math.round(base.startingBid * HALF) },
      ...beside(base, 9),
    }),
  },
  {
    key: "low-entry",
    name: "Every item by itself, at a low bid",
    pays: "Pays to see which items sell at all: each has a bid of its own from the first day.",
    costs: "Costs patience: at low bids evidence comes slowly, and there are as many groups as items.",
    needs: ["category1"],
    change: ({ startingBid }) => ({
      ...laddered([all("category1"), all("id")], 1, 1),
      ...{ purpose: "discover", serveOrder: 5, startingBid: Math.round(startingBid * HALF) },
    }),
  },
];
