import type { PlannedCampaign, PlannedGroup } from "@/core/planogram/planned-campaigns";

/** A campaign or ad group of a plan as its table shows it. */
export interface PlannedRow {
  group: PlannedGroup;
  /** The campaign itself, or null for an ad group. */
  campaign: PlannedCampaign | null;
  /** What its ad groups bid, or it does itself; mills a click. */
  bids: readonly number[];
  isOpen: boolean;
}

/** What the table of a plan can be sorted by. */
const SORTS: Record<string, (group: PlannedGroup & { dailyBudget?: number }) => number | string> = {
  name: ({ name }) => name.toLowerCase(),
  items: ({ items }) => items,
  groups: ({ productGroups }) => productGroups,
  revenue: ({ revenue }) => revenue,
  cost: ({ cost }) => cost,
  roas: ({ revenue, cost }) => (cost > 0 ? revenue / cost : -1),
  orders: ({ orders }) => orders,
  budget: ({ dailyBudget = 0 }) => dailyBudget,
};

function sorted<T extends PlannedGroup>(list: T[], sort: string): T[] {
  const by = SORTS[sort.replace(/^-/, "")];
  if (!by) return list;
  const sign = sort.startsWith("-") ? -1 : 1;
  return [...list].sort((a, b) => {
    const [x, y] = [by(a), by(b)];
    return sign * (typeof x === "string" ? x.localeCompare(y as string) : x - (y as number));
  });
}

/** The plan as rows from top to bottom. A search keeps campaigns with its words, and ad groups with the campaign above them, unfolded. */
export function plannedRows(
  campaigns: PlannedCampaign[],
  open: ReadonlySet<string>,
  q: string,
  sort: string,
): PlannedRow[] {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  const has = ({ name }: PlannedGroup) => words.every((word) => name.toLowerCase().includes(word));
  const rows: PlannedRow[] = [];
  for (const campaign of sorted(campaigns, sort)) {
    const isFound = words.length === 0 || has(campaign);
    const groups = isFound ? campaign.adGroups : campaign.adGroups.filter(has);
    if (!isFound && groups.length === 0) continue;
    const isOpen = open.has(campaign.key) || !isFound;
    rows.push({ group: campaign, campaign, bids: campaign.adGroups.map(({ bid }) => bid), isOpen });
    if (!isOpen) continue;
    for (const group of sorted(groups, sort)) rows.push({ group, campaign: null, bids: [group.bid], isOpen: false });
  }
  return rows;
}
