import type { Columns } from "../kit/columns";
import { columnLabel } from "../catalogue/catalogue-columns";
import { coverage } from "../kit/columns";
import { formatCount, plural } from "../kit/format";
import { CHANNEL_LIMITS } from "../channel/limits";
import { enoughWarnings, type PlanWarning } from "./enough";
import { Needs, someAims, type Aimed } from "./kinds/needs";
import { countProductGroups, plannedCampaigns, type PlannedCampaign, type PlannedGroup } from "./planned-campaigns";
import { variantsOf } from "./variants";
import { NO_VALUE_LABEL } from "../account/names";
import { ancestorAt, nodeLabel, nodePath, POOLED, type LeftOut, type Plan } from "./plan";
import type { Planogram } from "./planogram";
import { productName } from "./product-name";

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
  /**
   * To show names with, the way down the ladder that most items go: its values, top first, and what its items are called at
   * the campaign line and at the ad-group line.
   */
  example: { levels: string[]; products: [campaign: string, adGroup: string] };
  /** What the campaigns aim at in all, and some of it in words; of kinds that aim at nothing of their own 0 and none. */
  aims: { total: number; examples: string[] };
}

/** What a planogram would make, from its plan, which is a partition; tests hold its counts against a walk over its records. */
export function previewPlan(planogram: Planogram, plan: Plan, catalogue: Columns, days = 0): PlanogramPreview {
  const { campaigns, namesCut, namesNumbered } = plannedCampaigns(planogram, plan);
  const items = plan.home.length - plan.leftOut;
  const groups = campaigns.flatMap((campaign) => campaign.adGroups.map((group) => ({ group, campaign })));
  const rungs = planogram.ladder.map((split) => ({ by: split.by, ...coverage(catalogue.columns[split.by]!) }));
  const warnings: PlanWarning[] = [];
  const warn = (text: string, repair: PlanWarning["repair"] = null) => warnings.push({ text, repair });
  const productGroups = countProductGroups(plan) * variantsOf(planogram).length;
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
  warnings.push(...enoughWarnings(planogram, campaigns, days));
  const needs = new Needs(planogram, plan, catalogue);
  const aims = groups.reduce((sum, { group, campaign }) => sum + needs.count(group, campaign.variant), 0);
  const examples = someAims(planogram, plan, catalogue, campaigns, MOST_EXAMPLES);
  for (const text of aimlessWarnings(planogram, needs, groups)) warn(text);
  const planned = new Set(groups.flatMap(({ group, campaign }) => [group.key, campaign.key]));
  const left = Object.keys(planogram.each ?? {}).filter((key) => !planned.has(key)).length;
  if (left > 0)
    warn(
      `Settings of ${plural(left, "campaign or ad group", "campaigns or ad groups")} that the plan no longer makes.`,
    );
  if (namesCut > 0) warn(`${plural(namesCut, "name")} cut to ${CHANNEL_LIMITS.nameLength} characters.`);
  if (namesNumbered > 0) warn(`${plural(namesNumbered, "name")} alike, so numbered.`);
  return {
    counts: { campaigns: campaigns.length, adGroups: groups.length, productGroups, items },
    homes: { none: plan.leftOut, one: items, several: 0 },
    leaks: 0,
    leftOut: plan.leftOut,
    leftOutBy: plan.leftOutBy,
    rungs,
    warnings,
    days,
    campaigns,
    example: exampleOf(planogram, plan),
    aims: { total: aims, examples: [...new Set(examples.map(aimInWords))] },
  };
}

/** The way down to the largest of the deepest nodes, past what is pooled or has no value where it can. */
function exampleOf({ campaignLine, adGroupLine }: Planogram, plan: Plan): PlanogramPreview["example"] {
  const deepest = plan.levelStart.at(-2) ?? 0;
  let best = -1;
  for (let node = deepest; node < plan.parent.length; node++) {
    const isBetter = best < 0 || plan.items[node]! > plan.items[best]!;
    if (isBetter && plan.code[node] !== POOLED && nodeLabel(plan, node) !== NO_VALUE_LABEL) best = node;
  }
  if (best < 0) return { levels: [], products: ["", ""] };
  const productAt = (line: number) => productName(plan, ancestorAt(plan, best, line));
  return {
    levels: nodePath(plan, best).map((node) => nodeLabel(plan, node)),
    products: [productAt(campaignLine), productAt(adGroupLine)],
  };
}

/** Aims shown as examples. */
const MOST_EXAMPLES = 8;

function aimInWords(target: Aimed): string {
  if (target.type === "keyword") return target.text;
  const { aim } = target;
  return aim.by === "listing" ? aim.listing : `listings of ${aim.category}`;
}

/** What the patterns of a planned keyword campaign do not give. */
function aimlessWarnings(
  { keywords, kind }: Planogram,
  needs: Needs,
  groups: { group: PlannedGroup; campaign: PlannedCampaign }[],
): string[] {
  if (!keywords || (kind !== "keyword" && kind !== "text")) return [];
  const first = groups[0]?.campaign.variant;
  const made = groups
    .filter(({ campaign }) => campaign.variant === first)
    .map(({ group }) => needs.keywords(group.node, keywords));
  const without = made.filter(({ texts }) => texts.length === 0).length;
  const unfit = made.reduce((sum, one) => sum + one.unfit, 0);
  const seen = new Map<string, number>();
  for (const { texts } of made) for (const text of texts) seen.set(text, (seen.get(text) ?? 0) + 1);
  const shared = [...seen.values()].filter((count) => count > 1).length;
  const { keywordLength, keywordWords } = CHANNEL_LIMITS;
  return [
    ...(without > 0 ? [`${plural(without, "ad group")} without a keyword: no pattern has all its values there.`] : []),
    ...(unfit > 0
      ? [
          `${plural(unfit, "keyword")} left out: the channel takes ${keywordLength} characters and ${keywordWords} words.`,
        ]
      : []),
    ...(shared > 0
      ? [`${plural(shared, "keyword")} in several ad groups, which bid against each other: the higher bid serves.`]
      : []),
  ];
}
