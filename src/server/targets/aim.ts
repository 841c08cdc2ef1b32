import type { Account } from "@/core/account/account";
import { checkDiff, type Check } from "@/core/account/checks";
import { recordName } from "@/core/account/names";
import { TARGET_TYPES, type Target } from "@/core/account/records";
import type { Keyword } from "@/core/account/records/keyword";
import type { RateCard } from "@/core/channel/rate-card";
import { silencedKeywords } from "@/core/exclusions/replay";
import { composeDiffs, diffSize } from "@/core/kit/diff";
import { plural } from "@/core/kit/format";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { aimAt, sameAim, targetsOf } from "@/core/targets/aim-records";
import { cardOfTarget, isUnheard } from "@/core/targets/target-card";
import { AIMED_FIRST, aimFault, aimLabel, campaignKindOf, type Aiming } from "@/core/targets/aims";
import type { StartBid } from "@/core/targets/start-bid";
import type { Database } from "@/db/client";
import { commit } from "../account/commit";
import { readAccount } from "../account/state";
import { rowsById } from "../catalogue/item-rows";
import { carriedBy } from "../channel/carried";
import { rateBook } from "../channel/places";
import { recentPast } from "../results/past-terms";
import type { WorkspaceInfo } from "../workspaces";
import { bidStarter, placeFinder, type OwnHome } from "./start-bids";
import { walkAccount } from "../account/serving";
import { itemsAsSuggested, suggestItems, type SuggestedItem } from "./suggest-items";

/** A target as it would be made. Money in mills. */
export interface PlannedTarget {
  label: string;
  /** Match type, or "" for a page. */
  match: string;
  card: RateCard | null;
  /** Whether it is known that nobody looks there. */
  isUnheard: boolean;
  /** By which it is named in `bids` and `leftOut`. */
  id: string;
  /** The first bid that is proposed for it, with what that stands on; and a click at most as it would be made. */
  start: StartBid;
  bid: number;
  /** Where the same is aimed at already. */
  usedIn: { campaign: string; isOn: boolean }[];
  /** Whether a negative of ours keeps it from ever showing. */
  isSilenced: boolean;
}

/** What aiming at something would make, before it is in the basket. */
export interface AimingPreview {
  days: number;
  /** What can't be aimed at, and why. */
  faults: { label: string; fault: string }[];
  targets: PlannedTarget[];
  /** What the same terms or pages brought, whoever showed there; null where nothing is known. */
  past: { label: string; clicks: number; cost: number; orders: number; revenue: number; campaigns: string[] }[];
  /** What the same places cost a day of those, mills; null where nothing is known. */
  costADay: number | null;
  /** Items that fit, to choose from. */
  items: SuggestedItem[];
  /** The chosen items, as they are told in a list. */
  chosen: SuggestedItem[];
  /** Homes of ours that show the chosen items already, and whether they come before what is made here. */
  homes: (OwnHome & { isBefore: boolean })[];
}

/** Rows told of a preview; a paste may hold thousands. */
const MOST_TOLD = 200;
function purposeOf(account: Account, { place }: Aiming): string | null {
  if (place.kind === "new") return place.purpose;
  const key = place.kind === "campaign" ? place.campaign : (account.find("adGroup", place.adGroup)?.campaign ?? null);
  return account.find("campaign", key)?.purpose ?? null;
}

async function faultsOf(db: Database, account: Account, aiming: Aiming): Promise<AimingPreview["faults"]> {
  const rows = await rowsById(db);
  const purpose = purposeOf(account, aiming);
  return aiming.aims.flatMap((aim) => {
    const fault = aimFault(aim, (listing) => rows.has(listing), purpose);
    return fault ? [{ label: aimLabel(aim).slice(0, 60), fault }] : [];
  });
}

/** The rows that targets would show: of the chosen items, or of the ad group they go into. */
async function rowsShown(db: Database, account: Account, { place }: Aiming): Promise<number[]> {
  if (place.kind !== "ad-group") {
    const rows = await rowsById(db);
    return place.items.flatMap((item) => rows.get(item) ?? []);
  }
  const { aimed } = await walkAccount(db, account);
  return aimed.flatMap(({ adGroup, rows }) => (adGroup.key === place.adGroup ? [...rows] : []));
}

/** The serve order of where targets go. */
function serveOrderOf(account: Account, { place }: Aiming): number {
  if (place.kind === "new") return place.serveOrder ?? AIMED_FIRST;
  const key = place.kind === "campaign" ? place.campaign : (account.find("adGroup", place.adGroup)?.campaign ?? null);
  return account.find("campaign", key)?.serveOrder ?? AIMED_FIRST;
}

