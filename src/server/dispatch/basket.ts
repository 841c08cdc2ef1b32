import { z } from "zod";
import { CAUSE_KINDS } from "@/core/account/cause";
import { checkDiff, type Check } from "@/core/account/checks";
import { countLostHomes, type HomesProof } from "@/core/account/homes";
import { budgetChange, changesInWords, describeDiff, type ChangeWords } from "@/core/account/words";
import { campaignOf } from "@/core/account/campaign-of";
import type { Account } from "@/core/account/account";
import type { NotCarried } from "@/core/dispatch/carries";
import { estimateEffect, type Effect } from "@/core/dispatch/effect";
import { windowEnding, windowLength } from "@/core/kit/days";
import { formatCount, plural } from "@/core/kit/format";
import { groupBy } from "@/core/kit/group-by";
import type { Database } from "@/db/client";
import { walkAccount } from "../account/serving";
import { readAccount, type AccountAt } from "../account/state";
import { isBuyable } from "@/core/catalogue/field-changes";
import { cellText, type Columns } from "@/core/kit/columns";
import { loadCatalogue } from "../catalogue/load";
import { carriedBy } from "../channel/carried";
import { remember } from "../read/memo";
import { itemsCalled } from "./basket-items";
import { basketNotCarried } from "./channel-view";
import { negativesEffect, type NegativesEffect } from "./negatives-effect";
import { loadWindow, resultDays, resultsVersion } from "../results/load";
import type { WorkspaceInfo } from "../workspaces";

/** The estimate looks back this many days. */
const EFFECT_DAYS = 30;

export interface BasketView {
  /** The account's version that is shown. */
  version: number;
  /** Records that change. */
  total: number;
  /** Of them on their way at this moment. */
  sending: number;
  /** Changes worth reading: without the nodes that only hold a tree together. */
  readable: number;
  /** Of those that are shown, how many a filter finds, by campaign and by why they were made. */
  found: number;
  byCampaign: { key: string; name: string; changes: number }[];
  byCause: { cause: number; reason: string; changes: number }[];
  /** They in words, a page of them. */
  changes: BasketChange[];
  summary: string[];
  checks: Check[];
  budget: { before: number; after: number };
  effect: Effect | null;
  /** What its new negatives would have stopped. */
  negatives: NegativesEffect;
  /** Items by how many homes they have after sending; of those without one, how many are sold out. */
  homes: { none: number; one: number; several: number; soldOut: number };
  leaks: { group: string; items: number }[];
}

/** A change as the basket lists it. */
export interface BasketChange extends ChangeWords {
  /** What stands for where it comes from and why, where that comes from, and why in words. */
  cause: number;
  from: string;
  who: string;
  reason: string;
  /** Why the channel did not take it when it was sent; empty for what was not. */
  refused: string;
  /** What the item or family that it is about is called, and its picture. */
  item: string | null;
  image: string;
  campaign: string | null;
  campaignName: string;
}

/** Which changes of the basket: those with some words, of one campaign ("" is the whole workspace), of one cause. */
export const basketFilterSchema = z.object({
  q: z.string().max(200).default(""),
  campaign: z.string().max(600).optional(),
  cause: z.coerce.number().int().optional(),
  /** Also those that only hold others together. */
  all: z.stringbool().default(false),
});
export type BasketFilter = z.output<typeof basketFilterSchema>;
const EVERY: BasketFilter = { q: "", all: false };

type Told = Pick<BasketChange, "cause" | "from" | "who" | "reason" | "refused">;
type Listed = Omit<BasketChange, "item" | "image">;
type Worked = Omit<BasketView, "changes" | "found" | "byCampaign" | "byCause"> & { changes: Listed[] };

