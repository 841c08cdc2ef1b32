import type { Material, StockLevel, StockLine } from "./material";
import { say } from "./phrase";
import type { Cell, Table } from "./table";

/** Between these chances of reaching the goal luck still decides. */
const UNDECIDED = [0.1, 0.9] as const;
/** 80 % of a normal distribution lie within so many standard deviations on both sides. */
const WITHIN = 1.2816;
/** Longer than this nobody waits. */
const MOST_DAYS = 730;

/**
 * How many more days like those of the window tell on which side of the goal a line is: its spread falls with the root of time, so
 * it takes (spread × 1.28 ÷ |ln(return ÷ goal)|)² windows. Null where that is longer than anybody waits.
 */
export function daysUntilTold(
  { sure }: Pick<StockLine, "sure">,
  { goal, days }: Pick<Material, "goal" | "days">,
): number | null {
  if (!sure || sure.low <= 0 || sure.mean <= 0) return null;
  const spread = Math.log(sure.high / sure.low) / (2 * WITHIN);
  const away = Math.abs(Math.log(sure.mean / goal));
  const windows = ((spread * WITHIN) / away) ** 2;
  const more = Math.ceil(days * Math.max(0, windows - 1));
  return Number.isFinite(more) && more <= MOST_DAYS ? more : null;
}

const LEVELS: [StockLevel, string][] = [
  ["campaign", "campaigns"],
  ["matchType", "match types"],
  ["item", "items"],
  ["term", "terms"],
  ["placement", "placements"],
];

/** By level how much of the spend can be told, and from when on half of the rest can. */
export function thinTable(material: Material): Table | null {
  const rows = LEVELS.flatMap(([level, many]): Cell[][] => {
    const paid = (material.levels[level] ?? []).filter(({ sums }) => sums.cost > 0);
    if (paid.length === 0) return [];
    const open = paid.filter(({ chance }) => chance === null || (chance > UNDECIDED[0] && chance < UNDECIDED[1]));
    const cost = (lines: readonly StockLine[]) => lines.reduce((sum, { sums }) => sum + sums.cost, 0);
    const waits = open.map((line) => daysUntilTold(line, material) ?? Infinity).sort((a, b) => a - b);
    const half = waits[Math.floor(waits.length / 2)] ?? 0;
    const when = open.length === 0 ? "all told" : half === Infinity ? "not with this traffic" : `in ${half} days`;
    return [
      [
        { says: say`${many}` },
        ...[paid.length, open.length, cost(paid) > 0 ? cost(open) / cost(paid) : null],
        { says: [when] },
      ],
    ];
  });
  return rows.length === 0
    ? null
    : {
        columns: [
          { label: "Of", kind: "words" },
          { label: "With spend", kind: "count" },
          { label: "Not told yet", kind: "count" },
          { label: "Their share of the spend", kind: "share", of: "the spend" },
          { label: "Half of them can be told", kind: "words" },
        ],
        rows,
        rest: null,
        total: null,
      };
}
