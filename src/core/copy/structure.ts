import type { Planogram } from "../planogram/planogram";
import { copyOrigin, type CopyPlan } from "./copy-plan";

/**
 * The structure of a copy plan as a planogram of text campaigns: dividing the catalogue, naming, sharing out money and merging with
 * what is there are the same work.
 */
export function structureOf(plan: CopyPlan): Planogram {
  const ladder = [...plan.campaignsBy, ...plan.groupsBy].map((by) => ({ by, largest: null }));
  return {
    key: copyOrigin(plan.key),
    name: plan.name,
    ladder,
    campaignLine: plan.campaignsBy.length,
    adGroupLine: ladder.length,
    ...(plan.where && { where: plan.where }),
    inStockOnly: plan.inStockOnly,
    campaignName: plan.campaignName,
    adGroupName: plan.adGroupName,
    kind: "text",
    purpose: plan.purpose,
    bidding: "fixed",
    goal: plan.goal,
    totalBudget: plan.totalBudget,
    shareBy: plan.shareBy,
    startingBid: plan.startingBid,
    bidBy: plan.bidBy,
    serveOrder: plan.serveOrder,
    ...(plan.settings && { settings: plan.settings }),
    replaces: [],
  };
}