async function workOut(db: Database, info: WorkspaceInfo): Promise<Worked> {
  const at = await readAccount(db);
  const { catalogue } = await walkAccount(db, at.planned);
  const days = await resultDays(db);
  const { name, carries, limits } = await carriedBy(db);
  const stamp = [
    ...[at.version, at.sealedPart, catalogue.revision, await resultsVersion(db), days?.to, info.currency],
    ...[name, JSON.stringify(carries)],
  ];
  return remember(db, "basket in words", stamp, async () => {
    const { live, planned, rows, basket: diff } = at;
    const { proof, serving } = await walkAccount(db, planned);
    let effect: Effect | null = null;
    if (days && rows.length > 0) {
      const window = windowEnding(days.to, EFFECT_DAYS);
      const results = await loadWindow(db, window);
      const before = (await walkAccount(db, live)).serving;
      effect = estimateEffect(before, serving, diff, catalogue.length, results.rows, windowLength(window));
    }
    const words = changesInWords(live, diff, info.currency);
    const homeless =
      rows.length === 0 ? [] : losesHomes((await walkAccount(db, live)).proof, proof, planned, catalogue);
    return {
      version: at.version,
      total: at.waiting,
      sending: rows.filter(({ part }) => part <= at.sealedPart).length,
      readable: words.length,
      changes: listed(at, words),
      summary: describeDiff(live, diff, info.currency),
      checks:
        rows.length === 0
          ? []
          : [
              ...homeless,
              ...(await atNoPrice(db, proof)),
              ...checkDiff(live, diff, info.currency, limits),
              ...notCarriedChecks(await basketNotCarried(db, info), name),
            ],
      budget: budgetChange(live, diff),
      effect,
      negatives: await negativesEffect(db, diff),
      homes: {
        ...{ none: proof.none, one: proof.one, several: proof.several },
        soldOut: soldOutWithoutHome(catalogue, proof.perRow),
      },
      leaks: proof.leaks.map(({ group, items }) => ({ group, items })),
    };
  });
}

/** Items that nothing serves and that nobody could buy. */
function soldOutWithoutHome({ columns, length }: Columns, perRow: Uint16Array): number {
  const { availability } = columns;
  let count = 0;
  for (let row = 0; availability && row < length; row++) {
    if (perRow[row] === 0 && !isBuyable(cellText(availability, row))) count++;
  }
  return count;
}

/** Warns of what the channel can't carry at all, and of what would arrive without some of its fields, by why. */
function notCarriedChecks(all: NotCarried[], channel: string): Check[] {
  const check = (code: string, found: NotCarried[], end: string): Check[] => {
    if (found.length === 0) return [];
    const whys = [...groupBy(found, ({ why }) => why)].sort((a, b) => b[1].length - a[1].length);
    const told = whys
      .slice(0, MOST_WHYS)
      .map(([why, of]) => (of.length === 1 ? `“${of[0]!.name}”: ${why}` : `${formatCount(of.length)}: ${why}`));
    const more = whys.length > MOST_WHYS ? `; and ${plural(whys.length - MOST_WHYS, "other reason")}` : "";
    const message = `${plural(found.length, "record")} that ${channel} ${end}. ${told.join("; ")}${more}.`;
    return [{ code, grave: false, keys: found.slice(0, MOST_KEYS).map(({ key }) => key), message }];
  };
  return [
    ...check(
      "not-carried",
      all.filter(({ isWhole, isLimit }) => isWhole && !isLimit),
      "will not take",
    ),
    ...check(
      "not-carried-whole",
      all.filter(({ isWhole }) => !isWhole),
      "will take in part",
    ),
  ];
}

/** Reasons told in a check, and records it names; the list has all. */
const MOST_WHYS = 3;
const MOST_KEYS = 50;

/** Warns of items that can be bought, have a home now, and would have none. */
function losesHomes(before: HomesProof, after: HomesProof, account: Account, catalogue: Columns): Check[] {
  const count = countLostHomes(before, after, account, catalogue);
  if (count === 0) return [];
  const [their, them] = count === 1 ? ["its", "it"] : ["their", "them"];
  const message = `${plural(count, "item")} that can be bought would lose ${their} home: nothing would serve ${them} any more.`;
  return [{ code: "homes-lost", grave: false, message, keys: [] }];
}

