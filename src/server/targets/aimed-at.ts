import type { Account } from "@/core/account/account";
import { recordName } from "@/core/account/names";
import { TARGET_TYPES, type Target } from "@/core/account/records";
import { reachInWords } from "@/core/account/records/reach";
import type { Campaign } from "@/core/account/records/campaign";
import type { RateCard } from "@/core/channel/rate-card";
import { cardOfTarget, isUnheard } from "@/core/targets/target-card";
import type { QuietReason } from "@/core/targets/quiet";
import { sameAim } from "@/core/targets/aim-records";
import { silencedKeywords } from "@/core/exclusions/replay";
import { addLine } from "@/core/results/cube";
import { noSums, type Sums } from "@/core/kit/metrics";
import type { Window } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { walkAccount, type WalkedAccount } from "../account/serving";
import { readAccount } from "../account/state";
import { placesVersion, rateBook } from "../channel/places";
import { remember } from "../read/memo";
import { loadCube } from "../results/cubes";
import { loadCodes, resultsVersion } from "../results/load";

/** A target with where it stands, its bid, and its results. Money in mills. */
export interface AimedTarget {
  key: string;
  type: Target["type"];
  name: string;
  /** Match type, automatic, or how a listing is aimed at. */
  how: string;
  campaign: string;
  campaignName: string;
  campaignKind: Campaign["kind"];
  purpose: Campaign["purpose"];
  adGroup: string;
  adGroupName: string;
  status: "on" | "paused";
  isRunning: boolean;
  waiting: "new" | "changed" | null;
  bid: number;
  hasOwnBid: boolean;
  card: RateCard | null;
  /** Items of ours that it shows. */
  items: number;
  sums: Sums;
  /** Why nothing was shown; null where something was, or nothing tells why. */
  quiet: QuietReason | null;
}

/** All that is aimed at, with results of a window; nothing is hidden for having none. */
export async function aimedTargets(
  db: Database,
  window: Window | null,
): Promise<{ version: number; targets: AimedTarget[] }> {
  const { live, planned, version, sealedPart } = await readAccount(db);
  const walked = await walkAccount(db, planned);
  const stamp = [
    version,
    sealedPart,
    walked.catalogue.revision,
    await resultsVersion(db),
    await placesVersion(db),
    window?.from,
    window?.to,
  ];
  return remember(db, "aimed targets", stamp, async () => {
    const book = await rateBook(db);
    const sums = window ? await sumsByTarget(db, window) : new Map<string, Sums>();
    const shown = new Map<string, number>();
    const homes = new Map<string, { serveOrder: number; bid: number }>();
    for (const { adGroup, rows } of walked.aimed) {
      shown.set(adGroup.key, (shown.get(adGroup.key) ?? 0) + rows.length);
      const latest = latestHome(walked, rows, homes.get(adGroup.key));
      if (latest) homes.set(adGroup.key, latest);
    }
    const targets = TARGET_TYPES.flatMap((type): readonly Target[] => planned.all(type));
    const best = highestBids(planned, targets);
    const list = targets.flatMap((target): AimedTarget[] => {
      const adGroup = planned.find("adGroup", target.adGroup);
      const campaign = planned.find("campaign", adGroup?.campaign ?? null);
      if (!adGroup || !campaign) return [];
      const sent = live.get(target.key);
      const line: AimedTarget = {
        ...{ key: target.key, type: target.type, name: nameOf(target), how: howOf(target) },
        ...{
          campaign: campaign.key,
          campaignName: campaign.name,
          campaignKind: campaign.kind,
          purpose: campaign.purpose,
        },
        ...{ adGroup: adGroup.key, adGroupName: recordName(planned, adGroup), status: target.status },
        isRunning: target.status === "on" && adGroup.status === "on" && campaign.status === "on",
        waiting: sent === undefined ? "new" : sent === target ? null : "changed",
        bid: target.bid ?? adGroup.bid,
        hasOwnBid: target.bid !== null,
        card: cardOfTarget(book, target),
        items: shown.get(adGroup.key) ?? 0,
        sums: sums.get(target.key) ?? noSums(),
        quiet: null,
      };
      return [line];
    });
    const days = window ? window.to - window.from + 1 : 1;
    for (const line of list) {
      if (line.sums.impressions > 0) continue;
      const target = planned.get(line.key) as Target;
      line.quiet =
        quietReason(planned, target, line, best, isUnheard(book, target)) ??
        (isAfterHomes(planned, line, homes.get(line.adGroup)) ? "homes" : takenInside(planned, line, list, days));
    }
    return { version, targets: list.sort((a, b) => b.sums.cost - a.sums.cost || (a.name < b.name ? -1 : 1)) };
  });
}

