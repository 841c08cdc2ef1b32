import { campaignOf } from "@/core/account/campaign-of";
import type { AccountRecord } from "@/core/account/records";
import type { Window } from "@/core/kit/days";
import { formatDay, windowBefore } from "@/core/kit/days";
import { groupCube } from "@/core/results/cube";
import type { Database } from "@/db/client";
import { readAccount } from "../account/state";
import { loadCube } from "../results/cubes";
import { loadCodes, resultDays } from "../results/load";

/** What a span brought; orders and sales with those that are still to come. Money in mills. */
export interface SpanResult {
  from: string;
  to: string;
  cost: number;
  orders: number;
  revenue: number;
}

/** The weeks before and after a dispatch: of the campaigns it touched, and of everything, since all changes with the season. */
export interface DispatchEffect {
  days: number;
  /** How many campaigns it touched; null where it holds in all. */
  campaigns: number | null;
  touched: { before: SpanResult; after: SpanResult };
  all: { before: SpanResult; after: SpanResult };
}

/** Kinds of records that hold in every campaign where they name none. */
const WORKSPACE_WIDE = new Set<AccountRecord["type"]>(["exclusion", "negative", "dayCap", "labels"]);

/** Days on each side. */
const WEEKS = 14;

/** What came before and after a dispatch took effect, in as many days on both sides as are known of the later one. */
export async function effectOfDispatch(
  db: Database,
  fromDay: number,
  changes: { before: AccountRecord | null; after: AccountRecord | null }[],
): Promise<DispatchEffect | null> {
  const span = await resultDays(db);
  if (!span || span.to < fromDay) return null;
  const days = Math.min(WEEKS, span.to - fromDay + 1, fromDay - span.from);
  if (days < 1) return null;
  const { live } = await readAccount(db);
  const own = new Map(
    changes.flatMap(({ before, after }) => [before, after].flatMap((r) => (r ? [[r.key, r] as const] : []))),
  );
  const get = (key: string) => live.get(key) ?? own.get(key);
  const records = [...own.values()];
  // What holds in the whole workspace, an exclusion everywhere or a day cap, touches every campaign that ran.
  const isEverywhere = records.some((record) => WORKSPACE_WIDE.has(record.type) && !campaignOf(record, get));
  const touched = new Set(
    isEverywhere
      ? [...live.all("campaign").map(({ key }) => key), ...own.keys()]
      : records.flatMap((record) => campaignOf(record, get)?.key ?? []),
  );
  const after = { from: fromDay, to: fromDay + days - 1 };
  const [a, b] = [await spanOf(db, windowBefore(after), touched), await spanOf(db, after, touched)];
  return {
    ...{ days, campaigns: isEverywhere ? null : touched.size },
    touched: { before: a.touched, after: b.touched },
    all: { before: a.all, after: b.all },
  };
}

async function spanOf(db: Database, window: Window, touched: ReadonlySet<string>) {
  const { ads } = await loadCube(db, "item", window, false);
  const { texts } = await loadCodes(db);
  const codes = ads.dimensions.campaign!;
  const groups = groupCube(
    ads,
    (line) => codes[line]!,
    null,
    () => true,
    true,
  );
  const sum = (list: typeof groups): SpanResult => ({
    ...{ from: formatDay(window.from), to: formatDay(window.to) },
    cost: list.reduce((total, { sums }) => total + sums.cost, 0),
    orders: list.reduce((total, { sums }) => total + sums.orders, 0),
    revenue: Math.round(list.reduce((total, { sums }) => total + sums.revenue, 0)),
  });
  return { all: sum(groups), touched: sum(groups.filter(({ key }) => touched.has(texts.get(key) ?? ""))) };
}
