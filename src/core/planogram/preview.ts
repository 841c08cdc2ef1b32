import type { Columns } from "../kit/columns";
import { columnLabel } from "../catalogue/catalogue-columns";
import { coverage } from "../kit/columns";
import { formatCount, plural } from "../kit/format";
import { CHANNEL_LIMITS } from "../account/channel-limits";
import { countProductGroups, plannedCampaigns, type PlannedCampaign } from "./planned-campaigns";
import { type LeftOut, type Plan } from "./plan";
import type { Planogram } from "./planogram";

export interface Rung {
  by: string;
  /** Items with a value, and distinct values, in the whole catalogue. */
  filled: number;
  distinct: number;
}

export interface PlanogramPreview {
  counts: { campaigns: number; adGroups: number; productGroups: number; items: number };
  /** Homes within this planogram alone, counted from the plan; `server/planogram/prove.ts` walks the account for them. */
  homes: { none: number; one: number; several: number };
  leaks: number;
  /** Items that the planogram leaves out on purpose, in all and by rule. */
  leftOut: number;
  leftOutBy: LeftOut[];
  rungs: Rung[];
  warnings: PlanWarning[];
  /** Days that spend, sales and orders are of. */
  days: number;
  campaigns: PlannedCampaign[];
}

/** Something to look at before a plan is made, with what would put it right where one change does. */
export interface PlanWarning {
  text: string;
  repair: { label: string; change: Partial<Planogram> } | null;
}

/** A campaign that can expect fewer orders a month than this learns nothing. */
export const LEAST_ORDERS = 3;

/** Orders a month that a group can expect, from what its items brought; null where no days are known. */
export function ordersAMonth({ orders }: { orders: number }, days: number): number | null {
  return days > 0 ? (orders / days) * 30 : null;
}

/** What would give thin campaigns enough: the values of the top split that bring enough, the rest in one; or fewer splits above the line. */
function repairThin(planogram: Planogram, campaigns: PlannedCampaign[], thin: number): PlanWarning["repair"] {
  const { campaignLine, ladder } = planogram;
  if (campaignLine > 1) {
    return { label: "Raise the campaign line", change: { campaignLine: campaignLine - 1 } };
  }
  const [top] = ladder;
  const enough = campaigns.length - thin;
  if (campaignLine === 0 || !top || top.values || enough < 1) return null;
  const largest = { count: enough, measure: "revenue" as const };
  return {
    label: `Keep the ${formatCount(enough)} with most sales, pool the rest`,
    change: { ladder: [{ ...top, largest, others: "pooled" }, ...ladder.slice(1)] },
  };
}

/** What a planogram would make, from its plan, which is a partition; tests hold its counts against a walk over its records. */
export function previewPlan(planogram: Planogram, plan: Plan, catalogue: Columns, days = 0): PlanogramPreview {
  const { campaigns, namesCut, namesNumbered } = plannedCampaigns(planogram, plan);
  const items = plan.home.length - plan.leftOut;
  const adGroups = campaigns.reduce((sum, campaign) => sum + campaign.adGroups.length, 0);
  const rungs = planogram.ladder.map((split) => ({ by: split.by, ...coverage(catalogue.columns[split.by]!) }));
  const warnings: PlanWarning[] = [];
  const warn = (text: string, repair: PlanWarning["repair"] = null) => warnings.push({ text, repair });
  const productGroups = countProductGroups(plan);
  if (items === 0) warn("No item is left after the filters, so nothing would be made.");
  const gaps = rungs.filter((rung) => rung.filled < catalogue.length);
  if (gaps.length > 0) {
    const list = gaps
      .map((rung) => `${formatCount(catalogue.length - rung.filled)} in ${columnLabel(rung.by)}`)
      .join(", ");
    warn(`Items without a value go to a branch of their own: ${list}.`);
  }
  if (campaigns.length > CHANNEL_LIMITS.campaigns) {
    warn(`The channel takes ${formatCount(CHANNEL_LIMITS.campaigns)} campaigns. Raise the campaign line.`);
  }
  const handSet = campaigns
    .filter(({ isSetByHand }) => isSetByHand)
    .reduce((sum, { dailyBudget }) => sum + dailyBudget, 0);
  if (handSet > planogram.totalBudget) {
    warn("The budgets set by hand alone are more than the total, so the other campaigns get nothing.");
  }
  if (campaigns.length > 0 && planogram.totalBudget / campaigns.length < CHANNEL_LIMITS.lowestDailyBudget) {
    warn("Shared out, some campaigns get less a day than the channel takes. Give more money or make fewer.");
  }
  const thin = campaigns.filter((campaign) => {
    const orders = ordersAMonth(campaign, days);
    return orders === null ? campaign.items < 3 : orders < LEAST_ORDERS;
  }).length;
  if (thin > 0 && campaigns.length > 1) {
    const what = days > 0 ? `can expect fewer than ${LEAST_ORDERS} orders a month` : "with fewer than three items";
    warn(
      `${plural(thin, "campaign")} ${what}: too little to learn from.`,
      days > 0 ? repairThin(planogram, campaigns, thin) : null,
    );
  }
  if (namesCut > 0) warn(`${plural(namesCut, "name")} cut to ${CHANNEL_LIMITS.nameLength} characters.`);
  if (namesNumbered > 0) warn(`${plural(namesNumbered, "name")} alike, so numbered.`);
  return {
    counts: { campaigns: campaigns.length, adGroups, productGroups, items },
    homes: { none: plan.leftOut, one: items, several: 0 },
    leaks: 0,
    leftOut: plan.leftOut,
    leftOutBy: plan.leftOutBy,
    rungs,
    warnings,
    days,
    campaigns,
  };
}
