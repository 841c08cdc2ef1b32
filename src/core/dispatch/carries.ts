import type { Negative } from "../account/records/negative";
import type { Account } from "../account/account";
import { campaignOf } from "../account/campaign-of";
import { recordName } from "../account/names";
import { fieldOf, kindOf, type AccountRecord } from "../account/records";
import { comparedWords } from "../channel/matching";
import { groupBy } from "../kit/group-by";
import { sameValue, touchedBy, type Diff } from "../kit/diff";
import { formatCount, plural } from "../kit/format";
import { formatMoney } from "../kit/money";
import type { Carries } from "./contract";

/** A record that a channel can't carry, or not all of it. */
export interface NotCarried {
  key: string;
  name: string;
  why: string;
  /** Whether the record can't be sent at all; else only a field of it would not arrive. */
  isWhole: boolean;
  /** Whether what speaks against it is a limit that the account is checked against in any case. */
  isLimit: boolean;
}

/** What of a diff a channel can't carry, record by record, by its own table. */
export function notCarried(live: Account, diff: Diff<AccountRecord>, carries: Carries, currency: string): NotCarried[] {
  const after = live.with(diff);
  const { added, changed } = touchedBy(diff);
  const found: NotCarried[] = [];
  for (const record of [...added, ...changed.map(([, to]) => to)]) {
    const note = (why: string, how: Pick<NotCarried, "isWhole" | "isLimit">) =>
      found.push({ key: record.key, name: recordName(after, record), why, ...how });
    const unknown = whyNotKnown(after, record, carries);
    const beyond = unknown === null ? whyBeyond(record, carries, currency) : null;
    if (unknown !== null) note(unknown, { isWhole: true, isLimit: false });
    else if (beyond !== null) note(beyond, { isWhole: true, isLimit: true });
    else {
      const fields = fieldsLost(record, live.get(record.key), carries);
      if (fields.length > 0) note(`has no place there for: ${fields.join(", ")}`, { isWhole: false, isLimit: false });
    }
  }
  return [...found, ...tooMany(after, added, carries)];
}

/** Why a channel does not know a record of this kind at all; null where it does. */
function whyNotKnown(account: Account, record: AccountRecord, carries: Carries): string | null {
  const kind = kindOf(record.type);
  if (carries.types && !carries.types.includes(record.type)) return `${kind.label[1]} are not known there`;
  if (!carries.campaignKinds && !carries.exclusions) return whyKeywordNot(record, carries);
  const campaign = campaignOf(record, (key) => account.get(key));
  if (campaign && carries.campaignKinds && !carries.campaignKinds.includes(campaign.kind))
    return `${campaign.kind} campaigns are not known there`;
  return whyExclusionNot(record, campaign?.kind ?? "workspace", carries) ?? whyKeywordNot(record, carries);
}

/** Which limit of a channel a record goes beyond; null where it stays within. */
function whyBeyond(record: AccountRecord, carries: Carries, currency: string): string | null {
  const { nameLength } = carries;
  const name = "name" in record ? (record.name ?? "") : "";
  if (nameLength !== undefined && name.length > nameLength)
    return `its name has ${name.length} characters; ${nameLength} at most are taken`;
  return whyMoneyNot(record, carries, currency);
}

function whyExclusionNot(
  record: AccountRecord,
  scope: keyof NonNullable<Carries["exclusions"]>,
  { exclusions }: Carries,
): string | null {
  const what = record.type === "negative" ? record.what : record.type === "exclusion" ? "item" : null;
  return what && whyNotExcluded(what, scope, { exclusions });
}

/**
 * Why a channel can't keep something out of campaigns of a kind, or everywhere at once; null where it can.
 * @param scope kind of the campaign; `workspace` for what holds everywhere
 */
