import type { Account } from "@/core/account/account";
import { recordName } from "@/core/account/names";
import { TARGET_TYPES, type Target } from "@/core/account/records";
import { reachInWords } from "@/core/account/records/reach";
import type { Campaign } from "@/core/account/records/campaign";
import type { RateCard } from "@/core/channel/rate-card";
import { cardOfTarget, isUnheard } from "@/core/targets/target-card";
import { NARROW_VIEWS, type Quiet } from "@/core/targets/quiet";
import { sameAim } from "@/core/targets/aim-records";
import { silencedKeywords } from "@/core/exclusions/replay";
import { addLine } from "@/core/results/cube";
import { noSums, type Sums } from "@/core/kit/metrics";
import type { Window } from "@/core/kit/days";
import type { Database } from "@/db/client";
import { walkAccount, type WalkedAccount } from "../account/serving";
import { readAccount } from "../account/state";
import { placesVersion, rateBook } from "../channel/places";
import { loadCatalogue } from "../catalogue/load";
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
  quiet: Quiet | null;
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
    const homes = new Map<string, LatestHome>();
    const dearest = await dearestHomes(db, walked);
    const crowds = new Map<string, { bid: number; name: string }>();
    for (const { adGroup, rows } of walked.aimed) {
      shown.set(adGroup.key, (shown.get(adGroup.key) ?? 0) + rows.length);
      for (const row of rows) {
        const crowd = dearest(row);
        if (crowd && crowd.bid > (crowds.get(adGroup.key)?.bid ?? 0)) crowds.set(adGroup.key, crowd);
      }
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
        afterHomes(planned, line, homes.get(line.adGroup)) ??
        takenInside(planned, line, list, days) ??
        hardlyWon(line, crowds.get(line.adGroup));
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

/** The highest bid of running targets that aim at the same, and whose it is. */
function highestBids(account: Account, targets: readonly Target[]): Map<string, { bid: number; name: string }> {
  const best = new Map<string, { bid: number; name: string }>();
  for (const target of targets) {
    const adGroup = account.find("adGroup", target.adGroup);
    const campaign = account.find("campaign", adGroup?.campaign ?? null);
    if (target.status !== "on" || adGroup?.status !== "on" || campaign?.status !== "on") continue;
    const bid = target.bid ?? adGroup.bid;
    if (bid > (best.get(sameAim(target))?.bid ?? 0)) best.set(sameAim(target), { bid, name: campaign.name });
  }
  return best;
}

function quietReason(
  account: Account,
  target: Target,
  line: AimedTarget,
  best: Map<string, { bid: number; name: string }>,
  nobodyThere: boolean | null,
): Quiet | null {
  if (target.status !== "on") return { reason: "paused", by: "" };
  if (!line.isRunning) return { reason: "campaign-off", by: "" };
  if (line.waiting === "new") return { reason: "waiting", by: "" };
  if (line.items === 0) return { reason: "no-items", by: "" };
  const negatives = account
    .all("negative")
    .filter(({ scope }) => scope === null || scope === line.campaign || scope === line.adGroup);
  const silencing = negatives.find((negative) =>
    target.type === "keyword"
      ? silencedKeywords([negative], [target], () => line.campaign).length > 0
      : negative.what === "listing" && negative.value === line.name,
  );
  if (silencing) return { reason: "silenced", by: silencing.value };
  if (nobodyThere) return { reason: "no-traffic", by: "" };
  if (line.card?.low && line.bid < line.card.low) return { reason: "bid-low", by: "" };
  const dearer = best.get(sameAim(target));
  return dearer && dearer.bid > line.bid ? { reason: "elsewhere", by: dearer.name } : null;
}

/** Whether others of its campaign take what a target could have: a dearer one that is shown, or all of the money. */
function takenInside(account: Account, line: AimedTarget, list: AimedTarget[], days: number): Quiet | null {
  const beside = list.filter(({ campaign, key }) => campaign === line.campaign && key !== line.key);
  const dearer = beside.find(({ bid, sums }) => bid > line.bid && sums.impressions > 0);
  if (dearer) return { reason: "inside", by: dearer.name };
  const spent = beside.reduce((sum, { sums }) => sum + sums.cost, 0);
  const budget = account.find("campaign", line.campaign)?.dailyBudget ?? 0;
  return spent >= NEARLY_ALL * budget * days && spent > 0 ? { reason: "out-of-budget", by: "" } : null;
}

/** Where others are dearer, or hardly anybody looks: what is left to say where nothing else keeps a target from showing. */
function hardlyWon({ bid, card }: AimedTarget, crowd: { bid: number; name: string } | undefined): Quiet | null {
  if (card?.monthlyViews != null && card.monthlyViews < NARROW_VIEWS) return { reason: "narrow", by: "" };
  if (crowd && crowd.bid > bid) return { reason: "outranked", by: crowd.name };
  return card && bid < card.typical ? { reason: "rivals", by: "" } : null;
}

/** For each row the dearest home among the items of its category, its own included. */
async function dearestHomes(
  db: Database,
  { serving, first }: WalkedAccount,
): Promise<(row: number) => { bid: number; name: string } | null> {
  const column = (await loadCatalogue(db, ["category"])).columns["category"];
  if (column?.kind !== "text") return () => null;
  const best = new Map<number, { bid: number; name: string }>();
  for (let row = 0; row < first.length; row++) {
    const home = serving[first[row]!];
    if (!home) continue;
    const code = column.codes[row]!;
    if (home.bid > (best.get(code)?.bid ?? 0)) best.set(code, { bid: home.bid, name: home.campaign.name });
  }
  return (row) => best.get(column.codes[row]!) ?? null;
}

/** A campaign that spends this share of its budget is taken to have none left. */
const NEARLY_ALL = 0.9;

interface LatestHome {
  serveOrder: number;
  bid: number;
  name: string;
}

/** Of the homes of some rows the one that serves last; null where one of them has no home. */
function latestHome(
  { serving, first }: WalkedAccount,
  rows: Uint32Array,
  known: LatestHome = { serveOrder: 0, bid: Infinity, name: "" },
): LatestHome | null {
  let latest = known;
  for (const row of rows) {
    const home = serving[first[row]!];
    if (!home) return null;
    const { serveOrder } = home.campaign;
    if (serveOrder > latest.serveOrder || (serveOrder === latest.serveOrder && home.bid < latest.bid)) {
      latest = { serveOrder, bid: home.bid, name: home.campaign.name };
    }
  }
  return latest;
}

/** Where every home of a target's items comes before it. */
function afterHomes(account: Account, line: AimedTarget, home: LatestHome | undefined): Quiet | null {
  const own = account.find("campaign", line.campaign)?.serveOrder ?? 0;
  const isAfter = home !== undefined && (home.serveOrder < own || (home.serveOrder === own && home.bid > line.bid));
  return isAfter ? { reason: "homes", by: home.name } : null;
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
