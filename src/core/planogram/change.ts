import { diffRecords, type Diff } from "../kit/diff";
import { fail, ok, type Outcome } from "../kit/outcome";
import { recordsOf, type Exclusion, type ProductGroup, type Structure, type StructureRecord } from "./structure";

/**
 * What applying a planogram changes in an account. Records of the planogram that exist keep their hand-set bids,
 * status and items lifted out; campaigns and ad groups no longer planned are paused, not removed, so that their
 * history keeps a name; product groups no longer planned go.
 * @param planned the records from `materialise`
 * @param replaces keys of campaigns to pause
 */
export function planogramDiff(
  live: Structure,
  planned: Structure,
  origin: string,
  replaces: string[],
): Diff<StructureRecord> {
  const after: Structure = { ...live };
  const mine = new Set<string>();
  for (const campaign of recordsOf(live, "campaign")) if (campaign.origin === origin) mine.add(campaign.key);
  const myAdGroups = new Set<string>();
  for (const adGroup of recordsOf(live, "adGroup")) if (mine.has(adGroup.campaign)) myAdGroups.add(adGroup.key);
  const lifted = liftedUnits(live);
  for (const key of [...mine, ...myAdGroups]) {
    const record = live[key];
    if (!planned[key] && (record?.type === "campaign" || record?.type === "adGroup")) {
      after[key] = { ...record, status: "paused" };
    }
  }
  for (const group of recordsOf(live, "productGroup")) {
    if (myAdGroups.has(group.adGroup) && !planned[group.key] && !lifted.keeps(group, planned)) delete after[group.key];
  }
  const plannedSets = new Set(recordsOf(planned, "labels").map((labels) => labels.shelfSet));
  for (const labels of recordsOf(live, "labels")) if (plannedSets.has(labels.shelfSet)) delete after[labels.key];
  const nameOf = freeNames(live, planned);
  for (const [key, record] of Object.entries(planned)) {
    const kept = keepHandEdits(live[key], record, lifted.units);
    after[key] = kept.type === "campaign" ? { ...kept, name: nameOf(kept.name) } : kept;
  }
  for (const key of replaces) {
    const record = after[key];
    if (record?.type === "campaign" && !planned[key]) after[key] = { ...record, status: "paused" };
  }
  return diffRecords(live, after);
}

/** Gives campaigns of a plan names that no other campaign of the account has; a number behind it tells them apart. */
function freeNames(live: Structure, planned: Structure): (name: string) => string {
  const taken = new Set<string>();
  for (const { key, name } of recordsOf(live, "campaign")) if (!planned[key]) taken.add(name);
  return (name) => {
    let free = name;
    for (let n = 2; taken.has(free); n++) free = `${name} (${n})`;
    taken.add(free);
    return free;
  };
}

/** Units that items were lifted out of, and whether a record below one outlives a new plan that still has the unit. */
function liftedUnits(live: Structure) {
  const units = new Set<string>();
  for (const group of recordsOf(live, "productGroup"))
    if (group.role === "rest" && group.parent) units.add(group.parent);
  const keeps = (group: ProductGroup, planned: Structure) =>
    group.parent !== null && units.has(group.parent) && planned[group.parent]?.type === "productGroup";
  return { units, keeps };
}

function keepHandEdits(existing: StructureRecord | undefined, planned: StructureRecord, lifted: Set<string>) {
  if (existing?.type === "adGroup" && planned.type === "adGroup") {
    return { ...planned, bid: existing.bid };
  }
  if (existing?.type === "productGroup" && planned.type === "productGroup") {
    const kept = { ...planned, bid: existing.bid, status: existing.status };
    return lifted.has(planned.key) ? { ...kept, role: existing.role, by: existing.by } : kept;
  }
  return planned;
}

/** The key of an item's exclusion in a scope. */
export function exclusionKey(item: string, campaign: string | null): string {
  return `x:${campaign ?? "everywhere"}/${encodeURIComponent(item)}`;
}

/** Keeps an item out of ads, everywhere or in one campaign. */
export function excludeItem(
  structure: Structure,
  item: string,
  reason: Exclusion["reason"],
  reviewOn: string | null,
  campaign: string | null = null,
): Structure {
  const key = exclusionKey(item, campaign);
  return { ...structure, [key]: { type: "exclusion", key, campaign, item, reason, reviewOn } };
}

/**
 * Gives one item a bid of its own in the unit that serves it. A unit that holds more than the item is split by item:
 * the item gets a unit with the new bid, all others stay together in a `rest` with the old one.
 * @param unit key of the product group that serves the item now
 * @param bid mills a click
 */
export function setItemBid(structure: Structure, unit: string, item: string, bid: number): Outcome<Structure> {
  const group = structure[unit];
  if (group?.type !== "productGroup" || group.role === "split") {
    return fail("group-gone", "The group that served this item is no longer there.", "Reload and try again.");
  }
  if (group.role === "unit" && group.value === item && isItemUnit(structure, group)) {
    return ok({ ...structure, [unit]: { ...group, bid } });
  }
  // An item already lifted out of its group leaves the rest, so a rest takes the new unit beside itself.
  const splitKey = group.role === "rest" ? (group.parent as string) : unit;
  const key = `${splitKey}/id=${encodeURIComponent(item)}`;
  const added: ProductGroup = {
    type: "productGroup",
    key,
    adGroup: group.adGroup,
    parent: splitKey,
    role: "unit",
    value: item,
    by: null,
    status: "on",
    bid,
  };
  if (group.role === "rest") return ok({ ...structure, [key]: added });
  const restKey = `${unit}/rest`;
  // The rest of an open remainder is as open as the remainder was.
  const restRole = group.role === "remainder" || group.parent === null ? "remainder" : "rest";
  return ok({
    ...structure,
    [unit]: { ...group, role: "split", by: "id", bid: null, status: "on" },
    [key]: added,
    [restKey]: { ...added, key: restKey, role: restRole, value: null, status: group.status, bid: group.bid },
  });
}

function isItemUnit(structure: Structure, group: ProductGroup): boolean {
  const parent = group.parent ? structure[group.parent] : undefined;
  return parent?.type === "productGroup" && parent.by === "id";
}
