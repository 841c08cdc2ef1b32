import { z } from "zod";
import { checkDiff, type Check } from "@/core/account/checks";
import { countLostHomes, type HomesProof } from "@/core/account/homes";
import { budgetChange, changesInWords, describeDiff, type ChangeWords } from "@/core/account/words";
import { campaignOf } from "@/core/account/campaign-of";
import { withDependents, type Account } from "@/core/account/account";
import { estimateEffect, type Effect } from "@/core/dispatch/effect";
import { windowEnding, windowLength } from "@/core/kit/days";
import { plural } from "@/core/kit/format";
import { ok, type Outcome } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { commit } from "../account/commit";
import { walkAccount } from "../account/serving";
import { readAccount, type AccountAt } from "../account/state";
import { isBuyable } from "@/core/catalogue/field-changes";
import { cellText, type Columns } from "@/core/kit/columns";
import { namerOfItems } from "../catalogue/called";
import { rowsById } from "../catalogue/item-rows";
import { loadCatalogue } from "../catalogue/load";
import { remember } from "../read/memo";
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
  byReason: { reason: string; changes: number }[];
  /** They in words, a page of them. */
  changes: BasketChange[];
  summary: string[];
  checks: Check[];
  budget: { before: number; after: number };
  effect: Effect | null;
  /** Items by how many homes they have after sending; of those without one, how many are sold out. */
  homes: { none: number; one: number; several: number; soldOut: number };
  leaks: { group: string; items: number }[];
}

/** A change as the basket lists it. */
export interface BasketChange extends ChangeWords {
  source: string;
  who: string;
  reason: string;
  /** What the item or family that it is about is called, and its picture. */
  item: string | null;
  image: string;
  campaign: string | null;
  campaignName: string;
}

/** Which changes of the basket: those with some words, of one campaign ("" is the whole workspace), made for one reason. */
export const basketFilterSchema = z.object({
  q: z.string().max(200).default(""),
  campaign: z.string().max(600).optional(),
  reason: z.string().max(400).optional(),
  /** Also those that only hold others together. */
  all: z.stringbool().default(false),
});
export type BasketFilter = z.output<typeof basketFilterSchema>;
const EVERY: BasketFilter = { q: "", all: false };

type Told = { source: string; who: string; reason: string };
type Listed = Omit<BasketChange, "item" | "image">;
type Worked = Omit<BasketView, "changes" | "found" | "byCampaign" | "byReason"> & { changes: Listed[] };

