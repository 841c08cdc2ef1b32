import type { AccountLimits } from "@/core/channel/limits";
import type { Carries } from "@/core/dispatch/contract";
import { MARKET_CARRIES } from "@/core/market/carried";
import type { Database } from "@/db/client";
import { channelState } from "@/db/schema";

/** What the channel of a workspace can carry, by what it last said. */
export interface Carried {
  name: string;
  carries: Carries;
  /** Of it, what an account is checked against. */
  limits: AccountLimits;
}

export async function carriedBy(db: Database): Promise<Carried> {
  const [row] = await db.select().from(channelState);
  const of = (name: string, carries: Carries) => ({ name, carries, limits: { ...UNLIMITED, ...limitsIn(carries) } });
  if (row?.kind === "http") return of(row.about?.name ?? "the channel", row.about?.carries ?? {});
  if (row?.kind === "files") return of("the place the files go to", {});
  return of("the test market", MARKET_CARRIES);
}

const UNLIMITED: AccountLimits = {
  ...{ campaigns: Infinity, nameLength: Infinity, productGroupsInAdGroup: Infinity },
  ...{ lowestBid: 0, highestBid: Infinity, lowestDailyBudget: 0 },
};

function limitsIn(carries: Carries): Partial<AccountLimits> {
  const named = (Object.keys(UNLIMITED) as (keyof AccountLimits)[]).filter((key) => carries[key] !== undefined);
  return Object.fromEntries(named.map((key) => [key, carries[key]]));
}
