import { fail, ok, type Outcome } from "../kit/outcome";
import type { Account } from "../account/account";
import { Draft } from "../account/draft";
import { shortKey } from "../account/keys";
import { campaignNamed, freeKey, putTree } from "../account/own-tree";
import type { ThoughtOf } from "../exclusions/replay";
import type { Target } from "../account/records";
import { negativeKey } from "../account/records/negative";
import { sameAim, targetsOf } from "./aim-records";
import { AIMED_FIRST } from "./aims";
import type { KitAim, PlannedPart } from "./launch-kit";

/** A campaign of a kit as it is made. Money in mills. */
export interface KitCampaign extends Omit<PlannedPart, "nothing"> {
  name: string;
  dailyBudget: number;
  /** What tells its kit from others that are made at once: the item it is for, or empty where all are in one. */
  kit: string;
  items: readonly string[];
}

/** The target that an aim of a kit stands for. */
export function targetOfAim(aim: KitAim, adGroup: string, bid: number | null): Target {
  if (aim.what === "reach") {
    const key = shortKey(`r:${adGroup.slice(2)}/${aim.reach}`);
    return { type: "reach", key, adGroup, kind: aim.reach, status: "on", bid };
  }
  const wanted =
    aim.what === "keyword"
      ? { what: aim.what, text: aim.text, matches: [aim.match] }
      : { what: aim.what, listing: aim.listing };
  return targetsOf([wanted], adGroup, () => bid)[0]!;
}

/** By what a target of a kit is named, whatever its campaigns are called: it may stand in several of them. */
export function kitId({ kit, suffix }: Pick<KitCampaign, "kit" | "suffix">, aim: KitAim): string {
  return `${kit}|${suffix}|${sameAim(targetOfAim(aim, "", null))}`;
}

/**
 * What discovery of a kit is kept out of: all that its other campaigns aim at by name. With the same serve order the dearer bid
 * serves, and discovery would take the very places that were named to be priced by themselves.
 */
export function namedInKit(campaigns: readonly Pick<KitCampaign, "part" | "aims">[]): Omit<ThoughtOf, "scope">[] {
  return campaigns.flatMap(({ part, aims }) =>
    part === "discovery" ? [] : aims.flatMap((aim) => asNegative(aim) ?? []),
  );
}

/** The negative that keeps others from what an aim names; null for what names nothing. */
export function asNegative(aim: KitAim): Omit<ThoughtOf, "scope"> | null {
  if (aim.what === "listing") return { what: "listing", match: "exact", value: aim.listing };
  return aim.what === "keyword" && aim.match === "exact" ? { what: "term", match: "exact", value: aim.text } : null;
}

/**
 * Puts the campaigns of kits into an account, each with one ad group that shows its items.
 * @param bidOf mills a click
 * @param ways what is kept out of campaigns of ours that would stand in the way
 */
export function launchInto(
  account: Account,
  campaigns: readonly KitCampaign[],
  bidOf: (campaign: KitCampaign, aim: KitAim) => number,
  ways: readonly ThoughtOf[] = [],
): Outcome<Draft> {
  const draft = new Draft(account);
  for (const campaign of campaigns) {
    const { name, kind, purpose, dailyBudget, items, aims, negatives } = campaign;
    if (campaignNamed(draft, name)) {
      return fail("name-taken", `There is a campaign called “${name}” already.`, "Choose another name.");
    }
    const key = freeKey(draft, "c", name);
    draft.put({
      ...{ type: "campaign", key, name, kind, purpose, bidding: "fixed", goal: null, status: "on" },
      ...{ dailyBudget, serveOrder: AIMED_FIRST, inStockOnly: true, origin: null },
    } as const);
    const adGroup = freeKey(draft, "g", key.slice(2));
    const targets = aims.map((aim) => targetOfAim(aim, adGroup, bidOf(campaign, aim)));
    const highest = Math.max(0, ...targets.map(({ bid }) => bid ?? 0));
    draft.put({ type: "adGroup", key: adGroup, campaign: key, name, status: "on", bid: highest });
    putTree(draft, adGroup, "id", items);
    for (const target of targets) draft.put(target);
    const kit = campaigns.filter((other) => other.kit === campaign.kit);
    const between = campaign.part === "discovery" ? namedInKit(kit) : [];
    const phrases = negatives.map((value) => ({ what: "term", match: "phrase", value }) as const);
    for (const one of [...phrases, ...between]) {
      const negative = { ...one, scope: key };
      const reason = one.match === "phrase" ? "off-topic" : "wasteful";
      draft.put({ type: "negative", key: negativeKey(negative), ...negative, reason, reviewOn: null });
    }
  }
  for (const way of ways) {
    const key = negativeKey(way);
    if (!draft.get(key)) draft.put({ type: "negative", key, ...way, reason: "wasteful", reviewOn: null });
  }
  return ok(draft);
}
