import { marginalShares } from "../budgets/marginal-shares";
import type { TextColumn } from "../kit/columns";
import { shareMoney } from "../kit/share-out";
import { renderName, settleNames, usesProduct, type NamePattern } from "./names";
import { ancestorAt, nodeColumn, nodeLabel, nodePath, nodesAt, POOLED, type Plan } from "./plan";
import { productName } from "./product-name";
import { variantInWords, variantKey, variantsOf, type Variant } from "./variants";
import { Ways } from "./ways";
import { worthBid } from "./worth-bid";
import type { Planogram } from "./planogram";
import { CHANNEL_LIMITS } from "../channel/limits";
import { shortKey } from "../account/keys";

/** The part of a key that one value of a split gives. */
export function pathSegment(by: string, value: string | null): string {
  return value === null ? `${by}~rest` : `${by}=${encodeURIComponent(value)}`;
}

/**
 * The value by which keys are made: the first name of one that was renamed since. Where the old name is in the catalogue
 * too, both are values of their own.
 */
export function keyValue({ renamed = [] }: Planogram, by: string, value: string, column: TextColumn): string {
  let first = value;
  for (const one of renamed.toReversed()) {
    if (one.by === by && one.to === first && !presentIn(column).has(one.from)) first = one.from;
  }
  return first;
}

const present = new WeakMap<TextColumn, Set<string>>();

function presentIn(column: TextColumn): Set<string> {
  let found = present.get(column);
  if (!found) {
    const codes = new Set(column.codes);
    found = new Set(column.values.filter((_, code) => codes.has(code)));
    present.set(column, found);
  }
  return found;
}

/** The key part that a node's path of values gives, the same in every run. */
export function nodeKey(planogram: Planogram, plan: Plan, node: number): string {
  const segments = nodePath(plan, node).map((at) => {
    const { by, othersBy = "" } = planogram.ladder[plan.level[at]! - 1]!;
    const code = plan.code[at]!;
    if (code === POOLED) return pathSegment(by, null);
    const column = nodeColumn(plan, at);
    const field = plan.isOther[at] ? othersBy : by;
    const own = pathSegment(field, keyValue(planogram, field, column.values[code]!, column));
    return plan.isOther[at] ? `${pathSegment(by, null)}/${own}` : own;
  });
  return shortKey([planogram.key, ...segments].join("/"));
}

/** A campaign or ad group as planned, before it is a record. */
export interface PlannedGroup {
  key: string;
  name: string;
  /** Node of the plan, or -1 when the line lies above the first split. */
  node: number;
  /** Its own value in its split; null for the whole and for what is pooled. */
  value: string | null;
  items: number;
  /** Units that it forms. */
  productGroups: number;
  /** What its items brought over the measured days, wherever they were served; money in mills. */
  cost: number;
  revenue: number;
  orders: number;
}

export interface PlannedCampaign extends PlannedGroup {
  /** The match type or reach that it is for; null where it is for all. */
  variant: Variant | null;
  /** Mills a day. */
  dailyBudget: number;
  /** Whether a person set the budget; the others share what is left of the total. */
  isSetByHand: boolean;
  adGroups: PlannedAdGroup[];
}

/** An ad group as planned, with what it bids: as somebody set it for it or its campaign, else as the plan has it. */
export interface PlannedAdGroup extends PlannedGroup {
  /** Mills a click. */
  bid: number;
}

/** The campaigns and ad groups of a plan with names and budgets; product groups are left to {@link materialise}. */
export function plannedCampaigns(
  planogram: Planogram,
  plan: Plan,
): { campaigns: PlannedCampaign[]; namesCut: number; namesNumbered: number } {
  const { campaignLine, adGroupLine } = planogram;
  const campaignNodes = nodesAt(plan, campaignLine);
  const childrenOf = new Map<number, number[]>();
  for (const node of nodesAt(plan, adGroupLine)) {
    const campaign = ancestorAt(plan, node, campaignLine);
    const list = childrenOf.get(campaign);
    if (list) list.push(node);
    else childrenOf.set(campaign, [node]);
  }
  const [unitsOfCampaign, unitsOfGroup] = [productGroupsAt(plan, campaignLine), productGroupsAt(plan, adGroupLine)];
  const labelsOf = (node: number) => nodePath(plan, node).map((at) => nodeLabel(plan, at));
  const nameOf = (pattern: NamePattern, node: number, match: string, campaign: string, number: number) =>
    renderName(pattern, {
      levels: labelsOf(node),
      product: (usesProduct(pattern) && productName(plan, node)) || (node < 0 ? "" : nodeLabel(plan, node)),
      purpose: planogram.purpose,
      kind: planogram.kind ?? "feed",
      firstDay: planogram.settings?.startsOn ?? "",
      match,
      planogram: planogram.name,
      campaign,
      number,
    });
  // Written out field by field: plans of a catalogue's items make hundreds of thousands of these.
  const groupAt = (node: number, key: string, name: string, productGroups: number): PlannedGroup => {
    const { items, cost, revenue, orders } = sumsAt(plan, node);
    return { key, name, node, value: valueOf(plan, node), items, productGroups, cost, revenue, orders };
  };
  const variants = variantsOf(planogram);
  const made = campaignNodes.flatMap((node) =>
    variants.map((variant) => ({ node, variant, match: variantInWords(variant) })),
  );
  const campaignNames = settleNames(
    made.map(({ node, match }, i) => nameOf(planogram.campaignName, node, match, "", i + 1)),
  );
  const keyOf = (node: number, variant: Variant | null) =>
    `${nodeKey(planogram, plan, node)}${variant === null ? "" : `~${variantKey(planogram, variant)}`}`;
  const keys = made.map(({ node, variant }) => `c:${keyOf(node, variant)}`);
  const weights = shareWeights(
    planogram,
    plan,
    made.map(({ node }) => node),
  );
  const budgets = sharedBudgets(planogram, keys, weights);
  let namesCut = campaignNames.cut;
  let namesNumbered = campaignNames.numbered;
  const campaigns = made.map(({ node, variant, match }, i) => {
    const name = campaignNames.names[i]!;
    const groupNodes = childrenOf.get(node) ?? [];
    const groupNames = settleNames(
      groupNodes.map((group, j) => nameOf(planogram.adGroupName, group, match, name, j + 1)),
    );
    namesCut += groupNames.cut;
    namesNumbered += groupNames.numbered;
    const key = keys[i]!;
    return {
      ...groupAt(node, key, name, unitsOfCampaign.get(node) ?? 0),
      variant,
      dailyBudget: budgets[i]!,
      isSetByHand: planogram.budgets?.[key] !== undefined,
      adGroups: groupNodes.map((group, j) => {
        const made = groupAt(group, `g:${keyOf(group, variant)}`, groupNames.names[j]!, unitsOfGroup.get(group) ?? 0);
        return { ...made, bid: plannedBid(planogram, plan, group, made.key, key) };
      }),
    };
  });
  return { campaigns, namesCut, namesNumbered };
}

