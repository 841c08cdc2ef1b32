import { plural } from "../../kit/format";
import type { Found } from "../finding";
import type { Material } from "../material";
import { listOf, say, verb } from "../phrase";
import { refOf, standsOn } from "./lost";

/** A campaign whose money is gone on this share of the days runs dry; and is good where its return reaches the goal with this chance. */
const OFTEN = 0.3;
const GOOD = 0.8;

/** Good campaigns that run out of money, where no proposal says so already. */
export function dryWinners(material: Material): Found[] {
  const { levels, purseDays, goal } = material;
  if (purseDays <= 0 || material.moves?.some(({ proposer }) => proposer === "dry")) return [];
  const dry = (levels.campaign ?? [])
    .filter(({ dryDays, chance }) => (dryDays ?? 0) >= OFTEN * purseDays && (chance ?? 0) >= GOOD)
    .sort((a, b) => b.sums.cost - a.sums.cost);
  if (dry.length === 0) return [];
  const about = dry.map((line) => refOf("campaign", line));
  const [first] = dry;
  const at =
    first!.dryHour === null || first!.dryHour === undefined ? "" : `, usually by ${Math.floor(first!.dryHour)}:00`;
  return [
    {
      ...{ key: "dry", fault: "dry" as const, about },
      says: say`${listOf(about)} ${verb(about, "reaches", "reach")} the goal of ${{ ratio: goal }} and ${verb(about, "runs", "run")} out of money: ${{ ref: about[0]! }} on ${plural(first!.dryDays ?? 0, "day")} of the last ${String(purseDays)}${at}.`,
      // What more money brings is the return curve's to tell.
      ...{ month: null, money: "to gain" as const, stands: standsOn(dry) },
      mend: { by: "place", path: "budgets", words: "Open Budgets" },
    },
  ];
}
