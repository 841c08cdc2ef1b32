import { formatCount, plural } from "../kit/format";
import type { PlannedCampaign, PlannedGroup } from "./planned-campaigns";
import type { Planogram } from "./planogram";

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

/** Orders a month from which a group can be steered by itself. */
const PLENTY_ORDERS = 20;
/** A return below this share of the goal is poor. */
const POOR = 0.6;
/** Groups named in a warning. */
const MOST_NAMED = 3;

/** Whether planned campaigns can learn: what is too thin to, and what has plenty at a poor return and stands among others. */
export function enoughWarnings(planogram: Planogram, campaigns: PlannedCampaign[], days: number): PlanWarning[] {
  const warnings: PlanWarning[] = [];
  const thin = campaigns.filter((campaign) => {
    const orders = ordersAMonth(campaign, days);
    return orders === null ? campaign.items < 3 : orders < LEAST_ORDERS;
  }).length;
  if (thin > 0 && campaigns.length > 1) {
    const what = days > 0 ? `can expect fewer than ${LEAST_ORDERS} orders a month` : "with fewer than three items";
    warnings.push({
      text: `${plural(thin, "campaign")} ${what}: too little to learn from.`,
      repair: days > 0 ? repairThin(planogram, campaigns, thin) : null,
    });
  }
  const poor = days > 0 ? poorGroups(planogram, campaigns, days) : [];
  if (poor.length > 0) {
    const named = poor
      .slice(0, MOST_NAMED)
      .map(({ name, revenue, cost }) => `${name} (${(revenue / cost).toFixed(2)})`);
    const more = poor.length > MOST_NAMED ? ` and ${poor.length - MOST_NAMED} more` : "";
    const verb = poor.length === 1 ? "has" : "have";
    warnings.push({
      text: `${named.join(", ")}${more} ${verb} plenty of orders at a return far below the goal of ${planogram.goal}, among groups that do better.`,
      repair: repairPoor(planogram, poor),
    });
  }
  return warnings;
}

/** Ad groups with plenty of orders and a poor return that share a campaign with others. */
function poorGroups({ goal }: Planogram, campaigns: PlannedCampaign[], days: number): PlannedGroup[] {
  if (goal === null) return [];
  return campaigns.flatMap(({ adGroups }) =>
    adGroups.length < 2
      ? []
      : adGroups.filter(
          (group) =>
            (ordersAMonth(group, days) ?? 0) >= PLENTY_ORDERS &&
            group.cost > 0 &&
            group.revenue / group.cost < POOR * goal,
        ),
  );
}

/** Takes poor values out of the one campaign for everything into campaigns of their own, the others pooled in one. */
function repairPoor({ campaignLine, adGroupLine, ladder }: Planogram, poor: PlannedGroup[]): PlanWarning["repair"] {
  const [top] = ladder;
  if (campaignLine !== 0 || adGroupLine !== 1 || !top || top.values || top.largest) return null;
  const values = poor.flatMap(({ value }) => (value === null ? [] : [value]));
  if (values.length === 0 || values.length < poor.length) return null;
  return {
    label: values.length === 1 ? "Give it a campaign of its own" : "Give each a campaign of its own",
    change: { campaignLine: 1, adGroupLine: 1, ladder: [{ ...top, values, others: "pooled" }, ...ladder.slice(1)] },
  };
}