function plannedBid(planogram: Planogram, plan: Plan, node: number, adGroup: string, campaign: string): number {
  const { each, bidBy, goal, startingBid } = planogram;
  const own = each?.[adGroup]?.startingBid ?? each?.[campaign]?.startingBid;
  if (own !== undefined || bidBy !== "worth" || goal === null) return own ?? startingBid;
  return worthBid(node < 0 ? plan.worthOfAll : plan.worth[node]!, goal, startingBid);
}

function valueOf(plan: Plan, node: number): string | null {
  if (node < 0 || plan.code[node] === POOLED) return null;
  return nodeColumn(plan, node).values[plan.code[node]!]!;
}

/** The budgets of campaigns, mills a day: those set by hand as they are, the others by their weights, so that all add up to the total where it reaches. */
function sharedBudgets({ totalBudget, shareBy, budgets = {} }: Planogram, keys: string[], weights: number[]): number[] {
  const free = keys.filter((key) => budgets[key] === undefined).length;
  const taken = keys.reduce((sum, key) => sum + (budgets[key] ?? 0), 0);
  const left = Math.max(0, totalBudget - taken);
  // Shares that a person set are meant as they are.
  const floor = shareBy === "shares" ? 0 : CHANNEL_LIMITS.lowestDailyBudget;
  const least = Math.min(floor, Math.floor(left / Math.max(1, free)));
  const shared = shareMoney(
    left,
    weights.filter((_, i) => budgets[keys[i]!] === undefined),
    least,
  );
  let next = 0;
  return keys.map((key) => budgets[key] ?? shared[next++]!);
}

function shareWeights({ shareBy, shares = [1] }: Planogram, plan: Plan, nodes: number[]): number[] {
  if (shareBy === "evenly") return nodes.map(() => 1);
  if (shareBy === "shares") return nodes.map((_, i) => shares[Math.min(i, shares.length - 1)]!);
  const sums = nodes.map((node) => sumsAt(plan, node));
  return shareBy === "marginal" ? marginalShares(sums) : sums.map((one) => one[shareBy]);
}

function sumsAt(plan: Plan, node: number) {
  if (node >= 0) {
    return {
      items: plan.items[node]!,
      cost: plan.cost[node]!,
      revenue: plan.revenue[node]!,
      orders: plan.orders[node]!,
    };
  }
  const total = { items: 0, cost: 0, revenue: 0, orders: 0 };
  for (let top = 0; top < plan.levelStart[1]!; top++) {
    total.items += plan.items[top]!;
    total.cost += plan.cost[top]!;
    total.revenue += plan.revenue[top]!;
    total.orders += plan.orders[top]!;
  }
  return total;
}

/**
 * How many product groups (units) each node of a level forms: the distinct paths of values down the whole ladder. Values
 * are named one by one, so a pooled branch forms as many as it pools.
 */
export function productGroupsAt(plan: Plan, level: number): Map<number, number> {
  const counts = new Map<number, number>();
  const add = (node: number) => counts.set(node, (counts.get(node) ?? 0) + 1);
  const deepest = plan.columns.length;
  if (plan.pooled.every((pool) => pool === null)) {
    for (let node = plan.levelStart[deepest - 1]!; node < plan.levelStart[deepest]!; node++) {
      add(ancestorAt(plan, node, level));
    }
    return counts;
  }
  const ways = new Ways(plan);
  const ends = new Set<number>();
  for (let row = 0; row < plan.home.length; row++) {
    if (plan.home[row]! < 0) continue;
    const end = ways.add(row);
    if (ends.has(end)) continue;
    ends.add(end);
    add(ancestorAt(plan, plan.home[row]!, level));
  }
  return counts;
}

/** How many product groups (units) the plan forms in all. */
export function countProductGroups(plan: Plan): number {
  return productGroupsAt(plan, 0).get(-1) ?? 0;
}
