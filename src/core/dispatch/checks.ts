import { applyDiff, type Diff } from "../kit/diff";
import { formatCount, plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import { isHomeKind } from "../planogram/homes";
import {
  CHANNEL_LIMITS,
  recordsOf,
  type CampaignKind,
  type ProductGroup,
  type RecordType,
  type Structure,
  type StructureRecord,
} from "../planogram/structure";

/** Something found before sending. A grave one keeps the dispatch from going out. */
export interface Check {
  code: string;
  grave: boolean;
  message: string;
  keys: string[];
}

/** Checks an account as it would be after a diff, against the channel's limits and for mistakes that cost money. */
export function checkDiff(live: Structure, diff: Diff<StructureRecord>, currency: string): Check[] {
  const after = applyDiff(live, diff);
  const touched = new Set([...Object.keys(diff.added), ...Object.keys(diff.changed)]);
  const checks: Check[] = [];
  const add = (code: string, grave: boolean, keys: string[], message: (count: number) => string) => {
    if (keys.length > 0) checks.push({ code, grave, keys: keys.slice(0, 50), message: message(keys.length) });
  };
  const campaigns = recordsOf(after, "campaign");
  const adGroups = recordsOf(after, "adGroup");
  const groups = recordsOf(after, "productGroup");
  const { lowestBid, highestBid, lowestDailyBudget, nameLength } = CHANNEL_LIMITS;

  add(
    "campaign-count",
    true,
    campaigns.length > CHANNEL_LIMITS.campaigns ? [campaigns[0]!.key] : [],
    () =>
      `The account would have ${formatCount(campaigns.length)} campaigns; the channel takes ${formatCount(CHANNEL_LIMITS.campaigns)}.`,
  );
  const isOn = (record: { status: string; key: string }) => record.status === "on";
  add(
    "budget-low",
    true,
    campaigns.filter((c) => isOn(c) && touched.has(c.key) && c.dailyBudget < lowestDailyBudget).map((c) => c.key),
    (n) =>
      `${plural(n, "campaign")} below the channel's least daily budget of ${formatMoney(lowestDailyBudget, currency)}.`,
  );
  const targets = [...recordsOf(after, "keyword"), ...recordsOf(after, "listingTarget"), ...recordsOf(after, "reach")];
  const badBid = (bid: number | null) => bid !== null && (bid < lowestBid || bid > highestBid);
  add(
    "bid-limits",
    true,
    [...adGroups, ...groups, ...targets]
      .filter((record) => touched.has(record.key) && badBid(record.bid))
      .map((record) => record.key),
    (n) =>
      `${plural(n, "bid")} outside ${formatMoney(lowestBid, currency)} to ${formatMoney(highestBid, currency)} a click.`,
  );
  add(
    "name-long",
    true,
    [...campaigns, ...adGroups].filter((r) => touched.has(r.key) && r.name.length > nameLength).map((r) => r.key),
    (n) => `${plural(n, "name")} longer than ${nameLength} characters.`,
  );
  add("name-twice", true, repeatedNames(campaigns), (n) => `${plural(n, "campaign")} with the name of another one.`);
  add(
    "goal-missing",
    true,
    campaigns.filter((c) => c.bidding === "return" && c.goal === null).map((c) => c.key),
    (n) => `${plural(n, "campaign")} told to bid towards a return without a goal.`,
  );
  add(
    "orphans",
    true,
    orphans(after),
    (n) => `${plural(n, "group")} would hang in the air: what they belong to is gone.`,
  );
  add(
    "target-kind",
    true,
    misplacedTargets(after),
    (n) => `${plural(n, "target")} in a campaign of a kind that does not aim at such things.`,
  );
  add(
    "pool-gone",
    true,
    campaigns.filter((c) => c.pool && after[c.pool]?.type !== "pool").map((c) => c.key),
    (n) => `${plural(n, "campaign")} drawing on a budget pool that is gone.`,
  );
  add("leaks", false, openRemainders(after), (n) =>
    n === 1 ? "One open remainder bids on items nobody named." : `${n} open remainders bid on items nobody named.`,
  );
  add(
    "wide",
    true,
    tooWide(groups),
    (n) =>
      `${plural(n, "ad group")} with more than ${formatCount(CHANNEL_LIMITS.productGroupsInAdGroup)} product groups.`,
  );
  const worthless = campaigns.filter((c) => isOn(c) && !adGroups.some((g) => g.campaign === c.key && isOn(g)));
  add(
    "campaign-empty",
    false,
    worthless.map((c) => c.key),
    (n) => `${plural(n, "running campaign")} without an ad group.`,
  );
  return checks;
}

function repeatedNames(records: { key: string; name: string; status: string }[]): string[] {
  const seen = new Set<string>();
  return records.filter(({ name }) => (seen.has(name) ? true : (seen.add(name), false))).map(({ key }) => key);
}

const TARGET_KINDS: Partial<Record<RecordType, CampaignKind[]>> = {
  keyword: ["keyword", "text"],
  listingTarget: ["listing"],
  reach: ["discovery"],
};

function misplacedTargets(after: Structure): string[] {
  return Object.values(after)
    .filter((record) => {
      const kinds = TARGET_KINDS[record.type];
      const adGroup = kinds && "adGroup" in record ? after[record.adGroup] : undefined;
      const campaign = adGroup?.type === "adGroup" ? after[adGroup.campaign] : undefined;
      return kinds !== undefined && campaign?.type === "campaign" && !kinds.includes(campaign.kind);
    })
    .map((record) => record.key);
}

function orphans(after: Structure): string[] {
  return Object.values(after)
    .filter((record) => {
      if (record.type === "adGroup") return after[record.campaign]?.type !== "campaign";
      if (record.type === "negative") return record.scope !== null && after[record.scope] === undefined;
      if (!("adGroup" in record)) return false;
      if (after[record.adGroup]?.type !== "adGroup") return true;
      if (record.type !== "productGroup") return false;
      return record.parent !== null && after[record.parent]?.type !== "productGroup";
    })
    .map((record) => record.key);
}

/** Remainders left open in running campaigns, and undivided ad groups, which bid on the whole catalogue. */
export function openRemainders(structure: Structure): string[] {
  const isLeak = (group: ProductGroup) =>
    group.status === "on" && (group.role === "remainder" || (group.role === "unit" && group.parent === null));
  return recordsOf(structure, "productGroup")
    .filter((group) => {
      const adGroup = structure[group.adGroup];
      if (!isLeak(group) || adGroup?.type !== "adGroup" || adGroup.status !== "on") return false;
      const campaign = structure[adGroup.campaign];
      return campaign?.type === "campaign" && campaign.status === "on" && isHomeKind(campaign.kind);
    })
    .map((group) => group.key);
}

function tooWide(groups: ProductGroup[]): string[] {
  const counts = new Map<string, number>();
  for (const group of groups) counts.set(group.adGroup, (counts.get(group.adGroup) ?? 0) + 1);
  return [...counts].filter(([, count]) => count > CHANNEL_LIMITS.productGroupsInAdGroup).map(([key]) => key);
}
