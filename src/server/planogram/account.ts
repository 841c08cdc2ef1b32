import { linesEvidence } from "@/core/results/line-evidence";
import type { Heat } from "@/core/shelves/evidence";
import { isHomeKind } from "@/core/planogram/homes";
import { z } from "zod";
import { diffRecords, invertDiff, type Diff } from "@/core/kit/diff";
import { formatMoney } from "@/core/kit/money";
import { noSums, type Sums } from "@/core/kit/metrics";
import type { Window } from "@/core/kit/days";
import { fail, ok, type Outcome } from "@/core/kit/outcome";
import { excludeItem, exclusionKey, setItemBid } from "@/core/planogram/change";
import {
  recordSchema,
  recordsOf,
  type Campaign,
  type Structure,
  type StructureRecord,
} from "@/core/planogram/structure";
import { groupPath } from "@/core/dispatch/export";
import type { Database } from "@/db/client";
import { homesOfItem } from "../catalogue/item-detail";
import { addToBasket, liveStructure, plannedStructure } from "../dispatch/structure";
import { sumsByKey } from "../results/load";
import { walkStructure } from "./serving";

/** A line of the workbench: a campaign, ad group or product group of the account with the basket on it. */
export interface AccountLine {
  key: string;
  level: "campaign" | "adGroup" | "productGroup";
  parent: string | null;
  name: string;
  status: "on" | "paused" | "closed";
  items: number;
  /** Mills: a day for a campaign, a click for a group. */
  dailyBudget: number | null;
  bid: number | null;
  /** Of a campaign. */
  kind: Campaign["kind"] | null;
  purpose: Campaign["purpose"] | null;
  bidding: Campaign["bidding"] | null;
  serveOrder: number | null;
  leaks: number;
  /** Not sent yet. */
  waiting: "new" | "changed" | null;
  sums: Sums;
  /** How it does against the goal, pooled with its like; null without spend. */
  heat: Heat | null;
}

/** Campaigns and ad groups with items, leaks and results. */
export async function viewAccount(db: Database, window: Window | null, goal: number): Promise<AccountLine[]> {
  const live = await liveStructure(db);
  const structure = await plannedStructure(db);
  const { serving, aimed } = await walkStructure(db, structure);
  const items = new Map<string, number>();
  const leaks = new Map<string, number>();
  for (const { campaign, adGroup, rows, leak } of [...serving, ...aimed]) {
    for (const key of [campaign.key, adGroup.key]) {
      items.set(key, (items.get(key) ?? 0) + rows.length);
      if (leak && isHomeKind(campaign.kind)) leaks.set(key, (leaks.get(key) ?? 0) + 1);
    }
  }
  const campaignSums = window ? await sumsByKey(db, window, "campaign") : new Map<string, Sums>();
  const adGroupSums = window ? await sumsByKey(db, window, "adGroup") : new Map<string, Sums>();
  const waiting = (record: StructureRecord) =>
    live[record.key] === undefined ? "new" : live[record.key] === record ? null : ("changed" as const);
  const lines: AccountLine[] = [];
  for (const record of Object.values(structure)) {
    if (record.type !== "campaign" && record.type !== "adGroup") continue;
    const isCampaign = record.type === "campaign";
    lines.push({
      key: record.key,
      level: record.type,
      parent: isCampaign ? null : record.campaign,
      name: record.name,
      status: record.status,
      items: items.get(record.key) ?? 0,
      dailyBudget: isCampaign ? record.dailyBudget : null,
      bid: isCampaign ? null : record.bid,
      kind: isCampaign ? record.kind : null,
      purpose: isCampaign ? record.purpose : null,
      bidding: isCampaign ? record.bidding : null,
      serveOrder: isCampaign ? record.serveOrder : null,
      leaks: leaks.get(record.key) ?? 0,
      waiting: waiting(record),
      sums: (isCampaign ? campaignSums : adGroupSums).get(record.key) ?? noSums(),
      heat: null,
    });
  }
  for (const level of ["campaign", "adGroup"] as const) {
    const alike = lines.filter((line) => line.level === level);
    const evidence = linesEvidence(
      alike.map(({ sums }) => sums),
      goal,
    );
    for (const line of alike) line.heat = evidence.of(line.sums)?.heat ?? null;
  }
  return lines;
}

/** The product groups of one ad group, splits left out, with the items each holds. */
export async function viewProductGroups(db: Database, adGroup: string, limit = 500): Promise<AccountLine[]> {
  const live = await liveStructure(db);
  const structure = await plannedStructure(db);
  const { serving, aimed } = await walkStructure(db, structure);
  const items = new Map([...serving, ...aimed].map(({ group, rows }) => [group.key, rows.length]));
  return recordsOf(structure, "productGroup")
    .filter((group) => group.adGroup === adGroup && group.role !== "split")
    .slice(0, limit)
    .map((group) => ({
      key: group.key,
      level: "productGroup" as const,
      parent: adGroup,
      name: groupPath(structure, group),
      status: group.status,
      items: items.get(group.key) ?? 0,
      dailyBudget: null,
      bid: group.bid,
      kind: null,
      purpose: null,
      bidding: null,
      serveOrder: null,
      leaks: group.role === "remainder" && group.status === "on" ? 1 : 0,
      waiting:
        live[group.key] === undefined ? ("new" as const) : live[group.key] === group ? null : ("changed" as const),
      sums: noSums(),
      heat: null,
    }));
}

const keys = z.array(z.string()).min(1).max(10_000);
const amount = z.int().min(0).max(1_000_000_000);

