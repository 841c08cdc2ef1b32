import { z } from "zod";
import type { Account } from "@/core/account/account";
import type { Ad } from "@/core/account/records/ad";
import { copyOrigin } from "@/core/copy/copy-plan";
import { lapsedAds, type LapsedAd } from "@/core/copy/copy-records";
import { structureOf } from "@/core/copy/structure";
import { sameValue } from "@/core/kit/diff";
import type { Window } from "@/core/kit/days";
import { noSums, type Sums } from "@/core/kit/metrics";
import { plannedCampaigns } from "@/core/planogram/planned-campaigns";
import type { Database } from "@/db/client";
import { readAccount } from "../account/state";
import { plansBefore } from "../planogram/apply";
import { sumsByKey } from "../results/told";
import type { WorkspaceInfo } from "../workspaces";
import { copyGround } from "./ground";
import { listCopyPlans } from "./plans";

/** A text ad of the account, with what it says and what its ad group did. */
export interface AdLine extends Pick<Ad, "key" | "name" | "headlines" | "descriptions" | "status"> {
  address: string;
  link: string;
  adGroup: string;
  adGroupName: string;
  campaign: string;
  campaignName: string;
  /** Whether it runs: it was sent, and it, its ad group and its campaign are on. */
  runs: boolean;
  waiting: "new" | "changed" | null;
  /** The copy plan that wrote it, by name; null where none that is still there did. */
  plan: { key: string; name: string } | null;
  /** Whether somebody changed its lines since its plan wrote them. */
  byHand: boolean;
  /** Figures that are no longer as it says. */
  lapsed: LapsedAd["figures"];
  /** How many ads its ad group has: its figures are the ad group's. */
  beside: number;
  sums: Sums;
}

export interface RunningAds {
  version: number;
  /** Of all ads: those that run, that lapsed, and that were changed by hand. */
  counts: { all: number; running: number; lapsed: number; byHand: number };
  ads: AdLine[];
  total: number;
}

export const adsSchema = z.object({
  find: z.string().max(200).default(""),
  only: z.enum(["all", "running", "lapsed", "byHand"]).default("all"),
  limit: z.coerce.number().int().min(1).max(5000).default(1000),
});

/** All text ads of the account with the basket on it, those whose figures lapsed first. */
export async function listAds(
  db: Database,
  info: WorkspaceInfo,
  window: Window | null,
  { find, only, limit }: z.output<typeof adsSchema>,
): Promise<RunningAds> {
  const { live, planned, version } = await readAccount(db);
  const all = planned.all("ad");
  const sums = window && all.length > 0 ? await sumsByKey(db, window, "adGroup") : new Map<string, never>();
  const lapsed = new Map((await lapsedIn(db, info, planned)).map((one) => [one.key, one.figures]));
  const plans = await listCopyPlans(db);
  const nameOf = new Map(plans.map(({ key, definition }) => [copyOrigin(key), { key, name: definition.name }]));
  const wanted = new Map<string, Ad>();
  for (const { key } of plans) {
    const before = await plansBefore(db, copyOrigin(key));
    for (const records of [before.sent, before.waiting])
      for (const record of records?.values() ?? []) if (record.type === "ad") wanted.set(record.key, record);
  }
  const beside = new Map<string, number>();
  for (const { adGroup } of all) beside.set(adGroup, (beside.get(adGroup) ?? 0) + 1);
  const lines = all.map((ad): AdLine => {
    const group = planned.find("adGroup", ad.adGroup);
    const campaign = planned.find("campaign", group?.campaign ?? null);
    const was = wanted.get(ad.key);
    const sent = live.find("ad", ad.key);
    return {
      ...{ key: ad.key, name: ad.name, headlines: ad.headlines, descriptions: ad.descriptions, status: ad.status },
      ...{ address: ad.address ?? "", link: ad.link ?? "", adGroup: ad.adGroup, adGroupName: group?.name ?? "" },
      ...{ campaign: campaign?.key ?? "", campaignName: campaign?.name ?? "" },
      runs: sent?.status === "on" && ad.status === "on" && group?.status === "on" && campaign?.status === "on",
      waiting: sent === undefined ? "new" : sameValue(sent, ad) ? null : "changed",
      plan: nameOf.get(campaign?.origin ?? "") ?? null,
      byHand:
        was !== undefined && !(sameValue(was.headlines, ad.headlines) && sameValue(was.descriptions, ad.descriptions)),
      lapsed: lapsed.get(ad.key) ?? [],
      beside: beside.get(ad.adGroup)!,
      sums: sums.get(ad.adGroup)?.sums ?? noSums(),
    };
  });
  const is = {
    all: () => true,
    running: ({ runs }: AdLine) => runs,
    lapsed: (ad: AdLine) => ad.lapsed.length > 0,
    byHand: (ad: AdLine) => ad.byHand,
  };
  const words = find.toLowerCase().split(/\s+/).filter(Boolean);
  const textOf = (ad: AdLine) =>
    [ad.campaignName, ad.adGroupName, ...ad.headlines, ...ad.descriptions].join(" ").toLowerCase();
  const found = lines.filter(
    (ad) => is[only](ad) && (words.length === 0 || words.every((word) => textOf(ad).includes(word))),
  );
  found.sort((a, b) => b.lapsed.length - a.lapsed.length || b.sums.cost - a.sums.cost);
  const count = (of: (ad: AdLine) => boolean) => lines.filter(of).length;
  return {
    version,
    counts: { all: lines.length, running: count(is.running), lapsed: count(is.lapsed), byHand: count(is.byHand) },
    ads: found.slice(0, limit),
    total: found.length,
  };
}

/** The ads of an account that say figures which are no longer so, by the plans that wrote them. */
export async function lapsedIn(db: Database, info: WorkspaceInfo, account: Account): Promise<LapsedAd[]> {
  const origins = new Set(account.all("campaign").map(({ origin }) => origin));
  const tellers = new Map<string, (field: string) => string>();
  for (const { key, definition } of await listCopyPlans(db)) {
    if (!origins.has(copyOrigin(key))) continue;
    const ground = await copyGround(db, info, definition);
    if (!ground.ok) continue;
    const { structure, units, values } = ground.value;
    const unitOf = new Map(Array.from(units.node, (node, unit) => [node, unit] as const));
    for (const { adGroups } of plannedCampaigns(structureOf(definition), structure).campaigns) {
      for (const { key: adGroup, node } of adGroups) {
        const unit = unitOf.get(node);
        if (unit !== undefined) tellers.set(adGroup, (field) => values.valueOf(unit, field));
      }
    }
  }
  return lapsedAds(account, (adGroup, field) => tellers.get(adGroup)?.(field) ?? null);
}