/** What aiming at something would make: first bids and what they stand on, where it is used already, what it brought so far. */
export async function previewAims(db: Database, info: WorkspaceInfo, aiming: Aiming): Promise<Outcome<AimingPreview>> {
  const { planned } = await readAccount(db);
  const starter = await bidStarter(db, info, await rowsShown(db, planned, aiming));
  const faults = await faultsOf(db, planned, aiming);
  const book = await rateBook(db);
  const campaignOf = new Map(planned.all("adGroup").map(({ key, campaign }) => [key, campaign]));
  const used = new Map<string, PlannedTarget["usedIn"]>();
  for (const target of TARGET_TYPES.flatMap((type): readonly Target[] => planned.all(type))) {
    const campaign = planned.find("campaign", campaignOf.get(target.adGroup) ?? null);
    if (!campaign) continue;
    const list = used.get(sameAim(target)) ?? [];
    used.set(sameAim(target), list);
    list.push({ campaign: campaign.name, isOn: campaign.status === "on" && target.status === "on" });
  }
  const sound = aiming.aims.filter((aim) => !faults.some(({ label }) => label === aimLabel(aim).slice(0, 60)));
  const negatives = planned.all("negative");
  const targets = sound.slice(0, MOST_TOLD).flatMap((aim) =>
    targetsOf([aim], "", () => null).map((target): PlannedTarget => {
      const match = target.type === "keyword" ? target.match : "";
      const card = cardOfTarget(book, target);
      const isSilenced =
        target.type === "keyword"
          ? silencedKeywords(
              negatives.filter(({ scope }) => scope === null),
              [target as Keyword],
              () => undefined,
            ).length > 0
          : negatives.some(({ what, value, scope }) => what === "listing" && scope === null && value === aimLabel(aim));
      const [id, start] = [sameAim(target), starter.of(target)];
      return {
        ...{ label: aimLabel(aim), match, card, id, start, bid: aiming.bids[id] ?? aiming.bid ?? start.bid },
        ...{ usedIn: used.get(sameAim(target)) ?? [], isSilenced, isUnheard: isUnheard(book, target) === true },
      };
    }),
  );
  const texts = sound.slice(0, MOST_TOLD).map(aimLabel);
  // A window stands for the pages it holds.
  const placesOf = await placeFinder(db);
  const windows = targetsOf(
    sound.filter(({ what }) => what === "window"),
    "",
    () => null,
  );
  const places = [...texts, ...windows.flatMap(placesOf)];
  const { past, days } = await pastOf(db, planned, places);
  const order = serveOrderOf(planned, aiming);
  const highest = Math.max(0, ...targets.map(({ bid }) => bid));
  return ok({
    ...{ faults, targets, past, days },
    costADay: past.length === 0 ? null : past.reduce((sum, { cost }) => sum + cost, 0) / days,
    items: await suggestItems(db, texts),
    chosen: aiming.place.kind === "ad-group" ? [] : await itemsAsSuggested(db, aiming.place.items),
    homes: starter.homes.map((home) => ({
      ...home,
      isBefore: home.serveOrder < order || (home.serveOrder === order && home.bid > highest),
    })),
  });
}

/** What terms or pages brought over the last 90 days, in all campaigns together. */
async function pastOf(db: Database, account: Account, texts: string[]): Promise<Pick<AimingPreview, "past" | "days">> {
  const recent = await recentPast(db, "term");
  if (!recent) return { past: [], days: 0 };
  const { labels, term, campaign, sums } = recent.past;
  const wanted = new Map(texts.map((text) => [text.toLowerCase(), text]));
  const found = new Map<string, AimingPreview["past"][number]>();
  for (let line = 0; line < term.length; line++) {
    const label = wanted.get(labels[term[line]!]!.toLowerCase());
    if (label === undefined) continue;
    const one = found.get(label) ?? { label, clicks: 0, cost: 0, orders: 0, revenue: 0, campaigns: [] };
    found.set(label, one);
    one.clicks += sums.clicks[line]!;
    one.cost += sums.cost[line]!;
    one.orders += sums.orders[line]!;
    one.revenue += sums.revenue[line]!;
    const record = account.get(campaign[line]!);
    const name = record ? recordName(account, record) : campaign[line]!;
    if (!one.campaigns.includes(name)) one.campaigns.push(name);
  }
  return { past: [...found.values()].sort((a, b) => b.revenue - a.revenue), days: recent.days };
}

/** Puts targets into the basket. Nothing goes in where one of them can't be. */
export async function keepAims(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  version: number | null,
  aiming: Aiming,
): Promise<Outcome<{ changes: number; checks: Check[] }>> {
  const { planned: now } = await readAccount(db);
  const [fault] = await faultsOf(db, now, aiming);
  if (fault) return fail("aim-unfit", fault.fault, "Nothing was taken in; leave that one out.");
  const rows = await rowsById(db);
  const gone = aiming.place.kind === "ad-group" ? [] : aiming.place.items.filter((item) => !rows.has(item));
  if (gone.length > 0) return fail("aim-item-gone", `The catalogue has no item “${gone[0]}”.`, "Choose another one.");
  const { limits } = await carriedBy(db);
  const starter = await bidStarter(db, info, await rowsShown(db, now, aiming));
  const bidOf = (target: Target) => aiming.bids[sameAim(target)] ?? aiming.bid ?? starter.of(target).bid;
  const what = campaignKindOf(aiming.aims[0]!) === "keyword" ? "keyword" : "listing target";
  return commit(db, who, version, ({ planned, live, held }) => {
    const draft = aimAt(planned, aiming, bidOf);
    if (!draft.ok) return draft;
    const diff = draft.value.diff();
    const checks = checkDiff(live, composeDiffs(held, diff), info.currency, limits);
    const reason = `Aimed at: ${plural(aiming.aims.length, what)}`;
    return ok({
      into: { draft: draft.value, cause: { kind: "aim", id: "" }, reason },
      told: null,
      value: { changes: diffSize(diff), checks },
    });
  });
}
