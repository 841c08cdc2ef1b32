import { formatCount, plural } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import { REPORT_LABEL } from "@/core/results/reports/report-kinds";
import type { Slice } from "@/server/across/results/slice";
import { useWorkspace } from "../../../_lib/workspace";

/** The days compared with; where results do not reach over all of them, nothing is compared, and that is said. */
export function against({ from, to, days, known }: NonNullable<Slice["compared"]>): string {
  if (known < days) {
    return known === 0
      ? ", nothing before to compare with"
      : `, not compared: results on only ${known} of the ${days} days from ${from}`;
  }
  return `, against ${from} to ${to}`;
}

/** Says where the chart is not of what the lines are of: another report, or without what files tell of spans of days. */
export function OnNoDay({ all, days }: { all: Slice; days: Slice }) {
  const { currency } = useWorkspace();
  const rest = all.total.cost - days.total.cost;
  if (all.source !== days.source) {
    if (all.missing.length === 0) return null;
    return <p className="text-sm text-soft">The chart is of the {REPORT_LABEL[days.source].toLowerCase()}.</p>;
  }
  if (rest <= 0) return null;
  return (
    <p className="text-sm text-soft num">
      <b className="text-ink">{formatMoney(rest, currency)} of the spend</b> is known only for spans of days, from
      report files that sum over them, and stands on no day of the chart.
    </p>
  );
}

/** Says which sums over several days are left out, since they can't be added to what counts. */
export function LeftOutSums({ leftOut }: Pick<Slice, "leftOut">) {
  if (leftOut.length === 0) return null;
  return (
    <ul className="text-sm num">
      {leftOut.map(({ file, from, to, by, campaigns }) => (
        <li key={`${file}/${from}/${to}/${by ?? ""}`}>
          <b className="text-ember">▾ Not counted here:</b> what {file} tells of {from} to {to} (
          {plural(campaigns, "campaign")}),{" "}
          {by === null
            ? "since these days are known one by one."
            : `since ${by} tells of some of the same days, and both can't be added up. Take that one back to count this one.`}
        </li>
      ))}
    </ul>
  );
}

/** Says that the last days of the window will still grow. */
export function Incomplete({ slice, isCounted }: { slice: Slice; isCounted: boolean }) {
  if (slice.incompleteDays === 0 || slice.missing.includes("orders")) return null;
  const orders = formatCount(Math.round(slice.ordersToCome));
  return (
    <p className="ml-auto text-sm text-soft num">
      <b className="text-ink">
        The last {plural(slice.incompleteDays, "day")} {slice.incompleteDays === 1 ? "is" : "are"} not complete:
      </b>{" "}
      about {orders} orders are still to come{isCounted ? "; they are counted in." : "; “Late orders in” adds them."}
    </p>
  );
}
