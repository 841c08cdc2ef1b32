import type { AccountRecord } from "../account/records";
import { labelsKey, planLabels, shelfColumn, shelfSetOf, TAKEN, type Labels } from "../account/records/labels";
import type { Columns } from "../kit/columns";
import { addProductGroups } from "./kinds/feed";
import { Needs } from "./kinds/needs";
import type { Plan } from "./plan";
import { plannedCampaigns } from "./planned-campaigns";
import { ladderFields, type Planogram } from "./planogram";

/** Records by key. */
export type PlannedRecords = Map<string, AccountRecord>;

/**
 * The records a plan stands for: campaigns, ad groups with what their kind needs, their product-group trees with every
 * remainder closed, and the labels of the shelf sets it splits by.
 */
export function plannedRecords(planogram: Planogram, plan: Plan, catalogue: Columns): PlannedRecords {
  const { records, adGroups } = plannedFrame(planogram, plan, catalogue);
  for (const keys of adGroups) addProductGroups(records, planogram, plan, keys);
  return records;
}

/** The records of a plan without its product groups, and the keys of its ad groups by node, once a match type or reach. */
export function plannedFrame(
  planogram: Planogram,
  plan: Plan,
  catalogue: Columns,
): { records: PlannedRecords; adGroups: Map<number, string>[] } {
  const records: PlannedRecords = new Map();
  const { campaigns } = plannedCampaigns(planogram, plan);
  const adGroups = new Map<string | null, Map<number, string>>();
  const needs = new Needs(planogram, plan, catalogue);
  for (const campaign of campaigns) {
    const { startingBid: _, ...own } = planogram.each?.[campaign.key] ?? {};
    records.set(campaign.key, {
      type: "campaign",
      key: campaign.key,
      name: campaign.name,
      kind: planogram.kind ?? "feed",
      purpose: planogram.purpose,
      bidding: planogram.bidding,
      goal: planogram.goal,
      dailyBudget: campaign.dailyBudget,
      status: "on",
      serveOrder: planogram.serveOrder,
      inStockOnly: planogram.inStockOnly,
      origin: planogram.key,
      ...planogram.settings,
      ...own,
    });
    const keys = adGroups.get(campaign.variant) ?? new Map<number, string>();
    adGroups.set(campaign.variant, keys);
    for (const group of campaign.adGroups) {
      keys.set(group.node, group.key);
      records.set(group.key, {
        type: "adGroup",
        key: group.key,
        campaign: campaign.key,
        name: group.name,
        status: "on",
        bid: group.bid,
      });
      for (const record of needs.of(group, campaign.variant)) records.set(record.key, record);
    }
  }
  for (const field of ladderFields(planogram)) {
    const shelfSet = shelfSetOf(field);
    if (shelfSet !== null) addLabels(records, shelfSet, catalogue);
  }
  if (plan.wanted) addFilterLabels(records, planogram, plan.wanted, catalogue);
  return { records, adGroups: [...adGroups.values()] };
}

/** The label that tells the items of a planogram's filter, sold-out ones too: they come back with their stock. */
function addFilterLabels(
  records: PlannedRecords,
  { key, name }: Planogram,
  wanted: Uint8Array,
  catalogue: Columns,
): void {
  const itemNos = catalogue.columns["itemNo"];
  if (itemNos?.kind !== "number") return;
  const shelfSet = planLabels(key);
  const items = [...itemNos.values].filter((_, row) => wanted[row] === 1).sort((a, b) => a - b);
  const label = labelsKey(shelfSet, TAKEN);
  records.set(label, { type: "labels", key: label, shelfSet, shelf: TAKEN, name: `taken by ${name}`, items });
}

function addLabels(records: PlannedRecords, shelfSet: string, catalogue: Columns): void {
  const column = catalogue.columns[shelfColumn(shelfSet)];
  const itemNos = catalogue.columns["itemNo"];
  if (column?.kind !== "text" || itemNos?.kind !== "number") return;
  const byShelf = new Map<number, Labels>();
  for (let row = 0; row < catalogue.length; row++) {
    const code = column.codes[row]!;
    if (code === 0) continue;
    let labels = byShelf.get(code);
    if (!labels) {
      const shelf = column.values[code]!;
      const name = column.labels?.[code];
      labels = { type: "labels", key: labelsKey(shelfSet, shelf), shelfSet, shelf, items: [] };
      if (name !== undefined && name !== shelf) labels.name = name;
      byShelf.set(code, labels);
    }
    labels.items.push(itemNos.values[row]!);
  }
  for (const labels of byShelf.values()) {
    labels.items.sort((a, b) => a - b);
    records.set(labels.key, labels);
  }
}
