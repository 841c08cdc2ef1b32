import { sureAmong } from "../../exclusions/false-alarms";
import { groupsOfItems } from "../group-items";
import type { FaultKey, Found, Mend } from "../finding";
import type { Sums } from "../../kit/metrics";
import { wholeOf, type Material, type StockLevel, type StockLine } from "../material";
import { listOf, say, verb, type RefKind } from "../phrase";
import { isWorthTelling, lostOn, refOf, sharesOf, standsOn, sumOf } from "./lost";

interface Weak {
  fault: FaultKey;
  /** The level whose report the lines are of; null where they are made of items. */
  level: StockLevel | null;
  lines(material: Material): readonly StockLine[] | undefined;
  kind: RefKind;
  mend: Mend;
}

const results = (level: StockLevel | `field:${string}`): Mend => ({
  by: "place",
  path: `results?level=${level}`,
  words: "Open in Results",
});

/** Levels whose lines are held against their goal, the finest knowledge first. */
const WEAK: Weak[] = [
  {
    fault: "weak-campaign",
    level: "campaign",
    lines: ({ levels }) => levels.campaign,
    ...{ kind: "campaign", mend: results("campaign") },
  },
  {
    fault: "weak-match",
    level: "matchType",
    lines: ({ levels }) => levels.matchType,
    ...{ kind: "category", mend: results("matchType") },
  },
  {
    fault: "weak-kind",
    level: "campaignKind",
    lines: ({ levels }) => levels.campaignKind ?? levels.adKind,
    ...{ kind: "category", mend: results("campaignKind") },
  },
  {
    fault: "weak-aim",
    level: "aim",
    lines: ({ levels }) => levels.aim,
    ...{ kind: "category", mend: results("aim") },
  },
  {
    fault: "weak-slot",
    level: "slot",
    lines: ({ levels }) => levels.slot,
    ...{ kind: "category", mend: results("slot") },
  },
  {
    fault: "weak-hour",
    level: "hour",
    lines: ({ levels }) => levels.hour,
    ...{ kind: "category", mend: results("hour") },
  },
  {
    fault: "weak-placement-kind",
    level: "placementKind",
    lines: ({ levels }) => levels.placementKind,
    ...{ kind: "category", mend: results("placementKind") },
  },
  {
    fault: "weak-category",
    level: null,
    lines: (material) => groupsOfItems(material, "category"),
    ...{ kind: "category", mend: results("field:category1") },
  },
  {
    fault: "weak-price",
    level: null,
    lines: (material) => groupsOfItems(material, "price"),
    ...{ kind: "category", mend: results("item") },
  },
  {
    fault: "weak-age",
    level: null,
    lines: (material) => groupsOfItems(material, "age"),
    ...{ kind: "category", mend: results("item") },
  },
];

/** Below this gap between the share of spend and of sales, in points, a line is not told. */
const LEAST_GAP = 0.01;

/** Lines that are below the goal and below the whole, for sure among all that were looked at. */
export function weakLines(lines: readonly StockLine[], material: Material, total: Sums = material.total): StockLine[] {
  if (total.cost <= 0) return [];
  const whole = total.revenue / total.cost;
  // What nobody told apart is no group of its own, and the whole of a level is no line of it.
  const asked = lines.filter(({ key, chance, sums }) => key !== "" && chance !== null && sums.cost > 0);
  const sure = sureAmong(
    asked.map(({ chance }) => chance!),
    material.falseAlarms,
  );
  return asked
    .filter((line, at) => {
      if (!sure[at] || line.sure!.high >= whole) return false;
      const { spend, sales } = sharesOf([line], total);
      return spend - sales >= LEAST_GAP && isWorthTelling(lostOn(line, material)!.mean, material);
    })
    .sort((a, b) => lostOn(b, material)!.mean - lostOn(a, material)!.mean);
}

/** Lines of each level that take more than they bring. One line alone has nothing to stand beside. */
export function weakFindings(material: Material): Found[] {
  return WEAK.flatMap(({ fault, level, lines, kind, mend }): Found[] => {
    const all = lines(material);
    if (!all || all.filter(({ sums }) => sums.cost > 0).length < 2) return [];
    const whole = wholeOf(material, level);
    const weak = weakLines(all, material, whole.sums);
    if (weak.length === 0) return [];
    const about = weak.map((line) => refOf(kind, line));
    const { spend, sales } = sharesOf(weak, whole.sums);
    const roas = spend > 0 ? (sales * whole.sums.revenue) / (spend * whole.sums.cost) : 0;
    return [
      {
        ...{ key: fault, fault, about, mend },
        says: say`${listOf(about)} ${verb(about, "takes", "take")} ${{ share: spend, of: whole.spend }} and ${verb(about, "brings", "bring")} ${{ share: sales, of: whole.sales }}: ${verb(about, "it returns", "they return")} ${{ ratio: roas }} where the goal is ${{ ratio: material.goal }}.`,
        month: sumOf(weak.map((line) => lostOn(line, material)!)),
        money: "lost",
        stands: standsOn(weak),
      },
    ];
  });
}
