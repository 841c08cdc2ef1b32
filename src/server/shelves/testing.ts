import { beforeEach } from "vitest";
import { encodeRollup, encodeStore } from "@/core/results/day-columns";
import { rollUp, storeColumns } from "@/core/results/roll-up-days";
import { blankSet } from "@/core/shelves/ready-made";
import type { ShelfRule, ShelfSet } from "@/core/shelves/shelf-set";
import type { Database } from "@/db/client";
import { dayRollups } from "@/db/schema";
import { importFeed, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { keepShelf, keepShelfSchema } from "./keep";
import { viewShelfSet } from "./view";

/** The workspace of the test that runs: four items in two categories, made anew for each. */
export let workspace: { db: Database; info: WorkspaceInfo };
export let db: Database;
export const FEED =
  "id,title,price,category,availability,item_group_id\n" +
  "A,Red Hose,50,Garden,in stock,f1\nB,Rake,20,Garden,out of stock,f1\nC,Pot,10,Home,in stock,\nD,Red Pot,8,Home,in stock,\n";

/** Makes the workspace anew, with a feed in it. */
export async function freshWorkspace(feed = FEED): Promise<void> {
  workspace = await testWorkspace(3);
  db = workspace.db;
  await importFeed(workspace, feed);
}

/** Makes the workspace before each test of a file. */
export function withFreshWorkspace(): void {
  beforeEach(() => freshWorkspace());
}

/** A day with the revenue of items A to D on a cost of 10 each, and 100 clicks. */
export async function day(at: number, ...revenue: number[]): Promise<void> {
  const facts = revenue.map((amount, i) => ({
    ...{ campaign: 1, adGroup: 2, itemNo: i + 1, impressions: 1000, clicks: 100, cost: 10_000 },
    ...{ orders: amount > 0 ? 1 : 0, units: 1, revenue: amount },
  }));
  const ads = Buffer.from(encodeRollup(rollUp(facts)).buffer);
  await db.insert(dayRollups).values({ day: at, ads, store: Buffer.from(encodeStore(storeColumns([])).buffer) });
  // What a report or the market does when it has written a day.
  await db.$client.execute("UPDATE workspace SET results_version = results_version + 1");
}

export async function shelves(key: string, on?: number): Promise<string[]> {
  const view = await viewShelfSet(db, key, undefined, on);
  if (!view.ok) throw new Error(view.error.message);
  return [...view.value.shelfOf].map((place) => view.value.shelves[place]!.name);
}

export const rule = (name: string, field: string, value: string): ShelfRule => ({
  ...{ kind: "rule", key: name.toLowerCase(), name, heat: null, goal: null, note: "", lookAgain: null },
  where: { match: "all", of: [{ field, op: "is", value }] },
});
export const picks = (name: string): ShelfRule => ({
  ...{ kind: "pick", key: name.toLowerCase(), name, families: false },
  ...{ heat: null, goal: null, note: "", lookAgain: null },
});
export const set = (key: string, ...given: ShelfRule[]): ShelfSet => blankSet(key, key.toUpperCase(), 3, given);
export const keep = (asked: object) => keepShelf(db, workspace.info, keepShelfSchema.parse(asked));
