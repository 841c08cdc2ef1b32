import { z } from "zod";

/** A number that proposals go by. */
interface Rule {
  label: string;
  /** What the number is of, as it is shown behind it. */
  unit: "percent" | "clicks" | "times" | "orders" | "days" | "items" | "keywords" | "cents";
  preset: number;
  least: number;
  most: number;
  isWhole?: true;
  /** Why this number, and what another one would do. */
  reason: string;
}

/**
 * Every number that a proposal goes by, in one table: a proposer has none of its own. Practitioners disagree about them, so a
 * workspace sets each; what stands here is what did well in worlds that differ (`npm run bench -- --only=decisions`).
 */
export const HOUSE_RULES = {
  caution: {
    ...{
      label: "Share of a click’s worth that is bid",
      unit: "percent",
      preset: 80,
      least: 20,
      most: 120,
      isWhole: true,
    },
    reason: "Part of what looks good was luck, and at higher bids more of one’s own ads meet. More buys dearer clicks.",
  },
  newShare: {
    ...{
      label: "Share of ad orders that would not have come anyway",
      unit: "percent",
      preset: 75,
      least: 10,
      most: 100,
      isWhole: true,
    },
    reason:
      "Reports count every order after a click. Some of those people would have bought without it; only days, places or items without ads tell how many.",
  },
  largestStep: {
    ...{ label: "Largest step of a bid", unit: "percent", preset: 100, least: 5, most: 400, isWhole: true },
    reason:
      "A bid goes up by this at most, and down as far the other way: 100 % is from half to double. Smaller steps are safer and later.",
  },
  floorBid: {
    ...{ label: "Lowest bid", unit: "cents", preset: 1, least: 1, most: 1_000, isWhole: true },
    reason: "Below it a bid wins nothing and only looks as if it was set. A pause says the same more clearly.",
  },
  ceilingBid: {
    ...{ label: "Highest bid", unit: "cents", preset: 500, least: 5, most: 5_000, isWhole: true },
    reason:
      "No proposal goes beyond it, whatever the evidence says: a slip in costs or a lucky order costs no fortune.",
  },
  lowStep: {
    ...{
      label: "Step above the rate card’s low for a low entry",
      unit: "cents",
      preset: 1,
      least: 0,
      most: 50,
      isWhole: true,
    },
    reason: "Just enough to win the cheapest auctions, without the price of the usual ones.",
  },
  pushTimes: {
    ...{ label: "A push over the rate card’s typical price", unit: "times", preset: 2.5, least: 1, most: 5 },
    reason: "Enough to be seen in most auctions for the days of the push; longer than that it is only dear.",
  },
  patience: {
    ...{
      label: "Days before the same thing is moved again",
      unit: "days",
      preset: 7,
      least: 0,
      most: 90,
      isWhole: true,
    },
    reason: "A bid, factor or pause needs days to show what it does. What waits in the basket is not moved either.",
  },
  leastChange: {
    ...{ label: "Least change of a bid", unit: "percent", preset: 8, least: 0, most: 50, isWhole: true },
    reason: "Less than this is within what nobody knows; it would only hide what a bid brings.",
  },
  liftFrom: {
    ...{
      label: "Clicks from which an item gets a bid of its own",
      unit: "clicks",
      preset: 5,
      least: 0,
      most: 1000,
      isWhole: true,
    },
    reason: "In a group of many, what hardly anybody clicked shares a bid by what its kind is worth.",
  },
  covered: {
    ...{
      label: "Share of items served elsewhere too, from which a campaign is in the way",
      unit: "percent",
      preset: 90,
      least: 50,
      most: 100,
      isWhole: true,
    },
    reason:
      "Two campaigns for the same items bid twice for one place, and the one that serves first is not the better one.",
  },
  placeClicks: {
    ...{
      label: "Clicks at a term or page from which it is aimed at by name",
      unit: "clicks",
      preset: 12,
      least: 1,
      most: 1000,
      isWhole: true,
    },
    reason: "By name it can bid what clicks there are worth; with fewer clicks nobody knows what that is.",
  },
  placeItems: {
    ...{
      label: "Items shown at a term or page aimed at by name",
      unit: "items",
      preset: 4,
      least: 1,
      most: 50,
      isWhole: true,
    },
    reason: "The best of it; more of them only stand in each other’s way.",
  },
  keywordsACampaign: {
    ...{ label: "Keywords in a campaign of a launch", unit: "keywords", preset: 5, least: 1, most: 100, isWhole: true },
    reason:
      "In a campaign of many keywords one takes the money while the others starve; a few can be judged and priced.",
  },
  harvestOrders: {
    ...{
      label: "Orders from which a term or page is harvested",
      unit: "orders",
      preset: 2,
      least: 1,
      most: 50,
      isWhole: true,
    },
    reason: "One order can be luck; with two on the same term hardly any is. More waits longer and is surer still.",
  },
  placeApart: {
    ...{
      label: "How far a click there must be from the usual worth",
      unit: "percent",
      preset: 20,
      least: 0,
      most: 200,
      isWhole: true,
    },
    reason: "What is worth as much as elsewhere needs no bid of its own.",
  },
  placePatience: {
    ...{ label: "Usual orders laid beside those of a term or page", unit: "orders", preset: 3, least: 0, most: 50 },
    reason: "So many orders at the usual rate are added to what was seen, so that two lucky orders don’t make a place.",
  },
  brandNew: {
    ...{
      label: "Share of orders by one’s own brand that would not have come anyway",
      unit: "percent",
      preset: 50,
      least: 0,
      most: 100,
      isWhole: true,
    },
    reason:
      "Who types a brand’s name often buys without an ad. Reports count such orders in full; a fortnight without ads there tells.",
  },
  slotPatience: {
    ...{ label: "Usual orders laid beside those of a slot or hour", unit: "orders", preset: 10, least: 0, most: 200 },
    reason: "The same for slots and hours, which differ less than terms do.",
  },
  mostFactor: {
    ...{ label: "Largest factor of a slot or hour", unit: "times", preset: 3, least: 1, most: 10 },
    reason: "Bids are multiplied with both; what is far out is rarely as far as it looks.",
  },
  falseAlarms: {
    ...{ label: "False alarms among what is kept out", unit: "percent", preset: 10, least: 1, most: 50, isWhole: true },
    reason:
      "Of all terms, pages and items that are proposed to be kept out so many may be ones that had no luck (Benjamini and Hochberg).",
  },
  pageClicks: {
    ...{
      label: "Clicks from which an item that few buy needs work on its page",
      unit: "clicks",
      preset: 60,
      least: 10,
      most: 5_000,
      isWhole: true,
    },
    reason:
      "People came and did not buy: with fewer clicks that is chance, and a lower bid would hide what is wrong with the page.",
  },
  dryDays: {
    ...{
      label: "Days of the last seven without money from which a campaign counts as dry",
      unit: "days",
      preset: 3,
      least: 1,
      most: 7,
      isWhole: true,
    },
    reason: "One dry day is chance or a holiday; several say that its money does not fit its bids.",
  },
  spareMoney: {
    ...{
      label: "What a campaign keeps over a full day’s cost before it gives money away",
      unit: "percent",
      preset: 30,
      least: 0,
      most: 300,
      isWhole: true,
    },
    reason: "Busy days cost more than usual ones; what lies beyond that is never spent, and may be used elsewhere.",
  },
  pace: {
    ...{
      label: "How much of a gap between money and a full day is closed a week",
      unit: "percent",
      preset: 70,
      least: 10,
      most: 100,
      isWhole: true,
    },
    reason: "Where money is gone before the evening bids come down so far that it lasts; all at once overshoots.",
  },
} as const satisfies Record<string, Rule>;

export type RuleKey = keyof typeof HOUSE_RULES;
export const RULE_KEYS = Object.keys(HOUSE_RULES) as RuleKey[];

/** A number for each rule. */
export type HouseRules = Record<RuleKey, number>;

export const PRESET_RULES: HouseRules = Object.fromEntries(
  RULE_KEYS.map((key) => [key, HOUSE_RULES[key].preset]),
) as HouseRules;

/** The number of one rule, within what it may be. */
export function ruleSchema(key: RuleKey): z.ZodType<number> {
  const { least, most, ...rule }: Rule = HOUSE_RULES[key];
  const number = rule.isWhole ? z.int("A whole number.") : z.number();
  return number.min(least, `At least ${least}.`).max(most, `At most ${most}.`);
}
