import type { Account } from "@/core/account/account";
import { ColumnReader, excludedRows } from "@/core/account/walk";
import { countLostHomes, isHomeKind } from "@/core/account/homes";
import { addProductGroups } from "@/core/planogram/kinds/feed";
import { plannedFrame } from "@/core/planogram/planned-records";
import { reachedByPlan } from "@/core/planogram/reached";
import { ok, type Outcome } from "@/core/kit/outcome";
import { replan } from "@/core/planogram/merge";
import { ancestorAt, type LeftOut } from "@/core/planogram/plan";
import type { Planogram } from "@/core/planogram/planogram";
import type { Database } from "@/db/client";
import { walkAccount, type WalkedAccount } from "../account/serving";
import { readAccount } from "../account/state";
import { plansBefore } from "./apply";
import { planFor } from "./planograms";

/** Homes of all items of the catalogue in an account. */
export interface Homes {
  none: number;
  one: number;
  several: number;
  leaks: number;
}

/** What the account would be with a planogram put into it, walked over its records. */
export interface PlanProof {
  /** The whole account with the basket, and with this plan beside that. */
  before: Homes;
  after: Homes;
  /** The whole account as it is live; null where nothing waits in the basket. */
  live: Homes | null;
  /** The items that this plan takes, by how many of its own groups serve them; and its groups that bid on what nobody named. */
  own: Homes;
  /** Items on purpose without a home in this plan, by the rule that leaves them out. */
  leftOutBy: LeftOut[];
  /** Items that can be bought, have a home now, and would have none. */
  lost: number;
  /** Whose items this plan would serve first from then on. */
  takes: { campaign: string; name: string; items: number; isPaused: boolean }[];
  /** Items of this plan that another campaign goes on to serve first. */
  servedFirstByOthers: { campaign: string; name: string; items: number }[];
  /** Mills a day: this plan's campaigns, all others that run and that it leaves running, and both. */
  money: { plan: number; others: number; total: number };
}

/** Proves a planogram on the account as it would be: the records it stands for, merged and walked like any other. */
export async function provePlanogram(db: Database, planogram: Planogram): Promise<Outcome<PlanProof>> {
  const planned = await planFor(db, planogram);
  if (!planned.ok) return planned;
  const { plan, catalogue } = planned.value;
  const { live: sent, planned: live, rows: waiting } = await readAccount(db);
  const { records, adGroups } = plannedFrame(planogram, plan, catalogue);
  // Only the trees of ad groups that are there already can hold what people did; the others are walked without being made.
  const fresh: [node: number, adGroup: string][] = [];
  for (const keys of adGroups) {
    const known = new Map([...keys].filter(([, key]) => live.has(key)));
    if (known.size > 0) addProductGroups(records, planogram, plan, known);
    fresh.push(...[...keys].filter(([, key]) => !live.has(key)));
  }
  const before = await plansBefore(db, planogram.key);
  const { draft } = replan(live, records, before, planogram.key, planogram.replaces);
  const after = draft.after();
  const rows = reachedByPlan(plan, (node) => ancestorAt(plan, node, planogram.adGroupLine));
  const toCome = fresh.flatMap(([node, adGroup]) => (rows.has(node) ? [{ adGroup, rows: rows.get(node)! }] : []));
  const [was, is] = [await walkAccount(db, live), await walkAccount(db, after, toCome)];
  // Campaigns that aim serve beside the homes; their own groups are what there is to prove.
  const groups = isHomeKind(planogram.kind ?? "feed") ? is : { ...is, serving: is.aimed };
  const own = ownHomes(groups, after, planogram.key, plan.home, adGroups.length);
  return ok({
    before: homesOf(was),
    live: waiting.length === 0 ? null : homesOf(await walkAccount(db, sent)),
    after: homesOf(is),
    own: own.homes,
    leftOutBy: own.excluded > 0 ? [...plan.leftOutBy, { rule: "excluded", items: own.excluded }] : plan.leftOutBy,
    lost: countLostHomes(was.proof, is.proof, after, is.catalogue),
    ...handOver(was, is, after, planogram.key),
    money: moneyOf(after, planogram.key),
  });
}

function homesOf({ proof: { none, one, several, leaks } }: WalkedAccount): Homes {
  return { none, one, several, leaks: leaks.length };
}

/** The items that a plan takes, by how many of its own groups serve them; those that exclusions keep out everywhere are counted apart. */
function ownHomes(
  { serving, catalogue }: WalkedAccount,
  account: Account,
  origin: string,
  home: Int32Array,
  variants: number,
): { homes: Homes; excluded: number } {
  const counts = new Uint16Array(home.length);
  let leaks = 0;
  for (const { campaign, rows, leak } of serving) {
    if (campaign.origin !== origin) continue;
    if (leak) leaks++;
    for (let i = 0; i < rows.length; i++) counts[rows[i]!]!++;
  }
  const isExcluded = excludedRows(account.all("exclusion"), new ColumnReader(catalogue));
  const homes = { none: 0, one: 0, several: 0, leaks };
  let excluded = 0;
  for (let row = 0; row < home.length; row++) {
    if (home[row]! < 0) continue;
    // Each match type or reach serves the item once.
    if (counts[row] === 0 && isExcluded("", row)) excluded++;
    else if (counts[row] === 0) homes.none++;
    else if (counts[row]! <= variants) homes.one++;
    else homes.several++;
  }
  return { homes, excluded };
}

/** Which campaigns give items away, and which go on to serve some first that the plan serves too. */
function handOver(was: WalkedAccount, is: WalkedAccount, after: Account, origin: string) {
  const takes = new Map<string, number>();
  const others = new Map<string, number>();
  const isOwn = new Uint8Array(is.catalogue.length);
  for (const { campaign, rows } of is.serving) {
    if (campaign.origin === origin) for (let i = 0; i < rows.length; i++) isOwn[rows[i]!] = 1;
  }
  const count = (into: Map<string, number>, key: string) => into.set(key, (into.get(key) ?? 0) + 1);
  for (let row = 0; row < isOwn.length; row++) {
    if (!isOwn[row]) continue;
    const now = is.serving[is.first[row]!]!.campaign;
    const before = was.serving[was.first[row]!]?.campaign;
    if (now.origin !== origin) count(others, now.key);
    else if (before && before.origin !== origin) count(takes, before.key);
  }
  const list = (counts: Map<string, number>) =>
    [...counts]
      .map(([campaign, items]) => {
        const found = after.find("campaign", campaign);
        return { campaign, name: found?.name ?? campaign, items, isPaused: found?.status !== "on" };
      })
      .sort((a, b) => b.items - a.items);
  return { takes: list(takes), servedFirstByOthers: list(others) };
}

function moneyOf(after: Account, origin: string): PlanProof["money"] {
  const money = { plan: 0, others: 0, total: 0 };
  for (const { status, origin: from, dailyBudget } of after.all("campaign")) {
    if (status !== "on") continue;
    money[from === origin ? "plan" : "others"] += dailyBudget;
    money.total += dailyBudget;
  }
  return money;
}
