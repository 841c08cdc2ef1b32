import { groupBy } from "../kit/group-by";
import { millsToDecimal } from "../kit/money";
import { RECORD_LABEL, recordsOf, type ProductGroup, type Structure } from "../planogram/structure";
import type { Target } from "../targets/target-records";
import { toCsv } from "./csv";

const HEADINGS = [
  "level",
  "campaign",
  "purpose",
  "campaign_status",
  "daily_budget",
  "bidding",
  "goal_return",
  "serve_order",
  "ad_group",
  "ad_group_status",
  "ad_group_bid",
  "product_group",
  "role",
  "product_group_status",
  "bid",
  "key",
];

/** The path of a product group in words, for example `brand = Thornlea / shelf = Hot / everything else`. */
export function groupPath(structure: Structure, group: ProductGroup): string {
  const steps: string[] = [];
  let at: ProductGroup | undefined = group;
  while (at) {
    const parent: ProductGroup | undefined = at.parent === null ? undefined : asGroup(structure, at.parent);
    if (parent)
      steps.unshift(at.value === null ? "everything else" : `${parent.by ?? ""} = ${at.value || "(no value)"}`);
    at = parent;
  }
  return steps.length === 0 ? "all items" : steps.join(" / ");
}

function asGroup(structure: Structure, key: string): ProductGroup | undefined {
  const record = structure[key];
  return record?.type === "productGroup" ? record : undefined;
}

/** What a target aims at, and how, in words. */
function targetWords(target: Target): [text: string, role: string] {
  switch (target.type) {
    case "keyword":
      return [target.text, target.match];
    case "reach":
      return [target.kind, "automatic"];
    case "listingTarget":
      return target.aim.by === "listing" ? [target.aim.listing, "listing"] : [target.aim.category, "category"];
  }
}

/**
 * An account's structure as CSV: a row a campaign, ad group, product group, target, negative and exclusion. Money in
 * currency units.
 */
export function structureCsv(structure: Structure): string {
  const rows: (string | number | null)[][] = [];
  const adGroupsOf = groupBy(recordsOf(structure, "adGroup"), (adGroup) => adGroup.campaign);
  const groupsOf = groupBy(recordsOf(structure, "productGroup"), (group) => group.adGroup);
  for (const c of recordsOf(structure, "campaign")) {
    const campaign = [c.name, c.purpose, c.status, millsToDecimal(c.dailyBudget), c.bidding, c.goal, c.serveOrder];
    rows.push(["campaign", ...campaign, ...Array<null>(7).fill(null), c.key]);
    for (const g of adGroupsOf.get(c.key) ?? []) {
      const adGroup = [g.name, g.status, millsToDecimal(g.bid)];
      rows.push(["ad group", ...campaign, ...adGroup, ...Array<null>(4).fill(null), g.key]);
      for (const p of groupsOf.get(g.key) ?? []) {
        const bid = p.bid === null ? null : millsToDecimal(p.bid);
        rows.push(["product group", ...campaign, ...adGroup, groupPath(structure, p), p.role, p.status, bid, p.key]);
      }
    }
  }
  for (const target of [
    ...recordsOf(structure, "keyword"),
    ...recordsOf(structure, "listingTarget"),
    ...recordsOf(structure, "reach"),
  ]) {
    const g = structure[target.adGroup];
    const c = g?.type === "adGroup" ? structure[g.campaign] : undefined;
    if (g?.type !== "adGroup" || c?.type !== "campaign") continue;
    const campaign = [c.name, c.purpose, c.status, millsToDecimal(c.dailyBudget), c.bidding, c.goal, c.serveOrder];
    const adGroup = [g.name, g.status, millsToDecimal(g.bid)];
    const bid = target.bid === null ? null : millsToDecimal(target.bid);
    const [text, role] = targetWords(target);
    rows.push([RECORD_LABEL[target.type][0], ...campaign, ...adGroup, text, role, target.status, bid, target.key]);
  }
  for (const n of recordsOf(structure, "negative")) {
    const scope = n.scope === null ? undefined : structure[n.scope];
    const name = scope && "name" in scope ? scope.name : "";
    const text = `${n.what} = ${n.value}`;
    rows.push(["negative", name, ...Array<null>(9).fill(null), text, n.match, "excluded", null, n.key]);
  }
  for (const x of recordsOf(structure, "exclusion")) {
    const campaign = x.campaign === null ? "" : structure[x.campaign];
    const name = typeof campaign === "object" && campaign.type === "campaign" ? campaign.name : "";
    rows.push(["exclusion", name, ...Array<null>(9).fill(null), `id = ${x.item}`, x.reason, "excluded", null, x.key]);
  }
  return toCsv(HEADINGS, rows);
}
