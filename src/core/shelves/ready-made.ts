import { DEFAULT_HEAT_RULES, type Heat } from "../evidence/heat";
import type { Where } from "../catalogue/where";
import type { Cut, ShelfRule, ShelfSet } from "./shelf-set";

/** The key of the set that people start from. */
export const STARTING_SET = "return-by-chance";

/** A ready-made set with what a person should know before choosing it. */
export interface ReadyMade {
  key: string;
  name: string;
  /** What it answers. */
  about: string;
  helps: string;
  hurts: string;
  /** What it costs in pooled learning when campaigns are made of it. */
  learning: string;
  make: (goal: number) => ShelfSet;
}

type Shelf = ShelfRule;
type Band = Extract<Shelf, { kind: "band" }>;

const plain = { heat: null, goal: null, note: "", lookAgain: null };
const keyOf = (name: string) =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 40);

function band(
  name: string,
  metric: string,
  side: Band["side"],
  cut: Cut | null,
  evidence = false,
  heat: Heat | null = null,
): Band {
  return { ...plain, kind: "band", key: keyOf(name), name, metric, side, cut, evidence, heat };
}
function rule(name: string, where: Where): Shelf {
  return { ...plain, kind: "rule", key: keyOf(name), name, where };
}
const all = (...of: Where["of"]): Where => ({ match: "all", of });
const is = (
  field: string,
  op: Where["of"][number] extends infer P ? (P extends { op: infer O } ? O : never) : never,
  value: string | number = "",
) => ({
  field,
  op,
  value: String(value),
});
const at = (value: number): Cut => ({ by: "value", at: value });
const quartile = (q: number): Cut => ({ by: "quantile", q, weight: "items" });

/** What sets have in common until somebody changes it. */
export function blankSet(
  key: string,
  name: string,
  goal: number,
  shelves: Shelf[] = [],
  rest = "All others",
): ShelfSet {
  return {
    ...{ key, name, about: "", windowDays: 90, goal },
    ...{ leastClicks: DEFAULT_HEAT_RULES.leastClicks, leastOrders: DEFAULT_HEAT_RULES.provenOrders },
    ...{ margin: 0.1, patience: 3, askAbove: null },
    shelves,
    rest: { ...plain, key: keyOf(rest) || "rest", name: rest },
  };
}

/** A set whose last shelf holds the items of which too little is known. */
function readSet(key: string, name: string, goal: number, shelves: Shelf[]): ShelfSet {
  const set = blankSet(key, name, goal, shelves, "Unread");
  return { ...set, rest: { ...set.rest, value: "Unread", heat: "unread" } };
}

const STEPS: [heat: Heat, least: number | null][] = [
  ["hot", DEFAULT_HEAT_RULES.hot],
  ["warm", DEFAULT_HEAT_RULES.warm],
  ["mild", DEFAULT_HEAT_RULES.cool],
  ["cool", DEFAULT_HEAT_RULES.cold],
  ["cold", null],
];

/** Items by the chance that they truly reach the goal: the heat every other screen shows, as shelves. */
export function returnByChance(goal: number, windowDays = 90): ShelfSet {
  const shelves = STEPS.map(([heat, least]) =>
    band(
      heat[0]!.toUpperCase() + heat.slice(1),
      "chance",
      least === null ? "any" : "above",
      least === null ? null : at(least),
      true,
      heat,
    ),
  );
  return { ...readSet(STARTING_SET, "Return by chance", goal, shelves), windowDays };
}

/** Cuts of the return itself, as multiples of the goal. */
const RETURN_STEPS = [1.8, 1.15, 0.8, 0.4];

/** Items by the return they had: plain figures, since a high return of few clicks is not yet a hot item. */
export function returnTiers(goal: number, windowDays = 90): ShelfSet {
  const cuts = RETURN_STEPS.map((step) => Math.round(goal * step * 100) / 100);
  const keys = ["hot", "warm", "mild", "cool", "cold"];
  const shelves = [...cuts, null].map((cut, i) => {
    const above = cuts[i - 1];
    const name =
      cut === null
        ? `Return under ${above}`
        : above === undefined
          ? `Return ${cut} and up`
          : `Return ${cut} to ${above}`;
    return {
      ...band(name, "roas", cut === null ? "any" : "above", cut === null ? null : at(cut), true),
      key: keys[i]!,
    };
  });
  return { ...readSet("return-tiers", "Return as it was", goal, shelves), windowDays };
}

