import { type Window } from "@/core/kit/days";
import { noSums, type Sums } from "@/core/kit/metrics";
import type { Group } from "@/core/results/cube";
import type { Account } from "@/core/account/account";
import { TARGET_TYPES, type AccountRecord } from "@/core/account/records";
import type { Level } from "@/core/results/levels";
import { toldNothing } from "@/core/results/told";
import type { Database } from "@/db/client";
import { liveAccount } from "../../account/state";
import { type Divided } from "./divide";
import { type LevelCodes } from "./level-codes";
import { windowTotal } from "./till";
import { type SliceQuery } from "./slice-query";

/** The records whose lines are shown even without a result. */
const IDLE: Partial<Record<Level, readonly ("campaign" | "adGroup" | (typeof TARGET_TYPES)[number])[]>> = {
  campaign: ["campaign"],
  adGroup: ["adGroup"],
  target: TARGET_TYPES,
};

/** Whether a record hangs in a campaign or ad group; of other levels it is not known without results. */
function liesIn(account: Account, record: AccountRecord, level: Level, key: string): boolean {
  const adGroup = record.type === "adGroup" ? record : "adGroup" in record ? account.get(record.adGroup) : undefined;
  if (level === "adGroup") return adGroup?.key === key;
  if (level !== "campaign") return false;
  return record.type === "campaign" ? record.key === key : adGroup?.type === "adGroup" && adGroup.campaign === key;
}

/** What runs and had no result is shown too: nothing at all is a result. */
export async function idleGroups(db: Database, query: SliceQuery, level: LevelCodes, now: Divided): Promise<Group[]> {
  const types = IDLE[query.level];
  if (!types || query.split !== "") return [];
  const account = await liveAccount(db);
  const idle: Group[] = [];
  for (const record of types.flatMap((type) => account.all(type))) {
    if (record.status !== "on" || !query.within.every(({ level: of, key }) => liesIn(account, record, of, key)))
      continue;
    const code = level.codeOfKey(record.key);
    if (code < 0 || now.find(code, 0) === null)
      idle.push({ key: level.codeFor!(record.key), split: 0, sums: noSums(), told: toldNothing() });
  }
  return idle;
}

/** The shop's sales of a window, beside ad results that are not divided by items. */
export async function addStoreTotal(db: Database, total: Sums, window: Window): Promise<void> {
  const { storeOrders, storeRevenue } = await windowTotal(db, window);
  Object.assign(total, { storeOrders, storeRevenue });
}