export function whyNotExcluded(
  what: "item" | Negative["what"],
  scope: keyof NonNullable<Carries["exclusions"]>,
  { exclusions }: Pick<Carries, "exclusions">,
): string | null {
  if (!exclusions || exclusions[scope]?.includes(what)) return null;
  const where = scope === "workspace" ? "for the whole workspace" : `in ${scope} campaigns`;
  return `${what}s can't be excluded ${where} there`;
}

function whyKeywordNot(record: AccountRecord, { matchTypes, keywordLength, keywordWords }: Carries): string | null {
  if (record.type !== "keyword") return null;
  if (matchTypes && !matchTypes.includes(record.match)) return `${record.match} match is not known there`;
  if (keywordLength !== undefined && record.text.length > keywordLength)
    return `has ${record.text.length} characters; ${keywordLength} at most are taken`;
  const words = comparedWords(record.text).length;
  if (keywordWords !== undefined && words > keywordWords)
    return `has ${plural(words, "word")}; ${keywordWords} at most are taken`;
  return null;
}

function whyMoneyNot(record: AccountRecord, { lowestBid, highestBid, lowestDailyBudget }: Carries, currency: string) {
  const kind = kindOf(record.type);
  const money = (mills: number) => formatMoney(mills, currency);
  const bid = kind.bid?.(record) ?? null;
  if (bid !== null && lowestBid !== undefined && bid < lowestBid)
    return `bids ${money(bid)}; ${money(lowestBid)} is the least`;
  if (bid !== null && highestBid !== undefined && bid > highestBid)
    return `bids ${money(bid)}; ${money(highestBid)} is the most`;
  const budget = kind.budget?.(record);
  if (budget !== undefined && lowestDailyBudget !== undefined && budget < lowestDailyBudget && isOn(record))
    return `has ${money(budget)} a day; ${money(lowestDailyBudget)} is the least`;
  return null;
}

const isOn = (record: AccountRecord) => !("status" in record) || record.status === "on";

/** Values that stand for nothing, which arrive anyway. */
const isBlank = (value: unknown) =>
  value === undefined || value === null || value === "" || (Array.isArray(value) && value.length === 0);

/** Names of fields that have a value, or just lost it, and that the channel has no place for. */
function fieldsLost(record: AccountRecord, was: AccountRecord | undefined, { without }: Carries): string[] {
  return (without?.[record.type] ?? []).flatMap((field) => {
    const value = record[field as keyof AccountRecord] as unknown;
    const before = was?.[field as keyof AccountRecord] as unknown;
    const isSaid = was ? !sameValue(before, value) : !isBlank(value);
    return isSaid ? [fieldOf(record.type, field)?.label ?? field] : [];
  });
}

/** What is one too many where a channel takes only so many: of what the diff adds, those beyond. */
function tooMany(account: Account, added: readonly AccountRecord[], carries: Carries): NotCarried[] {
  const found: NotCarried[] = [];
  const beyond = (records: readonly AccountRecord[], most: number | undefined, what: string, isLimit: boolean) => {
    if (most === undefined || records.length <= most) return;
    const isNew = new Set(added.map(({ key }) => key));
    for (const record of records.filter(({ key }) => isNew.has(key)).slice(-(records.length - most))) {
      const why = `there would be ${formatCount(records.length)} ${what}; ${formatCount(most)} at most are taken`;
      found.push({ key: record.key, name: recordName(account, record), why, isWhole: true, isLimit });
    }
  };
  beyond(account.all("campaign"), carries.campaigns, "campaigns", true);
  if (carries.adGroupsInCampaign !== undefined) {
    for (const groups of groupBy(account.all("adGroup"), ({ campaign }) => campaign).values())
      beyond(groups, carries.adGroupsInCampaign, "ad groups in its campaign", false);
  }
  if (carries.productGroupsInAdGroup !== undefined) {
    for (const groups of groupBy(account.all("productGroup"), ({ adGroup }) => adGroup).values())
      beyond(groups, carries.productGroupsInAdGroup, "product groups in its ad group", true);
  }
  return found;
}
