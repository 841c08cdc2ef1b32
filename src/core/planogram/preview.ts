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
  warnings: string[];
  campaigns: PlannedCampaign[];
}

/** What a planogram would make, from its plan, which is a partition; tests hold its counts against a walk over its records. */
export function previewPlan(planogram: Planogram, plan: Plan, catalogue: Columns): PlanogramPreview {
  const { campaigns, namesCut, namesNumbered } = plannedCampaigns(planogram, plan);
  const items = plan.home.length - plan.leftOut;
  const adGroups = campaigns.reduce((sum, campaign) => sum + campaign.adGroups.length, 0);
  const rungs = planogram.ladder.map((split) => ({ by: split.by, ...coverage(catalogue.columns[split.by]!) }));
  const warnings: string[] = [];
  const productGroups = countProductGroups(plan);
  if (items === 0) warnings.push("No item is left after the filters, so nothing would be made.");
  const gaps = rungs.filter((rung) => rung.filled < catalogue.length);
  if (gaps.length > 0) {
    const list = gaps
      .map((rung) => `${formatCount(catalogue.length - rung.filled)} in ${columnLabel(rung.by)}`)
      .join(", ");
    warnings.push(`Items without a value go to a branch of their own: ${list}.`);
  }
  if (campaigns.length > CHANNEL_LIMITS.campaigns) {
    warnings.push(`The channel takes ${formatCount(CHANNEL_LIMITS.campaigns)} campaigns. Raise the campaign line.`);
  }
  const handSet = campaigns
    .filter(({ isSetByHand }) => isSetByHand)
    .reduce((sum, { dailyBudget }) => sum + dailyBudget, 0);
  if (handSet > planogram.totalBudget) {
    warnings.push("The budgets set by hand alone are more than the total, so the other campaigns get nothing.");
  }
  if (campaigns.length > 0 && planogram.totalBudget / campaigns.length < CHANNEL_LIMITS.lowestDailyBudget) {
    warnings.push("Shared out, some campaigns get less a day than the channel takes. Give more money or make fewer.");
  }
  const thin = campaigns.filter((campaign) => campaign.items < 3).length;
  if (thin > 0 && campaigns.length > 1) {
    warnings.push(
      `${plural(thin, "campaign")} with fewer than three items: too little to learn from. Consider pooling.`,
    );
  }
  if (namesCut > 0) warnings.push(`${plural(namesCut, "name")} cut to ${CHANNEL_LIMITS.nameLength} characters.`);
  if (namesNumbered > 0) warnings.push(`${plural(namesNumbered, "name")} alike, so numbered.`);
  return {
    counts: { campaigns: campaigns.length, adGroups, productGroups, items },
    homes: { none: plan.leftOut, one: items, several: 0 },
    leaks: 0,
    leftOut: plan.leftOut,
    leftOutBy: plan.leftOutBy,
    rungs,
    warnings,
    campaigns,
  };
}
