import { isHomeKind } from "@/core/account/homes";
import { usualNames } from "@/core/planogram/names";
import type { Planogram } from "@/core/planogram/planogram";
import type { AccountLine } from "@/server/planogram/workbench";
import type { FieldInfo } from "@/server/catalogue/field-list";
import type { SplitField } from "@/server/planogram/planograms";

import { startAssets } from "./start-assets";

/** At most this many values make a field a good top split: a campaign each that can still learn. */
const GOOD_TOP_VALUES = 30;

/** The same as one asset campaign, whose orders teach all its asset groups, beside what runs. */
export function withAssetGroups(base: Planogram, fields: FieldInfo[]): Planogram {
  return {
    ...base,
    ...{ name: "Asset groups", kind: "asset", assets: startAssets(fields), ladder: base.ladder.slice(0, 1) },
    ...{ campaignLine: 0, adGroupLine: 1, ...usualNames(0, 1, base.ladder), bidding: "return", replaces: [] },
  };
}

/** Whether a planogram can take a campaign's place: it serves items wherever they fit, as planned ones do, and runs. */
export function isReplaceable({ level, status, kind }: AccountLine): boolean {
  return level === "campaign" && status === "on" && kind !== null && isHomeKind(kind);
}

/**
 * A planogram to begin with: campaigns by the top category (or the field asked for), ad groups by the next field, the
 * running campaigns' budgets in all, a bid like theirs, and what runs now paused when it is applied.
 */
export function newPlanogram(
  fields: SplitField[],
  account: AccountLine[],
  goal: number,
  taken: string[],
  by: string,
): Planogram {
  const known = (name: string) => fields.find((field) => field.by === name);
  // A level that all items share divides nothing.
  const levels = ["category1", "category2", "category3"]
    .flatMap((name) => known(name) ?? [])
    .filter((f) => f.distinct > 1);
  const top =
    known(by) ?? levels[0] ?? known("brand") ?? fields.find((f) => f.distinct <= GOOD_TOP_VALUES) ?? fields[0];
  const second = top?.by.startsWith("shelf:") ? (levels[0] ?? known("brand")) : (levels[1] ?? known("brand"));
  const running = account.filter(isReplaceable);
  const budget = running.reduce((sum, line) => sum + (line.dailyBudget ?? 0), 0);
  const bid = account.find((line) => line.level === "adGroup" && line.bid)?.bid ?? 300;
  let key = "structure";
  for (let n = 2; taken.includes(key); n++) key = `structure-${n}`;
  const ladder = [top, second?.by === top?.by ? undefined : second].flatMap((field) =>
    field ? [{ by: field.by, largest: null }] : [],
  );
  return {
    key,
    name: `By ${(top?.label ?? "item")
      .toLowerCase()
      .replace(/^shelf set: /, "")
      .replace(/,.*/, "")}`,
    ladder,
    campaignLine: Math.min(1, ladder.length),
    adGroupLine: ladder.length,
    inStockOnly: true,
    ...usualNames(Math.min(1, ladder.length), ladder.length, ladder),
    purpose: "scale",
    bidding: "fixed",
    goal,
    totalBudget: budget > 0 ? budget : 100_000,
    shareBy: account.some((line) => line.sums.cost > 0) ? "revenue" : "items",
    startingBid: bid,
    serveOrder: 3,
    keepStep: { how: "propose", most: 0 },
    replaces: running.map((line) => line.key),
  };
}