/** Warns of items that would be served at a price of nothing, which shoppers and channels take for a mistake. */
async function atNoPrice(db: Database, { perRow }: HomesProof): Promise<Check[]> {
  const { columns, length } = await loadCatalogue(db, ["price"]);
  const { price } = columns;
  let count = 0;
  if (price?.kind === "number")
    for (let row = 0; row < length; row++) if (perRow[row]! > 0 && price.values[row] === 0) count++;
  if (count === 0) return [];
  const message = `${plural(count, "item")} would be served at a price of 0: put the price right in the feed, or exclude ${count === 1 ? "it" : "them"}.`;
  return [{ code: "price-zero", grave: false, message, keys: [] }];
}

/** Changes with why, by whom, and of which campaign. */
function listed({ live, planned, rows }: AccountAt, words: ChangeWords[]): Listed[] {
  // Most rows of a large basket only hold others together and are not listed.
  const wanted = new Set(words.map(({ key }) => key));
  const told = new Map<string, Told>();
  for (const { key, who, cause, refused } of rows) {
    const { no, kind, reason } = cause;
    if (wanted.has(key)) told.set(key, { cause: no, from: CAUSE_KINDS[kind], who, reason, refused });
  }
  const get = (key: string) => planned.get(key) ?? live.get(key);
  const nobody: Told = { cause: 0, from: "", who: "", reason: "", refused: "" };
  return words.map((change) => {
    const record = get(change.key);
    const campaign = record && campaignOf(record, get);
    return {
      ...{ ...change, ...(told.get(change.key) ?? nobody) },
      ...{ campaign: campaign?.key ?? null, campaignName: campaign?.name ?? "" },
    };
  });
}

/** All changes that are listed: those worth reading, and on asking those that only hold others together. */
export async function listedChanges(db: Database, info: WorkspaceInfo, all: boolean): Promise<Listed[]> {
  const { changes } = await workOut(db, info);
  if (!all) return changes;
  const at = await readAccount(db);
  const stamp = [at.version, at.sealedPart, info.currency];
  const scaffold = await remember(db, "basket scaffold", stamp, () =>
    listed(at, changesInWords(at.live, at.basket, info.currency, "scaffold")),
  );
  return [...changes, ...scaffold];
}

export function matchesFilter({ q, campaign, cause }: BasketFilter): (change: Listed) => boolean {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  return (change) => {
    if (campaign !== undefined && (change.campaign ?? "") !== campaign) return false;
    if (cause !== undefined && change.cause !== cause) return false;
    if (words.length === 0) return true;
    const text = `${change.text} ${change.reason} ${change.campaignName} ${change.who}`.toLowerCase();
    return words.every((word) => text.includes(word));
  };
}

function countBy<T>(
  list: Listed[],
  keyOf: (change: Listed) => string,
  make: (key: string, first: Listed, changes: number) => T,
): T[] {
  const counts = new Map<string, { first: Listed; changes: number }>();
  for (const change of list) {
    const known = counts.get(keyOf(change));
    if (known) known.changes++;
    else counts.set(keyOf(change), { first: change, changes: 1 });
  }
  return [...counts]
    .sort((a, b) => b[1].changes - a[1].changes || (a[0] < b[0] ? -1 : 1))
    .map(([key, { first, changes }]) => make(key, first, changes));
}

/** The basket: what changes in words and numbers, what the checks say, and the proof of homes after sending. */
export async function viewBasket(
  db: Database,
  info: WorkspaceInfo,
  offset = 0,
  limit = 200,
  filter: BasketFilter = EVERY,
): Promise<BasketView> {
  const { changes: _, ...view } = await workOut(db, info);
  const every = await listedChanges(db, info, filter.all);
  const found = every.filter(matchesFilter(filter));
  const page = found.slice(offset, offset + limit);
  const items = await itemsCalled(
    db,
    page.map(({ key }) => key),
  );
  return {
    ...view,
    found: found.length,
    byCampaign: countBy(
      every,
      ({ campaign }) => campaign ?? "",
      (key, { campaignName }, changes) => ({ key, name: key === "" ? "the whole workspace" : campaignName, changes }),
    ),
    byCause: countBy(
      every,
      ({ cause }) => String(cause),
      (_key, { cause, reason }, changes) => ({ cause, reason, changes }),
    ),
    changes: page.map((change) => ({ ...change, ...(items.get(change.key) ?? { item: null, image: "" }) })),
  };
}
