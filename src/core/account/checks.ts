import { touchedBy, type Diff } from "../kit/diff";
import { formatCount, plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import type { Account } from "./account";
import { CHANNEL_LIMITS, type AccountLimits } from "../channel/limits";
import { highestBids, mostOfBid } from "./effective-bid";
import { isHomeKind } from "./homes";
import { isElsewhere } from "./off";
import { countryName } from "../kit/countries";
import { nameClash } from "./name-clash";
import { kindOf, type AccountRecord } from "./records";
import { adsByGroup } from "./ads";
import { adFault, type Ad } from "./records/ad";
import { areEnough, assetsKey } from "./records/assets";
import type { Campaign } from "./records/campaign";
import { isOpen } from "./records/product-group";

/** Something found before sending. A grave one keeps the dispatch from going out. */
export interface Check {
  code: string;
  grave: boolean;
  message: string;
  keys: string[];
}

/** Keys shown of a check; its message has the whole count. */
const MOST_KEYS = 50;

/**
 * Checks an account as it would be after a diff, against the channel's limits and for mistakes that cost money.
 * @param limits of the channel that it goes to; left out: the test market's
 */
export function checkDiff(
  live: Account,
  diff: Diff<AccountRecord>,
  currency: string,
  limits: AccountLimits = CHANNEL_LIMITS,
): Check[] {
  const after = live.with(diff);
  const { added, changed } = touchedBy(diff);
  const touched = [...added, ...changed.map(([, to]) => to)];
  const checks: Check[] = [];
  const add = (code: string, grave: boolean, records: { key: string }[], message: (count: number) => string) => {
    if (records.length === 0) return;
    const keys = records.slice(0, MOST_KEYS).map(({ key }) => key);
    checks.push({ code, grave, keys, message: message(records.length) });
  };
  const { lowestBid, highestBid, lowestDailyBudget, nameLength, productGroupsInAdGroup } = limits;
  const money = (mills: number) => formatMoney(mills, currency);
  const campaigns = after.all("campaign");
  const most = limits.campaigns;
  add(
    "campaign-count",
    true,
    campaigns.length > most ? [campaigns[0]!] : [],
    () => `The account would have ${formatCount(campaigns.length)} campaigns; the channel takes ${formatCount(most)}.`,
  );
  add(
    "budget-low",
    true,
    budgetsBelow(touched, lowestDailyBudget),
    (n) => `${plural(n, "campaign")} below the channel's least daily budget of ${money(lowestDailyBudget)}.`,
  );
  add(
    "bid-limits",
    true,
    bidsOutside(touched, lowestBid, highestBid),
    (n) => `${plural(n, "bid")} outside ${money(lowestBid)} to ${money(highestBid)} a click.`,
  );
  add(
    "factors-high",
    true,
    factoredBeyond(after, touched, highestBid),
    (n) => `${plural(n, "campaign")} whose factors would take a bid above ${money(highestBid)} a click.`,
  );
  add(
    "name-long",
    true,
    touched.filter((record) => "name" in record && (record.name?.length ?? 0) > nameLength),
    (n) => `${plural(n, "name")} longer than ${nameLength} characters.`,
  );
  add("name-twice", true, repeatedNames(campaigns), (n) => `${plural(n, "campaign")} with the name of another one.`);
  add(
    "name-clash",
    false,
    touched.filter((record) => record.type === "campaign" && nameClash(record) !== null),
    (n) => `${plural(n, "campaign")} whose name says another purpose or kind than it has.`,
  );
  add(
    "goal-missing",
    true,
    campaigns.filter((c) => c.bidding === "return" && c.goal === null),
    (n) => `${plural(n, "campaign")} told to bid towards a return without a goal.`,
  );
  add(
    "country-elsewhere",
    false,
    touched.filter((record) => record.type === "campaign" && isElsewhere(record)),
    (n) =>
      `${plural(n, "campaign")} for another country than the channel's, ${countryName(CHANNEL_LIMITS.country)}: no ads there.`,
  );
  const { orphans, misplaced, penniless } = misfits(after, diff, touched);
  add("orphans", true, orphans, (n) => `${plural(n, "group")} would hang in the air: what they belong to is gone.`);
  add(
    "target-kind",
    true,
    misplaced,
    (n) => `${plural(n, "target")} in a campaign of a kind that does not aim at such things.`,
  );
  add("pool-gone", true, penniless, (n) => `${plural(n, "campaign")} drawing on a budget pool that is gone.`);
  add("leaks", false, openRemainders(after), (n) =>
    n === 1 ? "One open remainder bids on items nobody named." : `${n} open remainders bid on items nobody named.`,
  );
  const wide = after.all("adGroup").filter(({ key }) => after.productGroups(key).length > productGroupsInAdGroup);
  add(
    "wide",
    true,
    wide,
    (n) => `${plural(n, "ad group")} with more than ${formatCount(productGroupsInAdGroup)} product groups.`,
  );
  add(
    "assets-wanting",
    false,
    assetGroupsThatWait(after, campaigns),
    (n) => `${plural(n, "asset group")} without the lines and pictures that the channel asks for: no ads until then.`,
  );
  const ads = touched.flatMap((record) => (record.type === "ad" ? [record] : []));
  add(
    "ads-unfit",
    true,
    ads.filter((ad) => adFault(ad) !== null),
    (n) =>
      `${plural(n, "ad")} that the channel does not take, such as one that ${adFault(ads.find((ad) => adFault(ad))!)}.`,
  );
  const adsOf = adsByGroup(after);
  add(
    "ads-many",
    true,
    after.all("adGroup").filter(({ key }) => (adsOf.get(key)?.length ?? 0) > CHANNEL_LIMITS.adsInGroup),
    (n) => `${plural(n, "ad group")} with more than ${CHANNEL_LIMITS.adsInGroup} ads.`,
  );
  add(
    "ads-alike",
    false,
    repeatedAds(ads, adsOf),
    (n) => `${plural(n, "ad")} that another one of its ad group repeats word for word.`,
  );
  const filled = new Set(after.all("adGroup").flatMap(({ status, campaign }) => (status === "on" ? [campaign] : [])));
  add(
    "campaign-empty",
    false,
    campaigns.filter(({ status, key }) => status === "on" && !filled.has(key)),
    (n) => `${plural(n, "running campaign")} without an ad group.`,
  );
  return checks;
}

/** Ads of which their ad group has the very same once more. */
function repeatedAds(ads: readonly Ad[], adsOf: ReturnType<typeof adsByGroup>): Ad[] {
  const text = ({ headlines, descriptions }: Ad) => [...headlines, "", ...descriptions].join("\n");
  return ads.filter((ad) => adsOf.get(ad.adGroup)!.some((other) => other.key < ad.key && text(other) === text(ad)));
}

/** Asset groups that run and have fewer or more lines and pictures than the channel takes. */
function assetGroupsThatWait(account: Account, campaigns: readonly Campaign[]) {
  const running = new Set(
    campaigns.flatMap(({ kind, status, key }) => (kind === "asset" && status === "on" ? [key] : [])),
  );
  if (running.size === 0) return [];
  return account
    .all("adGroup")
    .filter(
      ({ key, campaign, status }) =>
        status === "on" && running.has(campaign) && !areEnough(account.find("assets", assetsKey(key))),
    );
}

function budgetsBelow(records: AccountRecord[], least: number) {
  return records.filter((r) => "dailyBudget" in r && "status" in r && r.status === "on" && r.dailyBudget < least);
}

function bidsOutside(records: AccountRecord[], lowest: number, highest: number) {
  return records.filter((record) => {
    const bid = kindOf(record.type).bid?.(record) ?? null;
    return bid !== null && (bid < lowest || bid > highest);
  });
}

/** Campaigns that the diff touches and whose highest bid, under every factor, is more than the channel takes. */
function factoredBeyond(after: Account, touched: AccountRecord[], most: number): Campaign[] {
  const factored = touched.filter(
    (record): record is Campaign => record.type === "campaign" && Boolean(record.slots ?? record.hours ?? record.flex),
  );
  if (factored.length === 0) return [];
  const bids = highestBids(after, new Set(factored.map(({ key }) => key)));
  return factored.filter((campaign) => mostOfBid(bids.get(campaign.key) ?? 0, campaign) > most);
}

function repeatedNames(campaigns: readonly Campaign[]): Campaign[] {
  const seen = new Set<string>();
  return campaigns.filter(({ name }) => (seen.has(name) ? true : (seen.add(name), false)));
}

/**
 * Records whose place is wrong: what they hang below is gone, the campaign's kind does nothing with them, or the pool they
 * draw on is gone. Where nothing that others stand on was removed or moved, only what the diff touches is looked at.
 */
function misfits(after: Account, diff: Diff<AccountRecord>, touched: AccountRecord[]) {
  const orphans: AccountRecord[] = [];
  const misplaced: AccountRecord[] = [];
  const penniless: AccountRecord[] = [];
  const { changed, removed } = touchedBy(diff);
  const isStable = removed.length === 0 && changed.every(([from, to]) => isInPlace(from, to));
  for (const record of isStable ? touched : after.records()) {
    const kind = kindOf(record.type);
    for (const { key, types, bond } of kind.parents(record)) {
      const above = after.get(key);
      if (above && (types === null || types.includes(above.type))) continue;
      (bond === "draws on" ? penniless : orphans).push(record);
      break;
    }
    if (!kind.fits || !("adGroup" in record)) continue;
    const campaign = after.find("campaign", after.find("adGroup", record.adGroup)?.campaign ?? null);
    if (campaign && !kind.fits.includes(campaign.kind)) misplaced.push(record);
  }
  return { orphans, misplaced, penniless };
}

/** Whether what hangs below a record stands as it stood before its change: in the same place of the same kind. */
function isInPlace(from: AccountRecord, to: AccountRecord): boolean {
  if (from.type !== to.type || campaignKindOf(from) !== campaignKindOf(to)) return false;
  const [before, after] = [kindOf(from.type).parents(from), kindOf(to.type).parents(to)];
  return before.length === after.length && before.every(({ key }, i) => key === after[i]!.key);
}

/** Records that a change would leave hanging in the air: what they hang below, or draw on, would be gone. */
export function leftBehind(account: Account, diff: Diff<AccountRecord>): AccountRecord[] {
  if (touchedBy(diff).removed.length === 0) return [];
  const { orphans, penniless } = misfits(account.with(diff), diff, []);
  return [...orphans, ...penniless];
}

function campaignKindOf(record: AccountRecord): string | null {
  return "purpose" in record ? record.kind : null;
}

/** Remainders left open in running campaigns, and undivided ad groups, which bid on the whole catalogue. */
export function openRemainders(account: Account) {
  return account.all("productGroup").filter((group) => {
    if (!isOpen(group)) return false;
    const adGroup = account.find("adGroup", group.adGroup);
    if (adGroup?.status !== "on") return false;
    const campaign = account.find("campaign", adGroup.campaign);
    return campaign?.status === "on" && isHomeKind(campaign.kind);
  });
}
