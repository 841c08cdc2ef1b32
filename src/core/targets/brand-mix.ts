import { campaignNamed } from "../account/own-tree";
import { Draft } from "../account/draft";
import type { Keyword } from "../account/records/keyword";
import { comparedWords } from "../channel/matching";
import { plural } from "../kit/format";
import { formatMoney, wholeCents } from "../kit/money";
import type { Ground } from "../moves/ground";
import { NOTHING_EXPECTED, type Move } from "../moves/move";
import { NOTHING_SEEN, ownLines } from "./target-bids";

/** Clicks of a campaign before anything is said. */
const LEAST_CLICKS = 20;
/** Parts of a campaign's money at least that each side keeps. */
const LEAST_SHARE = 0.1;

/**
 * Keywords with a brand of one's own that share a campaign with generic ones: who searches for the brand buys anyway, so their good
 * figures hide what the others cost, and both draw on one budget. They go into a campaign of their own, and their brands are kept out
 * of the other; what may be spent in all stays.
 */
export function splitBrands(ground: Ground): Move[] {
  const { account } = ground;
  const byCampaign = new Map<string, Keyword[]>();
  for (const keyword of account.all("keyword")) {
    const campaign = account.find("adGroup", keyword.adGroup)?.campaign;
    if (keyword.status === "on" && campaign) byCampaign.set(campaign, [...(byCampaign.get(campaign) ?? []), keyword]);
  }
  const lines = ownLines(ground);
  const draft = new Draft(account);
  return [...byCampaign].flatMap(([key, keywords]): Move[] => {
    const campaign = account.find("campaign", key);
    if (!campaign || campaign.status !== "on" || campaign.kind !== "keyword" || campaign.pool) return [];
    const own = keywords.filter(({ text }) => ground.isOwnBrand(text));
    const generic = keywords.filter((keyword) => !own.includes(keyword));
    const sums = (list: readonly Keyword[]) =>
      list.reduce(
        (sum, keyword) => {
          const { clicks, cost, orders, revenue } = lines.get(keyword.key) ?? NOTHING_SEEN;
          return {
            clicks: sum.clicks + clicks,
            cost: sum.cost + cost,
            orders: sum.orders + orders,
            revenue: sum.revenue + revenue,
          };
        },
        { clicks: 0, cost: 0, orders: 0, revenue: 0 },
      );
    const [brand, others] = [sums(own), sums(generic)];
    const name = `${campaign.name} · own brand`.slice(0, 110);
    const clicks = brand.clicks + others.clicks;
    if (own.length === 0 || generic.length === 0 || clicks < LEAST_CLICKS || campaignNamed(draft, name)) return [];
    const share = Math.min(1 - LEAST_SHARE, Math.max(LEAST_SHARE, brand.cost / Math.max(1, brand.cost + others.cost)));
    const theirs = wholeCents(campaign.dailyBudget * share);
    const words = [
      ...new Set(own.flatMap(({ text }) => comparedWords(text).filter((word) => ground.isOwnBrand(word)))),
    ];
    const money = (mills: number) => formatMoney(mills, ground.currency);
    const told = ({ cost, revenue }: typeof brand) => `${money(revenue)} for ${money(cost)}`;
    return [
      {
        ...{ key: `brand-mix/${key}`, proposer: "brand-mix", about: campaign.name, campaign: key },
        what: `${plural(own.length, "keyword")} with your own brands into a campaign of their own, kept out of this one`,
        why: `Own brands brought ${told(brand)}, the others ${told(others)}; together one hides the other`,
        acts: [
          { action: "move-target", keys: own.map((keyword) => keyword.key), name, dailyBudget: theirs },
          { action: "amounts", of: "budget", amounts: [{ key, mills: campaign.dailyBudget - theirs }] },
          ...(words.length === 0
            ? []
            : [
                {
                  ...{ action: "keep-out" as const, scope: key, reason: "off-topic" as const, reviewOn: null },
                  values: words.map((value) => ({ what: "term" as const, match: "phrase" as const, value })),
                },
              ]),
        ],
        ...{ amount: null, limitedBy: null, rows: [] },
        stands: { clicks, orders: brand.orders + others.orders },
        // What it is for is to see and to steer; what that brings nothing tells yet.
        expected: NOTHING_EXPECTED,
        touches: [...own.map((keyword) => keyword.key), `${key}/budget`],
      },
    ];
  });
}
