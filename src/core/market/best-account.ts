import { Account, type Structure } from "../account/account";
import { recordSchema } from "../account/records";
import { asText, type Columns } from "../kit/columns";
import { SLOT_KEYS } from "../kit/slots";

/** An account as a search that knows the truth draws it up: a campaign of all items, and targets by name before it. */
export interface BestPlan {
  /** Mills by catalogue row; rows below a mill are left out. */
  bids: Float64Array;
  /** Factors on bids in the order of `SLOT_KEYS`, and by hour or null. */
  slots: number[];
  hours: number[] | null;
  /** Terms that the campaign of all items is kept out of. */
  keptOut: string[];
  /** Places that are aimed at by name, each with its items and bid. */
  places: AimedPlace[];
  /** Mills a day for everything, or null. */
  dayCap: number | null;
}

export interface AimedPlace {
  kind: "term" | "listing";
  name: string;
  rows: number[];
  /** Mills. */
  bid: number;
}

const CAMPAIGN = "best";
/** So much money that it never runs out. */
const ENOUGH = 1_000_000_000;

/** The account of a plan, made of the product's own objects and checked as such. */
export function accountOfPlan(plan: BestPlan, catalogue: Columns): Account {
  const ids = asText(catalogue.columns["id"]!);
  const idOf = (row: number) => ids.values[ids.codes[row]!]!;
  const slots = Object.fromEntries(SLOT_KEYS.map((key, i) => [key, plan.slots[i]!]));
  const hours = plan.hours ? { hours: plan.hours } : {};
  const records: Record<string, unknown>[] = [
    { ...campaign(CAMPAIGN, "feed", 3), slots, ...hours },
    ...treeOf(CAMPAIGN, CAMPAIGN, 1000),
  ];
  plan.bids.forEach((bid, row) => {
    if (bid >= 1) records.push(unit(CAMPAIGN, idOf(row), Math.round(bid)));
  });
  const kinds = { term: ["terms", "keyword"], listing: ["pages", "listing"] } as const;
  for (const [kind, [name, campaignKind]] of Object.entries(kinds)) {
    const places = plan.places.filter((place) => place.kind === kind && place.bid >= 1 && place.rows.length > 0);
    if (places.length === 0) continue;
    records.push({ ...campaign(name, campaignKind, 1), slots, ...hours });
    places.forEach((place, i) => {
      const group = `${name}/${i}`;
      records.push(...treeOf(group, name, Math.round(place.bid)));
      for (const row of place.rows) records.push(unit(group, idOf(row), null));
      const target =
        kind === "term"
          ? { type: "keyword", text: place.name, match: "exact" }
          : { type: "listingTarget", aim: { by: "listing", listing: place.name } };
      records.push({ key: `${group}/target`, adGroup: `${group}/group`, status: "on", bid: null, ...target });
    });
  }
  for (const term of plan.keptOut) {
    records.push({
      ...{ type: "negative", key: `best/not/${term}`, scope: CAMPAIGN, what: "term", match: "exact" },
      ...{ value: term, reason: "wasteful" },
    });
  }
  if (plan.dayCap !== null) records.push({ type: "dayCap", key: "day-cap", dailyBudget: plan.dayCap });
  const structure: Structure = Object.fromEntries(
    records.map((record) => [record["key"] as string, recordSchema.parse(record)]),
  );
  return Account.fromStructure(structure);
}

function campaign(key: string, kind: string, serveOrder: number) {
  return {
    ...{ type: "campaign", key, name: key, kind, purpose: "scale", bidding: "fixed", goal: null },
    ...{ dailyBudget: ENOUGH, status: "on", serveOrder, inStockOnly: false, origin: null },
  };
}

/** An ad group and the head of its tree of items by ID. */
function treeOf(name: string, ofCampaign: string, bid: number): Record<string, unknown>[] {
  return [
    { type: "adGroup", key: `${name}/group`, campaign: ofCampaign, name, status: "on", bid },
    {
      ...{ type: "productGroup", key: `${name}/tree`, adGroup: `${name}/group`, parent: null, role: "split" },
      ...{ value: null, by: "id", status: "on", bid: null },
    },
  ];
}

function unit(name: string, item: string, bid: number | null): Record<string, unknown> {
  return {
    ...{ type: "productGroup", key: `${name}/tree/${item}`, adGroup: `${name}/group`, parent: `${name}/tree` },
    ...{ role: "unit", value: item, by: null, status: "on", bid },
  };
}
