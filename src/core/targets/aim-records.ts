import { fail, ok, type Outcome } from "../kit/outcome";
import type { Account } from "../account/account";
import { Draft } from "../account/draft";
import { shortKey } from "../account/keys";
import { campaignNamed, freeKey, putTree } from "../account/own-tree";
import type { Target } from "../account/records";
import type { Keyword } from "../account/records/keyword";
import type { ListingTarget } from "../account/records/listing-target";
import { AIMED_FIRST, aimLabel, campaignKindOf, type Aim, type Aiming } from "./aims";

/** The targets that aims stand for in an ad group: a keyword for each match type. */
export function targetsOf(aims: Aim[], adGroup: string, bidOf: (target: Target) => number | null): Target[] {
  const made = aims.flatMap((aim): (Keyword | ListingTarget)[] => {
    const base = { adGroup, status: "on" } as const;
    if (aim.what === "keyword") {
      const text = aim.text.trim();
      return aim.matches.map((match): Keyword => ({
        ...{ ...base, type: "keyword", key: shortKey(`t:${adGroup}/${match}/${text.toLowerCase()}`) },
        ...{ text, match, bid: null },
      }));
    }
    const wanted: ListingTarget["aim"] =
      aim.what === "listing" ? { by: "listing", listing: aim.listing.trim() } : aim.window;
    const key = shortKey(
      `t:${adGroup}/${aim.what}/${aim.what === "listing" ? aim.listing.trim() : JSON.stringify(wanted)}`,
    );
    return [{ ...base, type: "listingTarget", key, aim: wanted, bid: null }];
  });
  // The same thing given twice is one target.
  return [...new Map(made.map((target) => [target.key, { ...target, bid: bidOf(target) }])).values()];
}

/** What tells targets apart wherever they are: a keyword by text and match type, a page by its listing. */
export function sameAim(target: Target): string {
  if (target.type === "keyword") return `${target.match}/${target.text.toLowerCase()}`;
  return target.type === "listingTarget" ? JSON.stringify(target.aim) : `reach/${target.kind}`;
}

/**
 * Puts aims into an account: into an ad group that runs, or with items of ours into a campaign that runs or a new one.
 * @param bidOf mills a click for one of them; null takes the ad group's
 */
export function aimAt(
  account: Account,
  { aims, place, leftOut }: Aiming,
  bidOf: (target: Target) => number | null,
): Outcome<Draft> {
  const draft = new Draft(account);
  const out = new Set(leftOut);
  const wanted = (adGroup: string) => targetsOf(aims, adGroup, bidOf).filter((target) => !out.has(sameAim(target)));
  if (wanted("").length === 0) return fail("aim-nothing", "All of them are left out.", "Keep at least one.");
  const [first] = aims;
  const kind = campaignKindOf(first!);
  if (aims.some((aim) => campaignKindOf(aim) !== kind)) {
    return fail("aims-mixed", "Keywords and listings can't stand in one campaign.", "Take one kind at a time.");
  }
  if (place.kind === "ad-group") {
    const adGroup = draft.find("adGroup", place.adGroup);
    const campaign = draft.find("campaign", adGroup?.campaign ?? null);
    if (!adGroup || !campaign) return fail("aim-place-gone", "The ad group it should go into is not there any more.");
    if (campaign.kind !== kind && !(kind === "keyword" && campaign.kind === "text")) return unfit(campaign.name, kind);
    for (const target of wanted(adGroup.key)) putNew(draft, target);
    return ok(draft);
  }
  if (place.items.length === 0) {
    return fail("aim-no-items", "No item of yours is chosen to be shown.", "Choose at least one.");
  }
  const name = place.kind === "new" ? place.name : groupName(aims);
  const campaign = place.kind === "new" ? null : draft.find("campaign", place.campaign);
  if (place.kind === "campaign") {
    if (!campaign) return fail("aim-place-gone", "The campaign it should go into is not there any more.");
    if (campaign.kind !== kind) return unfit(campaign.name, kind);
  } else if (campaignNamed(draft, name)) {
    return fail("name-taken", `There is a campaign called “${name}” already.`, "Choose another name.");
  }
  const key = campaign?.key ?? freeKey(draft, "c", name);
  if (place.kind === "new") {
    draft.put({
      ...{ type: "campaign", key, name, kind, purpose: place.purpose, bidding: "fixed", goal: null, status: "on" },
      ...{
        dailyBudget: place.dailyBudget,
        serveOrder: place.serveOrder ?? AIMED_FIRST,
        inStockOnly: true,
        origin: null,
      },
    } as const);
  }
  const adGroup = freeKey(draft, "g", `${key.slice(2)}-${name}`);
  const targets = wanted(adGroup);
  const highest = Math.max(0, ...targets.map(({ bid }) => bid ?? 0));
  draft.put({ type: "adGroup", key: adGroup, campaign: key, name, status: "on", bid: highest });
  putTree(draft, adGroup, "id", place.items);
  for (const target of targets) draft.put(target);
  return ok(draft);
}

/** Leaves a target that is there already as it is: it may have a bid of its own by now. */
function putNew(draft: Draft, target: Target): void {
  const isThere = draft.account
    .all(target.type)
    .some((other) => other.adGroup === target.adGroup && sameAim(other) === sameAim(target));
  if (!isThere) draft.put(target);
}

function groupName(aims: Aim[]): string {
  const label = aimLabel(aims[0]!).slice(0, 80);
  return aims.length === 1 ? label : `${label} and ${aims.length - 1} more`;
}

function unfit(name: string, kind: string): Outcome<never> {
  return fail("aim-place-unfit", `“${name}” is no ${kind} campaign.`, `Choose a ${kind} campaign, or make a new one.`);
}