/** One edit of the account by hand; it goes into the basket. Money in mills. */
export const accountEditSchema = z.discriminatedUnion("action", [
  z.object({ action: z.literal("budget"), keys, dailyBudget: amount }),
  z.object({ action: z.literal("bid"), keys, bid: amount }),
  z.object({ action: z.literal("status"), keys, status: z.enum(["on", "paused", "closed"]) }),
  z.object({ action: z.literal("serve-order"), keys, serveOrder: z.int().min(1).max(9) }),
  z.object({ action: z.literal("item-bid"), items: keys, bid: amount }),
  z.object({ action: z.literal("item-bid-change"), items: keys, percent: z.number().min(-90).max(400) }),
  z.object({
    action: z.literal("exclude"),
    items: keys,
    reason: z.enum(["unsafe", "off-topic", "wasteful", "out of stock"]),
    reviewOn: z.iso.date().nullable().default(null),
  }),
  z.object({ action: z.literal("include"), items: keys }),
]);

export type AccountEdit = z.input<typeof accountEditSchema>;

/** Puts an edit into the basket. @returns how many records change, and the change itself, so that it can be taken back */
export async function editAccount(
  db: Database,
  input: z.infer<typeof accountEditSchema>,
  currency: string,
): Promise<Outcome<{ changes: number; words: string; diff: Diff<StructureRecord> }>> {
  const structure = await plannedStructure(db);
  const edited = await applyEdit(db, structure, input);
  if (!edited.ok) return edited;
  const diff = diffRecords(structure, edited.value);
  const words = editInWords(input, currency);
  const changes = await addToBasket(db, diff, "by hand", words);
  return ok({ changes, words, diff });
}

export const editDiffSchema = z.object({
  added: z.record(z.string(), recordSchema),
  changed: z.record(z.string(), z.tuple([recordSchema, recordSchema])),
  removed: z.record(z.string(), recordSchema),
});

/** Takes an edit back that was not sent yet: its inverse goes into the basket, where the two cancel out. */
export async function takeBackEdit(db: Database, diff: Diff<StructureRecord>): Promise<number> {
  return addToBasket(db, invertDiff(diff), "by hand", "Edit taken back");
}

function editInWords(input: z.infer<typeof accountEditSchema>, currency: string): string {
  switch (input.action) {
    case "budget":
      return `Daily budget set to ${formatMoney(input.dailyBudget, currency)}`;
    case "bid":
    case "item-bid":
      return `Bid set to ${formatMoney(input.bid, currency)}`;
    case "item-bid-change":
      return `Bid changed by ${input.percent > 0 ? "+" : ""}${input.percent} %`;
    case "status":
      return input.status === "on" ? "Switched on" : input.status === "paused" ? "Paused" : "Closed";
    case "serve-order":
      return `Serve order set to ${input.serveOrder}`;
    case "exclude":
      return `Excluded: ${input.reason}`;
    case "include":
      return "No longer excluded";
  }
}

async function applyEdit(
  db: Database,
  structure: Structure,
  input: z.infer<typeof accountEditSchema>,
): Promise<Outcome<Structure>> {
  switch (input.action) {
    case "budget":
      return change(structure, input.keys, (record) =>
        record.type === "campaign" ? { ...record, dailyBudget: input.dailyBudget } : null,
      );
    case "bid":
      return change(structure, input.keys, (record) => {
        if (record.type === "adGroup") return { ...record, bid: input.bid };
        return record.type === "productGroup" && record.role !== "split" ? { ...record, bid: input.bid } : null;
      });
    case "status":
      return change(structure, input.keys, (record) => {
        if (record.type === "productGroup") return { ...record, status: input.status === "on" ? "on" : "closed" };
        if (record.type !== "campaign" && record.type !== "adGroup") return null;
        return { ...record, status: input.status === "on" ? "on" : "paused" };
      });
    case "serve-order":
      return change(structure, input.keys, (record) =>
        record.type === "campaign" ? { ...record, serveOrder: input.serveOrder } : null,
      );
    case "exclude": {
      let next = structure;
      for (const item of input.items) next = excludeItem(next, item, input.reason, input.reviewOn);
      return ok(next);
    }
    case "include": {
      const next = { ...structure };
      for (const item of input.items) delete next[exclusionKey(item, null)];
      return ok(next);
    }
    case "item-bid":
      return bidItems(db, structure, input.items, () => input.bid);
    case "item-bid-change":
      return bidItems(db, structure, input.items, (bid) => Math.max(10, Math.round(bid * (1 + input.percent / 100))));
  }
}

function change(
  structure: Structure,
  wanted: string[],
  edit: (record: StructureRecord) => StructureRecord | null,
): Outcome<Structure> {
  const next = { ...structure };
  for (const key of wanted) {
    const record = structure[key];
    if (!record) return fail("record-gone", "What you changed is no longer in the account.", "Reload and try again.");
    const edited = edit(record);
    if (!edited) return fail("edit-unfit", `That can't be set on a ${record.type}.`);
    next[key] = edited;
  }
  return ok(next);
}

/** Gives each item a bid of its own in the home that serves it first. */
async function bidItems(
  db: Database,
  structure: Structure,
  items: string[],
  bidOf: (current: number) => number,
): Promise<Outcome<Structure>> {
  let next = structure;
  let done = 0;
  for (const item of items) {
    const [home] = await homesOfItem(db, item);
    if (!home) continue;
    // Lifting one item out of a unit turns the unit into a split, so the next item of that unit is found in its rest.
    const rest = next[`${home.group}/rest`] ? `${home.group}/rest` : home.group;
    const edited = setItemBid(next, rest, item, bidOf(home.bid));
    if (!edited.ok) return edited;
    next = edited.value;
    done++;
  }
  if (done === 0) {
    return fail(
      "item-homeless",
      "None of these items is served by any group, so there is no bid to set.",
      "Plan them first.",
    );
  }
  return ok(next);
}