function nameOf(target: Target): string {
  if (target.type === "keyword") return target.text;
  if (target.type === "reach") return reachInWords(target.kind);
  return target.aim.by === "listing" ? target.aim.listing : `listings of ${target.aim.category}`;
}

function howOf(target: Target): string {
  if (target.type === "keyword") return target.match;
  if (target.type === "reach") return "automatic";
  return target.aim.by === "listing" ? "one listing" : "category window";
}

/** The highest bid of running targets that aim at the same. */
function highestBids(account: Account, targets: readonly Target[]): Map<string, number> {
  const best = new Map<string, number>();
  for (const target of targets) {
    const adGroup = account.find("adGroup", target.adGroup);
    const campaign = account.find("campaign", adGroup?.campaign ?? null);
    if (target.status !== "on" || adGroup?.status !== "on" || campaign?.status !== "on") continue;
    best.set(sameAim(target), Math.max(best.get(sameAim(target)) ?? 0, target.bid ?? adGroup.bid));
  }
  return best;
}

function quietReason(
  account: Account,
  target: Target,
  line: AimedTarget,
  best: Map<string, number>,
  nobodyThere: boolean | null,
): QuietReason | null {
  if (target.status !== "on") return "paused";
  if (!line.isRunning) return "campaign-off";
  if (line.waiting === "new") return "waiting";
  if (line.items === 0) return "no-items";
  const negatives = account
    .all("negative")
    .filter(({ scope }) => scope === null || scope === line.campaign || scope === line.adGroup);
  if (target.type === "keyword" && silencedKeywords(negatives, [target], () => line.campaign).length > 0)
    return "silenced";
  if (negatives.some(({ what, value }) => what === "listing" && value === line.name)) return "silenced";
  if (nobodyThere) return "no-traffic";
  if (line.card?.low && line.bid < line.card.low) return "bid-low";
  if ((best.get(sameAim(target)) ?? 0) > line.bid) return "elsewhere";
  return null;
}

/** Whether others of its campaign take what a target could have: a dearer one that is shown, or all of the money. */
function takenInside(account: Account, line: AimedTarget, list: AimedTarget[], days: number): QuietReason | null {
  const beside = list.filter(({ campaign, key }) => campaign === line.campaign && key !== line.key);
  if (beside.some(({ bid, sums }) => bid > line.bid && sums.impressions > 0)) return "inside";
  const spent = beside.reduce((sum, { sums }) => sum + sums.cost, 0);
  const budget = account.find("campaign", line.campaign)?.dailyBudget ?? 0;
  return spent >= NEARLY_ALL * budget * days && spent > 0 ? "out-of-budget" : null;
}

/** A campaign that spends this share of its budget is taken to have none left. */
const NEARLY_ALL = 0.9;

/** Of the homes of some rows the one that serves last; null where one of them has no home. */
function latestHome(
  { serving, first }: WalkedAccount,
  rows: Uint32Array,
  known: { serveOrder: number; bid: number } = { serveOrder: 0, bid: Infinity },
): { serveOrder: number; bid: number } | null {
  let latest = known;
  for (const row of rows) {
    const home = serving[first[row]!];
    if (!home) return null;
    const { serveOrder } = home.campaign;
    if (serveOrder > latest.serveOrder || (serveOrder === latest.serveOrder && home.bid < latest.bid)) {
      latest = { serveOrder, bid: home.bid };
    }
  }
  return latest;
}

/** Whether every home of a target's items comes before it. */
function isAfterHomes(
  account: Account,
  line: AimedTarget,
  home: { serveOrder: number; bid: number } | undefined,
): boolean {
  const own = account.find("campaign", line.campaign)?.serveOrder ?? 0;
  return home !== undefined && (home.serveOrder < own || (home.serveOrder === own && home.bid > line.bid));
}

/** Results of a window by the key of a target. */
async function sumsByTarget(db: Database, window: Window): Promise<Map<string, Sums>> {
  const { ads } = await loadCube(db, "term", window, false);
  const { texts } = await loadCodes(db);
  const codes = ads.dimensions.target!;
  const sums = new Map<string, Sums>();
  for (let line = 0; line < ads.length; line++) {
    const key = texts.get(codes[line]!) ?? "";
    let one = sums.get(key);
    if (!one) sums.set(key, (one = noSums()));
    addLine(one, ads, line, false);
  }
  return sums;
}