/** Sets to start from, each with when it helps and when it hurts. Their numbers are house rules that anyone may change. */
export const READY_MADE: ReadyMade[] = [
  {
    ...{ key: STARTING_SET, name: "Return by chance", make: (goal) => returnByChance(goal) },
    about: "How sure is it that an item reaches the goal?",
    helps: "Bids and budgets by item: luck in few clicks doesn't make an item hot.",
    hurts: "New items stay unread for weeks; give them a campaign that pays for learning.",
    learning: "Five parts: pooled learning within each is still good where each gets some 30 orders a month.",
  },
  {
    ...{ key: "return-tiers", name: "Return as it was", make: (goal) => returnTiers(goal) },
    about: "Which return did items have?",
    helps: "Reporting, and items with hundreds of clicks, where the ratio is no longer luck.",
    hurts: "The top tier always looks better than what it goes on to earn: part of it was luck.",
    learning: "As by chance, but items change tiers more often, and each change starts learning anew.",
  },
  {
    key: "price-midpoint",
    name: "Price around the midpoint",
    make: (goal) =>
      blankSet(
        "price-midpoint",
        "Price around the midpoint",
        goal,
        [
          band("At the midpoint and up", "paid", "above", { by: "middle", of: "median", times: 1 }),
          band("Below the midpoint", "paid", "below", { by: "middle", of: "median", times: 1 }),
        ],
        "No price",
      ),
    about: "Dear and cheap items apart, cut at the median of the catalogue.",
    helps: "Where one bid must not serve a 3 euro packet and a 900 euro house.",
    hurts: "Where prices hardly differ there is nothing to divide.",
    learning: "Two parts: hardly any cost.",
  },
  {
    key: "price-quartiles",
    name: "Price by quartile",
    make: (goal) =>
      blankSet(
        "price-quartiles",
        "Price by quartile",
        goal,
        [
          band("Dearest quarter", "paid", "above", quartile(0.75)),
          band("Upper middle", "paid", "above", quartile(0.5)),
          band("Lower middle", "paid", "above", quartile(0.25)),
          band("Cheapest quarter", "paid", "any", null),
        ],
        "No price",
      ),
    about: "Four price bands with as many items each.",
    helps: "Bids in steps of what an order is worth.",
    hurts: "Bands move when the catalogue does; a margin set tells more where costs are known.",
    learning: "Four parts: check that each gets orders enough.",
  },
  {
    key: "store-best",
    name: "Store best and worst",
    make: (goal) =>
      blankSet(
        "store-best",
        "Store best and worst",
        goal,
        [
          band("Store best", "storeRevenue", "above", { by: "share", share: 0.1 }),
          rule("No store sales", all(is("storeOrders", "at-most", 0))),
        ],
        "Store middle",
      ),
    about: "What the whole shop sells most, with or without ads, and what it does not sell at all.",
    helps: "Finding what shoppers want before ads have told.",
    hurts: "Store sales are partly won by ads and by season; they are no proof that a click pays.",
    learning: "Three parts; the best have data of their own soon.",
  },
  {
    key: "ads-best",
    name: "Ads best and worst",
    make: (goal) =>
      readSet("ads-best", "Ads best and worst", goal, [
        band("Ads best", "revenue", "above", { by: "share", share: 0.1 }),
        band("Ads worst", "roas", "below", at(Math.round(goal * 0.4 * 100) / 100), true),
        band("Ads middle", "clicks", "above", at(1)),
      ]),
    about: "What ads sell most, and what they spend on in vain.",
    helps: "A campaign of its own for what carries the account.",
    hurts: "Best by sales isn't best by return: look at both shares.",
    learning: "Splitting the best off takes their data from the rest, which then learns slower.",
  },
  {
    key: "neglected",
    name: "Best in the store, neglected by ads",
    make: (goal) =>
      blankSet(
        "neglected",
        "Best in the store, neglected by ads",
        goal,
        [
          band("Neglected by ads", "storeGap", "above", { by: "share", share: 0.05 }),
          band("Takes more than it brings", "storeGap", "below", { by: "share", share: 0.05 }),
        ],
        "In step",
      ),
    about:
      "The twentieth of the items with the most store sales for their share of the spend, and the twentieth with the least.",
    helps: "The first place to put a euro more: demand is there already.",
    hurts:
      "Some sell so well because shoppers know them; ads may only pay for sales that come anyway. Watch store sales.",
    learning: "Neglected items have little ad data; let them learn in one campaign together.",
  },
  {
    key: "margin-tiers",
    name: "Margin tiers",
    make: (goal) =>
      blankSet(
        "margin-tiers",
        "Margin tiers",
        goal,
        [
          band("Margin 50 % and up", "margin", "above", at(0.5)),
          band("Margin 30 to 50 %", "margin", "above", at(0.3)),
          band("Margin 15 to 30 %", "margin", "above", at(0.15)),
          band("Margin under 15 %", "margin", "any", null),
        ],
        "No cost known",
      ),
    about: "What is left of a sale; each tier has a break-even return of its own.",
    helps: "Return goals by tier: 2 pays at half margin, 7 is needed at 15 %.",
    hurts: "Needs costs for most of the catalogue; items without one stand apart.",
    learning: "Four parts, each with its own goal; worth it where margins differ widely.",
  },
  {
    key: "newcomers",
    name: "Newcomers",
    make: (goal) =>
      blankSet(
        "newcomers",
        "Newcomers",
        goal,
        [
          band("New: up to 14 days", "age", "below", at(15)),
          band("Settling: 15 to 60 days", "age", "below", at(61)),
          rule("Never shown", all(is("impressions", "at-most", 0))),
        ],
        "Established",
      ),
    about: "Items by how long a reading has had them, and those that no ad ever showed.",
    helps: "A learning budget for what nobody knows yet, instead of a verdict without evidence.",
    hurts: "Age says nothing of worth; don't leave items here for long.",
    learning: "They learn from their like only while they are pooled with it: bid by category.",
  },
  {
    key: "proven",
    name: "Proven",
    make: (goal) =>
      blankSet(
        "proven",
        "Proven",
        goal,
        [
          band("Proven", "goodOrders", "above", at(3)),
          band("Proven as a family", "family:goodOrders", "above", at(3)),
          band("One or two orders", "orders", "above", at(1)),
        ],
        "No order yet",
      ),
    about: "Three profitable orders: one may be luck, two coincidence. Each against its own break-even.",
    helps: "Choosing what deserves a solo or a higher bid.",
    hurts: "Dear items need long to get three orders: by family they are proven sooner.",
    learning: "Moving proven items out leaves the catch-all poorer in data; keep the bid of the pool as a floor.",
  },
  {
    key: "stock-risk",
    name: "Stock risk",
    make: (goal) =>
      blankSet(
        "stock-risk",
        "Stock risk",
        goal,
        [
          rule("Sold out", all(is("availability", "is", "out of stock"))),
          band("Under 14 days of stock", "stockCover", "below", at(14)),
          band("Over 180 days of stock", "stockCover", "above", at(180)),
        ],
        "Enough stock",
      ),
    about: "Days until an item is sold out at today's pace of the shop.",
    helps: "Braking ads before the shelf is empty, and pushing what lies too long.",
    hurts: "The pace of a season's end or start misleads: look at the window.",
    learning: "Used for bids and pauses rather than for campaigns; then it costs nothing.",
  },
  {
    key: "season",
    name: "Season by pace",
    make: (goal) =>
      blankSet(
        "season",
        "Season by pace",
        goal,
        [
          band("Picking up", "pace", "above", at(1.3)),
          band("Steady", "pace", "above", at(0.75)),
          band("Fading", "pace", "any", null),
        ],
        "Too few store orders",
      ),
    about: "The shop's orders a day in the last quarter of the window against those before.",
    helps: "Moving budget ahead of a season; taking it from what fades.",
    hurts: "Small numbers jump about: use a long window, and families rather than items.",
    learning: "Items change shelf with the season by design; use it for budgets, not for structure.",
  },
  {
    key: "sold-out",
    name: "Sold out",
    make: (goal) =>
      blankSet(
        "sold-out",
        "Sold out",
        goal,
        [
          rule("Sold out, still paid for", all(is("availability", "is", "out of stock"), is("cost", "at-least", 1))),
          rule("Sold out", all(is("availability", "is", "out of stock"))),
          rule("On its way", {
            match: "any",
            of: [is("availability", "is", "preorder"), is("availability", "is", "backorder")],
          }),
        ],
        "In stock",
      ),
    about: "What can't be bought today, and what of it still costs money.",
    helps: "Stopping spend the same night.",
    hurts: "Nothing, as long as items come back by themselves when stock does.",
    learning: "None: the items go on with their history when they are back.",
  },
];
