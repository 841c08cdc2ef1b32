import { shortKey } from "../account/keys";
import { assetsKey } from "../account/records/assets";
import { REACH_KINDS } from "../account/records/reach";
import type { Structure } from "../account/account";
import { labelsKey, planLabels, shelfColumn, shelfSetOf, TAKEN, type Labels } from "../account/records/labels";
import type { Columns } from "../kit/columns";
import { addProductGroups } from "./kinds/feed";
import type { Plan } from "./plan";
import { plannedCampaigns } from "./planned-campaigns";
import type { Planogram } from "./planogram";

/**
 * The records a plan stands for: campaigns, ad groups, their product-group trees with every remainder closed, and the
 * labels of the shelf sets it splits by.
 */
export function plannedRecords(planogram: Planogram, plan: Plan, catalogue: Columns): Structure {
  const structure: Structure = {};
  const { campaigns } = plannedCampaigns(planogram, plan);
  const adGroupKeys = new Map<number, string>();
  for (const campaign of campaigns) {
    structure[campaign.key] = {
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
    };
    for (const group of campaign.adGroups) {
      adGroupKeys.set(group.node, group.key);
      structure[group.key] = {
        type: "adGroup",
        key: group.key,
        campaign: campaign.key,
        name: group.name,
        status: "on",
        bid: planogram.startingBid,
      };
      addNeeds(structure, planogram, group.key);
    }
  }
  addProductGroups(structure, planogram, plan, adGroupKeys);
  for (const split of planogram.ladder) {
    const shelfSet = shelfSetOf(split.by);
    if (shelfSet !== null) addLabels(structure, shelfSet, catalogue);
  }
  if (plan.wanted) addFilterLabels(structure, planogram, plan.wanted, catalogue);
  return structure;
}

/** What an ad group of its kind needs beside its items: assets, or kinds of reach. */
function addNeeds(structure: Structure, { kind, assets, reach = [...REACH_KINDS] }: Planogram, adGroup: string): void {
  if (kind === "asset" && assets) {
    const key = assetsKey(adGroup);
    structure[key] = { ...assets, type: "assets", key, adGroup };
  }
  if (kind !== "discovery") return;
  for (const one of reach) {
    const key = shortKey(`r:${adGroup.slice(2)}/${one}`);
    structure[key] = { type: "reach", key, adGroup, kind: one, status: "on", bid: null };
  }
}

/** The label that tells the items of a planogram's filter, sold-out ones too: they come back with their stock. */
function addFilterLabels(structure: Structure, { key, name }: Planogram, wanted: Uint8Array, catalogue: Columns): void {
  const itemNos = catalogue.columns["itemNo"];
  if (itemNos?.kind !== "number") return;
  const shelfSet = planLabels(key);
  const items = [...itemNos.values].filter((_, row) => wanted[row] === 1).sort((a, b) => a - b);
  const label = labelsKey(shelfSet, TAKEN);
  structure[label] = { type: "labels", key: label, shelfSet, shelf: TAKEN, name: `taken by ${name}`, items };
}

function addLabels(structure: Structure, shelfSet: string, catalogue: Columns): void {
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
    structure[labels.key] = labels;
  }
}