async function workOut(db: Database, info: WorkspaceInfo): Promise<Worked> {
  const at = await readAccount(db);
  const { catalogue } = await walkAccount(db, at.planned);
  const days = await resultDays(db);
  const stamp = [at.version, at.sealedPart, catalogue.revision, await resultsVersion(db), days?.to, info.currency];
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
      checks: rows.length === 0 ? [] : [...homeless, ...checkDiff(live, diff, info.currency)],
      budget: budgetChange(live, diff),
      effect,
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

/** Warns of items that can be bought, have a home now, and would have none. */
function losesHomes(before: HomesProof, after: HomesProof, account: Account, catalogue: Columns): Check[] {
  const count = countLostHomes(before, after, account, catalogue);
  if (count === 0) return [];
  const [their, them] = count === 1 ? ["its", "it"] : ["their", "them"];
  const message = `${plural(count, "item")} that can be bought would lose ${their} home: nothing would serve ${them} any more.`;
  return [{ code: "homes-lost", grave: false, message, keys: [] }];
}

/** Changes with why, by whom, and of which campaign. */
function listed({ live, planned, rows }: AccountAt, words: ChangeWords[]): Listed[] {
  // Most rows of a large basket only hold others together and are not listed.
  const wanted = new Set(words.map(({ key }) => key));
  const told = new Map<string, Told>();
  for (const { key, source, who, reason } of rows) if (wanted.has(key)) told.set(key, { source, who, reason });
  const get = (key: string) => planned.get(key) ?? live.get(key);
  const nobody: Told = { source: "", who: "", reason: "" };
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
async function listedChanges(db: Database, info: WorkspaceInfo, all: boolean): Promise<Listed[]> {
  const { changes } = await workOut(db, info);
  if (!all) return changes;
  const at = await readAccount(db);
  const stamp = [at.version, at.sealedPart, info.currency];
  const scaffold = await remember(db, "basket scaffold", stamp, () =>
    listed(at, changesInWords(at.live, at.basket, info.currency, "scaffold")),
  );
  return [...changes, ...scaffold];
}

function matchesFilter({ q, campaign, reason }: BasketFilter): (change: Listed) => boolean {
  const words = q.toLowerCase().split(/\s+/).filter(Boolean);
  return (change) => {
    if (campaign !== undefined && (change.campaign ?? "") !== campaign) return false;
    if (reason !== undefined && change.reason !== reason) return false;
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
  const items = await itemsOf(
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
    byReason: countBy(
      every,
      ({ reason }) => reason,
      (reason, _first, changes) => ({ reason, changes }),
    ),
    changes: page.map((change) => ({ ...change, ...(items.get(change.key) ?? { item: null, image: "" }) })),
  };
}

/** What the items that records are about are called, with a picture, by the records' keys: an ID or a family's code says nothing to people. */
async function itemsOf(db: Database, keys: string[]): Promise<Map<string, Pick<BasketChange, "item" | "image">>> {
  const { live, planned } = await readAccount(db);
  const about = (key: string): { by: "id" | "family"; value: string } | null => {
    const record = planned.get(key) ?? live.get(key);
    if (record?.type === "exclusion") return { by: "id", value: record.item };
    if (record?.type !== "productGroup" || record.parent === null || !record.value) return null;
    const split = planned.get(record.parent) ?? live.get(record.parent);
    const by = split?.type === "productGroup" ? split.by : null;
    return by === "id" || by === "family" ? { by, value: record.value } : null;
  };
  const asked = keys.flatMap((key) => {
    const one = about(key);
    return one ? [{ key, ...one }] : [];
  });
  if (asked.length === 0) return new Map();
  const byId = await rowsById(db);
  const families = await rowsOfFamilies(
    db,
    new Set(asked.flatMap(({ by, value }) => (by === "family" ? [value] : []))),
  );
  const { image } = (await loadCatalogue(db, ["image"])).columns;
  const called = await namerOfItems(db);
  const items = new Map<string, Pick<BasketChange, "item" | "image">>();
  for (const { key, by, value } of asked) {
    const row = byId.get(value);
    const rows = by === "family" ? (families.get(value) ?? []) : row === undefined ? [] : [row];
    const [first] = rows;
    const name = called(rows);
    if (first !== undefined && name !== "") items.set(key, { item: name, image: image ? cellText(image, first) : "" });
  }
  return items;
}

/** The rows of some families, by family. */
async function rowsOfFamilies(db: Database, families: ReadonlySet<string>): Promise<Map<string, number[]>> {
  const found = new Map([...families].map((family) => [family, [] as number[]]));
  if (found.size === 0) return found;
  const { columns, length } = await loadCatalogue(db, ["family"]);
  for (let row = 0; columns["family"] && row < length; row++) found.get(cellText(columns["family"], row))?.push(row);
  return found;
}

export const basketRemoveSchema = z.object({
  /** Keys to take out, "all", or all that a filter finds. */
  keys: z.union([
    z.literal("all"),
    z.array(z.string()).min(1).max(10_000),
    basketFilterSchema.extend({ all: z.boolean().default(false) }),
  ]),
});

/**
 * Takes changes out of the basket again; nothing was sent, so nothing else happens. A new campaign or group takes all
 * that is new below it along, since that could not stand alone. What is on its way stays.
 */
export async function removeFromBasket(
  db: Database,
  info: WorkspaceInfo,
  who: string,
  { keys: asked }: z.output<typeof basketRemoveSchema>,
): Promise<Outcome<{ removed: number }>> {
  const keys =
    typeof asked === "string" || Array.isArray(asked)
      ? asked
      : (await listedChanges(db, info, asked.all)).filter(matchesFilter(asked)).map(({ key }) => key);
  return commit(db, who, null, ({ rows, held, sealedPart }) => {
    const open = new Set(rows.flatMap(({ key, part }) => (part > sealedPart ? [key] : [])));
    const wanted = keys === "all" ? open : withDependents(keys, Object.values(held.added));
    const out = [...wanted].filter((key) => open.has(key));
    return ok({
      out,
      told: { what: `${plural(out.length, "change")} taken out of the basket`, place: "dispatch" },
      value: { removed: out.length },
    });
  });
}
