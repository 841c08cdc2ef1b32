import { shortKey } from "../account/keys";
import type { Account } from "../account/account";
import type { Draft } from "../account/draft";
import type { AccountRecord } from "../account/records";
import type { Ad } from "../account/records/ad";
import { negativeKey } from "../account/records/negative";
import { cellText, type Columns } from "../kit/columns";
import { addProductGroups } from "../planogram/kinds/feed";
import type { HandSet } from "../planogram/merge";
import type { Plan } from "../planogram/plan";
import { plannedFrame, type PlannedRecords } from "../planogram/planned-records";
import { targetsOf } from "../targets/aim-records";
import type { CopyPlan } from "./copy-plan";
import type { MadeKeywords } from "./keywords";
import { structureOf } from "./structure";
import { firstSellable } from "./units";
import type { CopyValues } from "./values";
import type { CopyWriter, UnitAd } from "./write-plan";

/** An ad as it goes out, without the places where it hangs. */
export type AdText = Pick<Ad, "headlines" | "descriptions" | "address" | "always" | "claims">;

/** The lines of a written ad as a record has them. @param values says what the figures in them are */
export function adText({ unit, lines }: Pick<UnitAd, "unit" | "lines">, values: CopyValues): AdText {
  const of = (list: string) => lines.filter((line) => line.list === list).map(({ text }) => text);
  const [address] = of("address");
  const always = lines.filter((line) => line.always && line.list !== "address").map(({ text }) => text);
  const fields = [...new Set(lines.flatMap(({ claims }) => claims))].sort();
  const claims = Object.fromEntries(fields.map((field) => [field, values.valueOf(unit, field)]));
  return {
    headlines: of("headlines"),
    descriptions: of("descriptions"),
    ...(address !== undefined && { address }),
    ...(always.length > 0 && { always }),
    ...(fields.length > 0 && { claims }),
  };
}

/** The key of an ad in an ad group, the same in every run. */
export function adKey(adGroup: string, design: string): string {
  return shortKey(`ad:${adGroup.slice(2)}/${design}`);
}

/**
 * The records that a copy plan stands for: campaigns, and the ad groups that have a keyword and an ad that may go out, with their
 * items, ads, keywords and negatives. An ad group without one is left out with all that hangs in it; so is a campaign that is left empty.
 * @param keywords by ad group, in the order of the writer's units
 */
export function copyRecords(
  plan: CopyPlan,
  structure: { plan: Plan; catalogue: Columns },
  writer: CopyWriter,
  values: CopyValues,
  keywords: MadeKeywords,
): PlannedRecords {
  const planogram = structureOf(plan);
  const { records, adGroups } = plannedFrame(planogram, structure.plan, structure.catalogue);
  const [keys = new Map<number, string>()] = adGroups;
  const { units, places } = writer;
  const link = structure.catalogue.columns["link"];
  const filled = new Set<string>();
  const kept = new Map<number, string>();
  for (let unit = 0; unit < units.count; unit++) {
    const node = units.node[unit]!;
    const adGroup = keys.get(node);
    if (adGroup === undefined) continue;
    const ads = places
      .map((place) => writer.adOf(unit, place))
      .filter(({ state }) => state === "whole" || state === "shorter");
    // Without a keyword nothing would ever lead to its ads.
    if (ads.length === 0 || keywords.keywords[unit]!.length === 0) {
      records.delete(adGroup);
      continue;
    }
    kept.set(node, adGroup);
    const group = records.get(adGroup);
    if (group?.type === "adGroup") filled.add(group.campaign);
    const row = firstSellable(units, unit);
    const page = link?.kind === "text" && row >= 0 ? cellText(link, row) : "";
    // An ad for several items leads to the page of the one that is shown.
    const isOne = units.start[unit + 1]! - units.start[unit]! === 1;
    for (const ad of ads) {
      const { key: design, name } = plan.ads[ad.design]!;
      const key = adKey(adGroup, design);
      const own = { ...adText(ad, values), ...(isOne && page !== "" && { link: page }) };
      records.set(key, { type: "ad", key, adGroup, name, status: "on", ...own });
    }
    const bid = group?.type === "adGroup" ? group.bid : plan.startingBid;
    for (const record of groupTargets(plan, adGroup, bid, unit, keywords)) records.set(record.key, record);
  }
  for (const record of [...records.values()]) {
    if (record.type === "campaign" && !filled.has(record.key)) records.delete(record.key);
  }
  addProductGroups(records, planogram, structure.plan, kept);
  return records;
}

function groupTargets(
  { keywords: design }: CopyPlan,
  adGroup: string,
  bid: number,
  unit: number,
  { keywords, negatives }: MadeKeywords,
): AccountRecord[] {
  const targets = design.matches.flatMap(({ match, step }) =>
    targetsOf(
      keywords[unit]!.map(({ text }) => ({ what: "keyword" as const, text, matches: [match] })),
      adGroup,
      () => (step === 0 ? null : Math.max(1, Math.round((bid * (1 + step)) / 10) * 10)),
    ),
  );
  const kept = negatives[unit]!.map((value): AccountRecord => {
    const own = { scope: adGroup, what: "term" as const, match: "exact" as const, value };
    return { type: "negative", key: negativeKey(own), ...own, reason: "off-topic", reviewOn: null };
  });
  return [...targets, ...kept];
}

/** An ad whose figures are no longer as it says. */
export interface LapsedAd {
  key: string;
  adGroup: string;
  /** By field: what it says, and what is so now ("" where nothing is). */
  figures: { field: string; said: string; now: string }[];
}

/**
 * The ads of an account whose figures changed since they were written. @param now by ad group: what a field says of it now; null
 * where its items are not known any more
 */
export function lapsedAds(account: Account, now: (adGroup: string, field: string) => string | null): LapsedAd[] {
  return account.all("ad").flatMap(({ key, adGroup, status, claims = {} }) => {
    if (status !== "on") return [];
    const figures = Object.entries(claims).flatMap(([field, said]) => {
      const is = now(adGroup, field);
      return is === null || is === said ? [] : [{ field, said, now: is }];
    });
    return figures.length === 0 ? [] : [{ key, adGroup, figures }];
  });
}

/**
 * Leaves ads whose lines somebody wrote with the figures that those lines say: a plan that is written again changes neither.
 * @param draft what writing the plan makes of the account
 * @param kept fields that stayed as people set them
 */
export function keepOwnFigures(live: Account, draft: Draft, kept: readonly HandSet[]): void {
  for (const { key, field } of kept) {
    if (field !== "headlines" && field !== "descriptions" && field !== "address") continue;
    const [was, is] = [live.find("ad", key), draft.find("ad", key)];
    if (!was || !is) continue;
    const { claims: _, ...rest } = is;
    draft.put({ ...rest, ...(was.claims && { claims: was.claims }) });
  }
}
